<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import type { useChange } from '../../lib/change.svelte';
  import { house, useSets } from '../../lib/house.svelte';
  import { count } from './audit.svelte';

  // What a plan is begun from: a list that somebody wrote, two sets, a color, two editions, a day.
  interface Props {
    changing: ReturnType<typeof useChange>;
    current: Schema['ColorRow'][];
    retired: Schema['ColorRow'][];
    /** A plan to look at, with the lines that are no part of it. */
    take: (name: string, colors: Schema['PlanStep'][], wrong: Schema['PlanPair'][]) => void;
  }
  let { changing, current, retired, take }: Props = $props();
  const sets = useSets();
  let of = $state<number>();

  const propose = () =>
    changing.run(async () => {
      const c = [...retired, ...current].find((k) => k.id === of);
      if (!c || of === undefined) return;
      const list = await need(
        api.GET('/houses/{house}/plans/proposal', { params: { path: { house: house.id }, query: { color: of } } }),
      );
      if (list.length === 0) return `${c.name} never had another value`;
      take(`${c.status === 'retired' ? c.name : `${c.name} as it was`} to ${list[0]?.to}`, list, []);
    });

  let between = $state({ set: 0, from: 1 });
  const set = $derived((sets.data ?? []).find((s) => s.id === between.set));
  const proposeBetween = () =>
    changing.run(async () => {
      if (!set) return;
      const query = { set: set.id, from: between.from, to: set.current };
      const list = await need(api.GET('/houses/{house}/plans/proposal', { params: { path: { house: house.id }, query } }));
      if (list.length === 0) return `No value of ${set.name} changed between edition ${between.from} and ${set.current}`;
      take(`${set.name}, edition ${between.from} to ${set.current}`, list, []);
    });

  let day = $state('');
  const proposeSince = () =>
    changing.run(async () => {
      const query = { since: day };
      const list = await need(api.GET('/houses/{house}/plans/proposal', { params: { path: { house: house.id }, query } }));
      if (list.length === 0) return `Nothing was amended or replaced since ${day}`;
      take(`All that changed since ${day}`, list, []);
    });

  // A map of old to new that somebody wrote, or the colors of two sets by their places. What is no step is told.
  let pasted = $state('');
  let places = $state({ old: 0, now: 0 });
  let wrong = $state<Schema['PlanPair'][]>([]);
  const read = (body: { text?: string; old?: number; new?: number }, name: string) =>
    changing.run(async () => {
      const list = await need(api.POST('/houses/{house}/plans/reading', { params: { path: { house: house.id } }, body }));
      wrong = list.filter((p) => p.why !== undefined);
      const colors = list.flatMap((p) => (p.from === undefined ? [] : [{ from: p.from, to: p.to }]));
      if (colors.length > 0) take(name, colors, wrong);
      return colors.length > 0 ? `${count(colors.length, 'old value')} read` : 'No line says what becomes of what';
    });
  const named = (id: number) => (sets.data ?? []).find((s) => s.id === id)?.name ?? '';
</script>

<section aria-label="From a list">
  <h2>From a list</h2>
  <form
    class="mt-1 grid gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void read({ text: pasted }, '');
    }}
  >
    <label class="grid gap-1 text-small"
      >A line each: the old value or name, and what it becomes. Two columns of a sheet do too.
      <textarea class="textarea w-full font-mono" rows="4" placeholder="#D9482B → Buoy" required bind:value={pasted}></textarea>
    </label>
    <span><button class="btn btn-plain" disabled={changing.busy}>Read the list</button></span>
  </form>
  {#if wrong.length > 0}
    <ul class="mt-2 border-l-4 border-current pl-3 text-small" role="alert">
      {#each wrong.slice(0, 6) as p, i (i)}<li class="break-words">{p.line}: {p.text.slice(0, 60)}: {p.why}</li>{/each}
    </ul>
  {/if}
</section>
<section aria-label="From two sets" class="mt-6">
  <h2>From two sets</h2>
  <p class="mt-1 text-small">Color by color, by their places: the one that has the place now takes it.</p>
  <p class="mt-2 flex gap-2">
    <select class="select w-full" aria-label="Old set" bind:value={places.old}>
      <option value={0} disabled>old</option>
      {#each sets.data ?? [] as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
    </select>
    <select class="select w-full" aria-label="New set" bind:value={places.now}>
      <option value={0} disabled>new</option>
      {#each sets.data ?? [] as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
    </select>
    <button
      class="btn btn-plain"
      disabled={!places.old || !places.now || places.old === places.now || changing.busy}
      onclick={() => read({ old: places.old, new: places.now }, `${named(places.old)} to ${named(places.now)}`)}>Propose</button
    >
  </p>
</section>
<section aria-label="From a color" class="mt-6">
  <h2>From a color</h2>
  <p class="mt-1 text-small">All values that it had become what it is now; a retired one becomes its successor.</p>
  <p class="mt-2 flex gap-2">
    <select class="select w-full" aria-label="Color to make a plan from" bind:value={of}>
      <option value={undefined} disabled>choose a color</option>
      {#each [...retired, ...current] as c (c.id)}<option value={c.id}>{c.name}{c.status === 'retired' ? ', retired' : ''}</option
        >{/each}
    </select>
    <button class="btn btn-plain" disabled={of === undefined || changing.busy} onclick={propose}>Propose</button>
  </p>
</section>
<section aria-label="From two editions" class="mt-6">
  <h2>From two editions</h2>
  <p class="mt-1 text-small">The values that changed between an older edition of a set and the current one.</p>
  <p class="mt-2 flex gap-2">
    <select class="select w-full" aria-label="Set to make a plan from" bind:value={between.set}>
      <option value={0} disabled>choose a set</option>
      {#each (sets.data ?? []).filter((s) => s.current > 1) as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
    </select>
    <select class="select w-[9.6rem]" aria-label="Older edition" disabled={!set} bind:value={between.from}>
      {#each Array.from({ length: Math.max(1, (set?.current ?? 2) - 1) }, (_, i) => i + 1) as n (n)}<option value={n}
          >edition {n}</option
        >{/each}
    </select>
    <button class="btn btn-plain" disabled={!set || changing.busy} onclick={proposeBetween}>Propose</button>
  </p>
</section>
<section aria-label="Since a day" class="mt-6">
  <h2>Since a day</h2>
  <p class="mt-1 text-small">All that was amended or replaced in the library from that day on.</p>
  <form
    class="mt-2 flex gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void proposeSince();
    }}
  >
    <input class="input w-[10.67rem]" type="date" required aria-label="Day from which on all changes count" bind:value={day} />
    <button class="btn btn-plain" disabled={changing.busy}>Propose</button>
  </form>
</section>
