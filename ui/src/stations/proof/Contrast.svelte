<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Schema } from '../../lib/api/client';
  import { engine, newest, type Specimen } from '../../lib/engine';
  import { inAddress } from '../../lib/address.svelte';
  import { house, usePairs } from '../../lib/house.svelte';
  import type { Part } from '../../lib/subject.svelte';
  import Pair from './Pair.svelte';

  // The specimen sheet: each color as a ground, and on it, as type, those that are legible there.
  let { colors, library, head }: { colors: Part[]; library: Schema['ColorRow'][]; head: Snippet<[string, Snippet?]> } = $props();

  const needs = {
    all: { name: 'everything legible', ratio: 3 },
    body: { name: 'body text', ratio: 4.5 },
    large: { name: 'large text', ratio: 3 },
    graphics: { name: 'signs and graphics', ratio: 3 },
  };
  let need = $state<keyof typeof needs>('all');
  let open = $state<Record<number, boolean>>({}); // grounds whose illegible colors are shown

  let sheet = $state.raw<Specimen[]>([]);
  let problem = $state('');
  let of = $state.raw<Part[]>([]); // the colors that the sheet is about
  const ask = newest(
    async (parts: Part[]) => ({ parts, sheet: await engine.ask('specimen', { values: parts.map((c) => c.hex) }) }),
    (r) => ([sheet, of, problem] = [r.sheet, r.parts, '']),
    (e) => ([sheet, of, problem] = [[], [], `${e.message}.`]),
  );
  // White and black may be grounds and type as well, where a house has neither.
  let both = $state(false);
  const plain: Part[] = [
    { name: 'White', hex: '#FFFFFF' },
    { name: 'Black', hex: '#000000' },
  ];
  $effect(() => ask(both ? [...colors, ...plain.filter((p) => !colors.some((c) => c.hex === p.hex))] : colors));

  type Chosen = { type: number; ground: number };
  let picked = $state.raw<Chosen | undefined>();
  // Without a choice it is the pair that is nearest to being mended: legible as large text, not yet as body text.
  const likely = $derived.by((): Chosen | undefined => {
    let best: { type: number; ground: number; ratio: number } | undefined;
    for (const g of sheet)
      for (const t of g.on)
        if (t.ratio < 4.5 && (!best || t.ratio > best.ratio)) best = { type: t.at, ground: g.at, ratio: t.ratio };
    const first = sheet[0];
    return best ?? (first?.on[0] && { type: first.on[0].at, ground: first.at });
  });
  // An address may name the pair.
  const asked = new URLSearchParams(location.search);
  const named = $derived.by((): Chosen | undefined => {
    const [type, ground] = ['type', 'on'].map((key) => of.findIndex((c) => String(c.id) === asked.get(key)));
    return type !== undefined && ground !== undefined && type >= 0 && ground >= 0 ? { type, ground } : undefined;
  });
  const pair = $derived(picked && of[picked.type] && of[picked.ground] ? picked : (named ?? likely));
  const pairs = usePairs();
  const ruled = (type: Part, ground: Part) =>
    (pairs.data ?? []).find((p) => p.color.id === type.id && p.ground.id === ground.id && type.id !== undefined);
  const choose = (type: number, ground: number) => (picked = { type, ground });
  inAddress(
    () => house.path('proof/contrast'),
    () => ({
      show: need === 'all' ? '' : need,
      plain: both ? 'too' : '',
      type: String((picked && of[picked.type]?.id) ?? asked.get('type') ?? ''),
      on: String((picked && of[picked.ground]?.id) ?? asked.get('on') ?? ''),
    }),
    (key, value) => {
      if (key === 'show' && value in needs) need = value as typeof need;
      if (key === 'plain') both = value === 'too';
    },
  );

  const count = (low: number, high: number) =>
    sheet.reduce((n, g) => n + g.on.filter((t) => t.ratio >= low && t.ratio < high).length, 0) / 2;
  const many = (n: number) => (n === 1 ? '1 pair' : `${n} pairs`);
  const summary = $derived(
    sheet.length < 2
      ? ''
      : `${many(count(4.5, 22))} for any text, ${count(3, 4.5)} for large text and signs only, ${count(0, 3)} not legible`,
  );
</script>

{#snippet type(t: Specimen['on'][number], g: Specimen)}
  {@const c = of[t.at]!}
  {@const at = pair?.type === t.at && pair.ground === g.at}
  {@const rule = ruled(c, of[g.at]!)}
  <button class="specimen" class:at style:color={c.hex} aria-pressed={at} onclick={() => choose(t.at, g.at)}>
    {#if need === 'graphics'}
      <svg viewBox="0 0 60 26" class="h-[1.73rem] w-[4rem]" fill="none" stroke="currentColor" stroke-width="3" aria-hidden="true">
        <path d="M2 22L16 12L28 16L42 4" /><path d="M48 2h10v10h-10zM48 16h10v8h-10z" fill="currentColor" stroke="none" />
      </svg>
    {:else if need === 'body'}<span class="block text-[1rem]">{c.name}, as a line of text</span>
    {:else}<span class="block text-[1.33rem] font-bold leading-tight">{c.name}</span>{/if}
    <span class="block text-small" style:color={t.ratio >= 4.5 ? undefined : g.plain}>
      <b class="font-mono">{t.shown}</b>
      {[need === 'graphics' && c.name, t.ratio < 3 && 'not legible', rule && (rule.may ? 'ruled' : 'ruled out')]
        .filter(Boolean)
        .join(', ')}
      <span class="sr-only">{t.use}, on {of[g.at]!.name}</span>
    </span>
  </button>
{/snippet}

{#snippet filter()}
  <span class="flex flex-wrap items-center gap-x-5 gap-y-1"
    ><label class="flex items-center gap-2"
      ><input type="checkbox" class="checkbox" bind:checked={both} /> white and black too</label
    >
    <label class="flex items-center gap-2"
      >show <select class="select w-auto" bind:value={need}
        >{#each Object.entries(needs) as [key, n] (key)}<option value={key}>{n.name}</option>{/each}</select
      ></label
    ></span
  >
{/snippet}

<div class="work">
  <main class="flex min-h-0 flex-col">
    {@render head(summary, filter)}
    {#if problem}<p role="alert" class="mx-5 border-l-4 border-current pl-3">{problem}</p>{/if}
    {#if sheet.length > 0}
      <div class="grid grid-cols-[minmax(0,1fr)_7.87rem] gap-x-3 px-5 pb-1 text-small phone:grid-cols-1">
        <span class="flex items-center gap-2">
          {#if need === 'all'}<span class="w-3/5"><b>Any text</b> 4.5 and up</span><span
              ><b>Large text and signs only</b> 3.0 to 4.5</span
            >
          {:else}<span><b>Enough for {needs[need].name}</b> {needs[need].ratio.toFixed(1)} and up</span>{/if}
        </span>
        <b class="phone:sr-only">Ground</b>
      </div>
      <div class="min-h-0 flex-1 overflow-y-auto px-5 pb-5">
        {#each sheet as g (g.at)}
          {@const ground = of[g.at]!}
          {@const enough = g.on.filter((t) => t.ratio >= needs[need].ratio)}
          {@const not = g.on.filter((t) => t.ratio < needs[need].ratio)}
          <section class="ground grid grid-cols-[minmax(0,1fr)_7.87rem] gap-x-3 phone:grid-cols-1" aria-label={`On ${ground.name}`}>
            <div class="min-h-[4.93rem]" style:background={ground.hex}>
              <div class="flex">
                {#if need === 'all'}
                  <div class="flex w-3/5 flex-wrap content-start">
                    {#each enough.filter((t) => t.ratio >= 4.5) as t (t.at)}{@render type(t, g)}{/each}
                  </div>
                  <div class="flex w-2/5 flex-wrap content-start">
                    {#each enough.filter((t) => t.ratio < 4.5) as t (t.at)}{@render type(t, g)}{/each}
                  </div>
                {:else}
                  <div class="flex flex-wrap content-start">
                    {#each enough as t (t.at)}{@render type(t, g)}{/each}
                  </div>
                {/if}
              </div>
              {#if open[g.at]}
                <div class="flex flex-wrap border-t" style:border-color={g.plain}>
                  {#each not as t (t.at)}{@render type(t, g)}{/each}
                </div>
              {/if}
            </div>
            <div class="py-2 text-small phone:order-first phone:flex phone:items-baseline phone:gap-3 phone:pt-3">
              <b class="block truncate text-[1rem]" title={ground.name}>{ground.name}</b>
              <span class="font-mono">{ground.hex}</span>
              {#if not.length > 0}
                <button class="link block" aria-expanded={!!open[g.at]} onclick={() => (open[g.at] = !open[g.at])}
                  >{not.length} of {g.on.length} {need === 'all' ? 'not legible' : 'not enough'}</button
                >
              {:else}<span class="block">all {g.on.length} legible</span>{/if}
            </div>
          </section>
        {/each}
      </div>
    {/if}
  </main>
  {#if pair}<Pair type={of[pair.type]!} ground={of[pair.ground]!} {library} />
  {:else}<aside class="bg-base-200 p-5">A pair takes two colors; choose another subject.</aside>{/if}
</div>

<style>
  .specimen {
    display: block;
    max-width: 100%;
    padding: 0.53rem 0.93rem;
    text-align: left;
    outline-color: currentColor;
  }
  /* What is chosen stands between crop marks. */
  .specimen.at {
    --mark: linear-gradient(currentColor, currentColor);
    background:
      var(--mark) 0 0 / 10px 2px,
      var(--mark) 0 0 / 2px 10px,
      var(--mark) 100% 0 / 10px 2px,
      var(--mark) 100% 0 / 2px 10px,
      var(--mark) 0 100% / 10px 2px,
      var(--mark) 0 100% / 2px 10px,
      var(--mark) 100% 100% / 10px 2px,
      var(--mark) 100% 100% / 2px 10px;
    background-repeat: no-repeat;
  }
  /* A hundred grounds: what is out of sight is not laid out. */
  .ground {
    content-visibility: auto;
    contain-intrinsic-height: auto 4.93rem;
  }
</style>
