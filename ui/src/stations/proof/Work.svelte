<script lang="ts">
  import type { Snippet } from 'svelte';
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import type { Part } from '../../lib/subject.svelte';
  import { slotNames } from '../send/send';
  import WorkSheet from './WorkSheet.svelte';

  // The subject at work before anything is sent: light and dark, the worst contrast and the worst pair for weak color vision marked.
  let { of, colors, head }: { of: string; colors: Part[]; head: Snippet<[string, Snippet?]> } = $props();

  const body = $derived.by(() => {
    const set = /^set-(\d+)(?:-(\d+))?$/.exec(of);
    if (set) return { set: Number(set[1]), ...(set[2] ? { edition: Number(set[2]) } : {}) };
    return { colors: colors.map((c) => ({ id: c.id, name: c.name, hex: c.hex })) };
  });
  const work = createQuery(() => ({
    queryKey: ['sets', house.id, 'at-work', of, colors.map((c) => c.hex)],
    queryFn: () => need(api.POST('/houses/{house}/at-work', { params: { path: { house: house.id } }, body })),
    placeholderData: keepPreviousData,
  }));
  const w = $derived(work.data);
  const worst = $derived(w?.looks.find((l) => l.name === w.worst.look)?.parts.find((p) => p.key === w.worst.key));
  const failing = $derived((w?.looks ?? []).flatMap((l) => l.parts.filter((p) => !p.passes).map((p) => ({ ...p, look: l.name }))));
  const weak = $derived(w?.weak[0]);
  let pointed = $state({ look: '', key: '' });
  const at = (look: string) =>
    pointed.look ? (pointed.look === look ? pointed.key : '') : w?.worst.look === look ? w.worst.key : '';
  const all = $derived(
    (w?.looks ?? [])
      .flatMap((l) => l.parts.map((p) => ({ ...p, look: l.name })))
      .sort((a, b) => a.ratio / a.need - b.ratio / b.need),
  );
  const summary = $derived(
    !w ? '' : failing.length === 0 ? 'everything on them is legible' : `${failing.length} of ${all.length} are not legible enough`,
  );
  const cut = (ratio: number) => (Math.floor(ratio * 10) / 10).toFixed(1);
</script>

<div class="work">
  <main class="along flex min-h-0 flex-col">
    {@render head(summary)}
    {#if work.isError}<p role="alert" class="mx-5 border-l-4 border-current pl-3">{work.error.message}</p>{/if}
    {#if w}
      <div class="grid min-h-0 flex-1 grid-cols-2 gap-4 overflow-y-auto px-5 pb-5 phone:grid-cols-1 phone:px-4">
        {#each w.looks as look (look.name)}
          <section aria-label={`On a ${look.name} ground`}>
            <h2 class="pb-1">{look.name === 'light' ? 'Light' : 'Dark'}, on {look.ground.name}</h2>
            <WorkSheet {look} series={w.series} weak={weak ? [weak.a.slot, weak.b.slot] : []} at={at(look.name)} />
          </section>
        {/each}
      </div>
    {/if}
  </main>
  <aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-8 pt-4" aria-label="What reads worst">
    {#if w && worst}
      <h2>{worst.passes ? 'Nearest to its limit' : 'Reads worst'}</h2>
      <div class="mt-1 grid h-20 place-items-center text-[1.6rem] font-bold" style:background={worst.on.hex} data-specimen>
        <span style:color={worst.type.hex}>{worst.type.name}</span>
      </div>
      <p class="mt-1">
        {worst.key}, {w.worst.look}: {worst.type.name} on {worst.on.name} has
        <b class="font-mono">{cut(worst.ratio)}</b>{worst.passes ? ` and needs ${worst.need}` : `, and needs ${worst.need}`}.
      </p>
      <h2 class="mt-5">For weak color vision</h2>
      {#if weak}
        <div class="mt-1 grid h-12 grid-cols-2" aria-hidden="true">
          <span style:background={weak.a.hex}></span><span style:background={weak.b.hex}></span>
        </div>
        <ul class="mt-1">
          {#each w.weak as p (p.kind)}<li>
              With {p.kind}, {p.a.name} and {p.b.name} are <b class="font-mono">{p.deltaE.toFixed(1)}</b> apart.
            </li>{/each}
        </ul>
        <p class="text-small">
          Colors of a chart should keep 10. Their bars have a mark above.
          <a class="link" href={house.path(`proof/vision/${of}`)}>mend it</a>
        </p>
      {:else}<p>The six colors of a chart stay apart.</p>{/if}
      <h2 class="mt-5">All type, the worst first</h2>
      <ul class="text-small">
        {#each all as p (`${p.look} ${p.key}`)}
          <li>
            <button
              class="rule grid w-full grid-cols-[2.4rem_minmax(0,1fr)_auto] items-center gap-2 border-b py-1 text-left"
              aria-pressed={pointed.look === p.look && pointed.key === p.key}
              onmouseenter={() => (pointed = { look: p.look, key: p.key })}
              onmouseleave={() => (pointed = { look: '', key: '' })}
              onfocus={() => (pointed = { look: p.look, key: p.key })}
              onblur={() => (pointed = { look: '', key: '' })}
              onclick={() => (pointed = { look: p.look, key: p.key })}
            >
              <span
                class="grid h-6 place-items-center font-bold"
                data-specimen
                style:background={p.on.hex}
                style:color={p.type.hex}
                aria-hidden="true">Aa</span
              >
              <span
                ><b>{p.key}</b>, {p.look}<span class="block"
                  >{slotNames[p.type.slot] ?? p.type.slot} on {slotNames[p.on.slot] ?? p.on.slot}</span
                ></span
              >
              <span class="text-right"
                ><b class="font-mono">{cut(p.ratio)}</b><span class="block">{p.passes ? `of ${p.need}` : `needs ${p.need}`}</span
                ></span
              >
            </button>
          </li>
        {/each}
      </ul>
    {/if}
  </aside>
</div>
