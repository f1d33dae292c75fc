<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house, useLedger } from '../../lib/house.svelte';
  import { route, navigate } from '../../lib/router';
  import Bring from '../gather/Bring.svelte';

  // The ink book to be looked through: a ramp by hue and lightness, classes apart, coated and uncoated stock edge to edge.
  type Ink = Schema['BookInk'];
  const near = $derived(String(route.search.near ?? ''));
  let asked = $derived(near); // what is typed, until it is asked
  const ramp = createQuery(() => ({
    queryKey: ['ink-book', house.id, 'ramp', near],
    queryFn: () =>
      need(api.GET('/houses/{house}/ink-book/inks', { params: { path: { house: house.id }, query: { near: near || undefined } } })),
    placeholderData: (before) => before,
  }));
  const book = createQuery(() => ({
    queryKey: ['ink-book', house.id],
    queryFn: () => need(api.GET('/houses/{house}/ink-book', { params: { path: { house: house.id } } })),
  }));
  const ledger = useLedger();
  const all = $derived((ramp.data?.classes ?? []).flatMap((c) => c.sections.flatMap((s) => s.inks)));

  let only = $state(''); // a class
  const classes = $derived((ramp.data?.classes ?? []).filter((c) => !only || c.name === only));
  const meant = $derived(new Set((ramp.data?.classes ?? []).filter((c) => (only ? c.name === only : c.meant)).map((c) => c.name)));
  // The nearest of the classes that one looks at; where none is chosen, of those that the house takes inks from.
  const nearest = $derived(
    near
      ? (ramp.data?.classes ?? [])
          .filter((c) => meant.has(c.name))
          .flatMap((c) => c.sections.flatMap((s) => s.inks))
          .sort((a, b) => (a.deltaE ?? 0) - (b.deltaE ?? 0))
          .slice(0, 8)
      : [],
  );
  const close = $derived(new Set(nearest.map((k) => k.code)));

  let large = $state(false);
  let taken = $state<string[]>([]);
  const marked = $derived(taken.map((code) => all.find((k) => k.code === code)).filter((k) => k !== undefined));
  const toggle = (k: Ink) => (taken = taken.includes(k.code) ? taken.filter((c) => c !== k.code) : [...taken, k.code]);
  const colors = $derived(
    marked.map((k): Schema['NewCandidate'] => ({
      name: k.name || k.code,
      value: `${k.code} on coated`,
      origin: 'paste',
      source: `${k.code}, ${book.data?.name ?? 'ink book'}`,
    })),
  );

  let wanted = $derived(String(route.search.ink ?? ''));
  const plain = (s: string) => s.toLowerCase().replace(/[^\p{L}\d]/gu, '');
  const found = $derived.by(() => {
    const w = plain(wanted);
    if (!w) return [];
    const digits = w.replace(/\D/g, '').replace(/^0+/, '');
    const rank = (k: Ink) => {
      const code = plain(k.code);
      if (code === w) return 0;
      if (digits && digits === w.replace(/^0+/, '') && code.replace(/\D/g, '').replace(/^0+/, '') === digits) return 1;
      if (code.startsWith(w) || plain(k.name).startsWith(w)) return 2;
      return code.includes(w) || plain(k.name).includes(w) ? 3 : 9;
    };
    return all
      .map((k) => ({ k, r: rank(k) }))
      .filter((x) => x.r < 9)
      .sort((a, b) => a.r - b.r)
      .map((x) => x.k);
  });
  const patch = (code: string) => document.getElementById(`ink-${code}`);
  function jump(to = found[0]) {
    if (!to) return;
    const of = ramp.data?.classes.find((c) => c.sections.some((s) => s.inks.includes(to)));
    if (only && of && of.name !== only) only = '';
    setTimeout(() => {
      at = to.code;
      patch(to.code)?.scrollIntoView({ block: 'center' });
      patch(to.code)?.focus();
    });
  }

  // One patch is in the order of Tab; arrows go through the others.
  let at = $state('');
  const order = $derived(classes.flatMap((c) => c.sections.flatMap((s) => s.inks.map((k) => k.code))));
  function move(e: KeyboardEvent, k: Ink) {
    const i = order.indexOf(k.code);
    const here = e.currentTarget as HTMLElement;
    const wide = Math.max(1, Math.floor(((here.parentElement?.clientWidth ?? 400) + 3) / (here.offsetWidth + 3)));
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: wide, ArrowUp: -wide }[e.key];
    const to = step === undefined ? undefined : order[Math.min(order.length - 1, Math.max(0, i + step))];
    if (!to) return;
    e.preventDefault();
    at = to;
    patch(to)?.focus();
  }
  const ask = () =>
    void navigate('/h/:house/library/view/:view', {
      params: { house: String(house.id), view: 'inks' },
      search: asked.trim() ? { near: asked.trim() } : {},
    });
  const far = (k: Ink) => (k.deltaE === undefined ? '' : `${k.deltaE.toFixed(1)} ${k.word}`);
</script>

<div class="grid grid-cols-[minmax(0,1fr)_21.33rem] items-start gap-6">
  <div class="min-w-0">
    <div class="flex flex-wrap items-end gap-x-4 gap-y-2">
      <form
        onsubmit={(e) => {
          e.preventDefault();
          jump();
        }}
      >
        <label class="grid gap-1 text-small"
          >Number or name <input class="input w-[11.33rem]" placeholder="0453" bind:value={wanted} /></label
        >
      </form>
      <form
        onsubmit={(e) => {
          e.preventDefault();
          ask();
        }}
      >
        <label class="grid gap-1 text-small"
          >Nearest to <input
            class="input w-[14rem]"
            list="near-colors"
            placeholder="a color’s name, or any value"
            bind:value={asked}
            onchange={ask}
          /></label
        >
        <datalist id="near-colors"
          >{#each ledger.data?.colors ?? [] as c (c.id)}<option value={c.name}></option>{/each}</datalist
        >
      </form>
      <label class="grid gap-1 text-small"
        >Class <select class="select w-auto" bind:value={only}>
          <option value="">all {ramp.data?.classes.length ?? ''}</option>
          {#each ramp.data?.classes ?? [] as c (c.name)}<option value={c.name}>{c.name}</option>{/each}
        </select></label
      >
      <label class="flex h-8 items-center gap-2 text-small"
        ><input type="checkbox" class="checkbox" bind:checked={large} /> larger, with numbers</label
      >
    </div>
    {#if wanted.trim()}<p class="mt-2 text-small" aria-live="polite">
        {#if found.length === 0}No ink of the book has that in its number or name.{:else}{#each found.slice(0, 6) as k (k.code)}<button
              class="link mr-3"
              onclick={() => jump(k)}>{k.code} {k.name}</button
            >{/each}{found.length > 6 ? `and ${found.length - 6} more` : ''}{/if}
      </p>{/if}
    {#if ramp.error}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{ramp.error.message}</p>{/if}
    {#each classes as c (c.name)}
      <section class="mt-4">
        <h2 class="mb-1 first-letter:uppercase">
          {c.name} <span class="text-small font-normal">{c.sections.reduce((n, s) => n + s.inks.length, 0)} inks</span>
        </h2>
        {#each c.sections as s (s.name)}
          <div class="band">
            <h3 class="text-small font-normal">{s.name}</h3>
            <div class="flex flex-wrap gap-[3px]">
              {#each s.inks as k (k.code)}
                <button
                  id={`ink-${k.code}`}
                  class={['patch', { large, close: close.has(k.code), taken: taken.includes(k.code) }]}
                  tabindex={(at || order[0]) === k.code ? 0 : -1}
                  aria-pressed={taken.includes(k.code)}
                  aria-label={`${k.code} ${k.name}${k.deltaE === undefined ? '' : `, ${far(k)}`}`}
                  title={`${k.code} ${k.name}${k.deltaE === undefined ? '' : `, ${far(k)}`}`}
                  onkeydown={(e) => move(e, k)}
                  onclick={() => {
                    at = k.code;
                    toggle(k);
                  }}
                  ><span class="halves"><span style:background={k.coated}></span><span style:background={k.uncoated}></span></span
                  >{#if large}<span class="code">{k.code}</span>{/if}</button
                >
              {/each}
            </div>
          </div>
        {/each}
      </section>
    {/each}
  </div>
  <aside class="sticky top-0" aria-label="Inks that are marked">
    {#if nearest.length > 0}
      <h2>Nearest to {near}</h2>
      <table class="mb-4 mt-1 w-full border-collapse">
        <tbody
          >{#each nearest as k (k.code)}
            <tr class="rule border-b"
              ><td class="h-9 w-[4.27rem] p-0"
                ><span class="grid h-9 grid-cols-2" aria-hidden="true"
                  ><span style:background={k.coated}></span><span style:background={ramp.data?.near ?? k.coated}></span></span
                ></td
              ><td class="pl-3"><button class="link font-mono" onclick={() => jump(k)}>{k.code}</button></td><td class="text-small"
                >{far(k)}</td
              ></tr
            >
          {/each}</tbody
        >
      </table>
    {/if}
    {#if marked.length === 0}
      <h2>{book.data?.name} inks</h2>
      <p class="mt-1 text-small">
        Each patch is an ink on coated stock, and to its right on uncoated.
        {#if book.data?.oneStock}The table of this book has one value an ink, so both are the same.{/if}
        Press one to mark it; what is marked goes onto the tray, or into the library as a swatch set.
      </p>
    {:else}
      <h2>{marked.length === 1 ? '1 ink is' : `${marked.length} inks are`} marked</h2>
      <ul class="mb-3 mt-2">
        {#each marked as k (k.code)}
          <li class="rule border-b py-2">
            <span class="grid h-16 grid-cols-2" aria-hidden="true"
              ><span style:background={k.coated}></span><span style:background={k.uncoated}></span></span
            >
            <span class="mt-1 flex items-baseline gap-3"
              ><b class="font-mono">{k.code}</b><span class="min-w-0 truncate">{k.name}</span><button
                class="link ml-auto text-small"
                aria-label={`Unmark ${k.code}`}
                onclick={() => toggle(k)}>unmark</button
              ></span
            >
          </li>
        {/each}
      </ul>
      <Bring {colors} done={() => setTimeout(() => (taken = []))} />
      <p class="mt-2 text-small">Screens show an ink roughly: check it in the printed book before you rely on it.</p>
    {/if}
  </aside>
</div>

<style>
  .band {
    content-visibility: auto;
    contain-intrinsic-size: auto 5.33rem;
    display: grid;
    grid-template-columns: 4.27rem minmax(0, 1fr);
    align-items: start;
    margin-bottom: 0.4rem;
  }
  .patch {
    width: 2.27rem;
    height: 2.27rem;
    padding: 0;
    position: relative;
  }
  .patch.large {
    width: 5.33rem;
    height: 4.93rem;
  }
  .halves {
    display: grid;
    grid-template-columns: 3fr 2fr;
    width: 100%;
    height: 100%;
  }
  .large .halves {
    height: 3.47rem;
  }
  .code {
    display: block;
    height: 1.47rem;
    font-family: var(--font-mono);
    font-size: 0.8rem;
  }
  .patch.close::after,
  .patch.taken::after {
    content: '';
    position: absolute;
    inset: 3px;
    border: 2px solid #000;
    outline: 2px solid #fff;
  }
  .patch.taken::after {
    inset: 0;
    border-width: 4px;
  }
  .patch.close:not(.taken)::after {
    border-style: dotted;
  }
  .patch:focus-visible {
    z-index: 1;
  }
</style>
