<script lang="ts">
  import { rem } from '../../lib/rem.svelte';
  import { createInfiniteQuery, createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import Views from './Views.svelte';

  // Who changed what in the house, and when.
  let find = $state('');
  let what = $state('');
  let member = $state(0);
  let from = $state('');
  let to = $state('');
  let chosen = $state(0);

  const query = $derived({
    find: find.trim() || undefined,
    what: what || undefined,
    member: member || undefined,
    from: from || undefined,
    to: to || undefined,
  });
  const trail = createInfiniteQuery(() => ({
    queryKey: ['house', house.id, 'trail', query],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/trail', {
          params: { path: { house: house.id }, query: { ...query, before: pageParam || undefined } },
        }),
      ),
    enabled: house.keeper,
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    placeholderData: (was) => was,
  }));
  const people = createQuery(() => ({
    queryKey: ['house', house.id, 'people'],
    queryFn: () => need(api.GET('/houses/{house}/people', { params: { path: { house: house.id } } })),
  }));
  const entries = $derived(trail.data?.pages.flatMap((p) => p.entries) ?? []);
  const whats = $derived(trail.data?.pages[0]?.whats ?? []);
  const entry = $derived(entries.find((e) => e.id === chosen) ?? entries[0]);
  const when = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'medium' });
  const exported = (format: string) => {
    const q = new URLSearchParams(
      Object.entries(query).flatMap(([k, v]) => (v === undefined ? [] : [[k, String(v)] as [string, string]])),
    );
    return `/api/houses/${house.id}/trail/${format}?${q}`;
  };

  /** What a state says, a line for each of its parts. */
  function lines(text: string | undefined): [string, string][] {
    if (!text) return [];
    const state = JSON.parse(text) as Record<string, unknown>;
    const inner = state.asked && typeof state.asked === 'object' ? (state.asked as Record<string, unknown>) : state;
    return Object.entries(inner).map(([k, v]) => [k, typeof v === 'string' ? v : JSON.stringify(v)]);
  }
  const names = (e: Schema['TrailEntry']) => [...new Set([...lines(e.before), ...lines(e.after)].map(([k]) => k))];
  const of = (text: string | undefined, name: string) => lines(text).find(([k]) => k === name)?.[1] ?? '';
  const outcome = (n: number) => (n === 0 ? 'not known' : n < 400 ? 'done' : n < 500 ? 'refused' : 'failed');
</script>

<div class="work">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    <div class="flex flex-wrap items-baseline gap-x-6 pr-5">
      <h1>{house.member?.name}</h1>
      <Views now="trail" />
      {#if house.keeper}<span class="ml-auto flex gap-4"
          ><a class="link" href={exported('csv')} download>CSV</a><a class="link" href={exported('jsonl')} download>JSON lines</a
          ></span
        >{/if}
    </div>
    {#if !house.keeper}<p class="mt-4">Only keepers of the house read its trail.</p>{:else}
      <form class="mt-3 flex flex-wrap items-end gap-3 pr-5" onsubmit={(e) => e.preventDefault()}>
        <input
          class="input w-[11rem]"
          type="search"
          aria-label="Find in the trail"
          placeholder="name, value, address"
          bind:value={find}
        />
        <select class="select w-[9.33rem]" aria-label="By whom" bind:value={member}
          ><option value={0}>by anybody</option>{#each people.data?.members ?? [] as p (p.id)}<option value={p.id}
              >by {p.name}</option
            >{/each}</select
        >
        <select class="select w-[10rem]" aria-label="What" bind:value={what}
          ><option value="">anything</option>{#each whats as w (w.what)}<option value={w.what}>{w.said}</option>{/each}</select
        >
        <label class="text-small">from <input class="input w-[8.53rem] px-2" type="date" bind:value={from} /></label>
        <label class="text-small">to <input class="input w-[8.53rem] px-2" type="date" bind:value={to} /></label>
      </form>
      {#if trail.isError}<p class="mt-4" role="alert">{trail.error.message}</p>{/if}
      <div class="mt-3 flex min-h-0 flex-1 flex-col" role="grid" aria-label="Trail" aria-rowcount={entries.length + 1}>
        <div role="rowgroup" class="overflow-hidden [scrollbar-gutter:stable]">
          <div class="line border-b border-current pb-1 pr-5 text-small font-bold phone:sr-only" role="row">
            <span role="columnheader">When</span><span role="columnheader">Who</span><span role="columnheader">What</span><span
              role="columnheader">End</span
            >
          </div>
        </div>
        <Virtual items={entries} height={() => (rem.phone ? 4.6 : 2.93)} key={(e) => e.id} label="Trail">
          {#snippet row(e, i)}
            <!-- svelte-ignore a11y_click_events_have_key_events -->
            <div
              class="line h-[2.93rem] items-center border-b pr-5 phone:h-[4.6rem]"
              class:chosen={e.id === entry?.id}
              role="row"
              aria-rowindex={i + 2}
              aria-selected={e.id === entry?.id}
              tabindex="-1"
              onclick={() => (chosen = e.id)}
            >
              <span class="truncate text-small" role="gridcell">{when.format(new Date(e.at))}</span>
              <span class="truncate" role="gridcell">{e.by}</span>
              <span class="truncate" role="gridcell"
                ><button class="min-h-[1.6rem] text-left" title={e.said} onclick={() => (chosen = e.id)}>{e.said}</button>{e.times >
                1
                  ? `, ${e.times} times in that hour`
                  : ''}</span
              >
              <span class="text-small" role="gridcell">{outcome(e.outcome)}</span>
            </div>
          {/snippet}
        </Virtual>
        {#if trail.hasNextPage}<p class="py-2">
            <button class="link" disabled={trail.isFetchingNextPage} onclick={() => trail.fetchNextPage()}>earlier ones</button>
          </p>{/if}
        {#if trail.data && entries.length === 0}<p class="py-4">Nothing of that kind is on the trail.</p>{/if}
      </div>
    {/if}
  </main>
  <aside class="overflow-y-auto bg-base-200 p-5" aria-label="What was done">
    {#if entry}
      <h2 class="break-words text-[1.13rem]">{entry.said}</h2>
      <dl class="mt-2 grid grid-cols-[6rem_minmax(0,1fr)] gap-y-1">
        <dt>When</dt>
        <dd>{when.format(new Date(entry.at))}</dd>
        <dt>Who</dt>
        <dd>{entry.by}</dd>
        <dt>Through</dt>
        <dd>{entry.via}</dd>
        <dt>From</dt>
        <dd class="font-mono text-small">{entry.address || 'this machine'}</dd>
        <dt>End</dt>
        <dd>{outcome(entry.outcome)}{entry.outcome ? `, ${entry.outcome}` : ''}</dd>
        <dt>Request</dt>
        <dd class="font-mono text-small">{entry.request}</dd>
      </dl>
      {#if names(entry).length > 0}
        <table class="mt-4 w-full text-small">
          <thead
            ><tr class="border-b border-current text-left"
              ><td class="pb-1"></td>{#if entry.before}<th class="pb-1">Before</th>{/if}<th class="pb-1"
                >{entry.after?.startsWith('{"asked"') ? 'Asked for' : 'After'}</th
              ></tr
            ></thead
          >
          <tbody>
            {#each names(entry) as n (n)}
              <tr class="rule border-b align-top"
                ><th class="py-1 pr-3 text-left font-normal">{n.replaceAll('_', ' ')}</th>{#if entry.before}<td
                    class="break-words py-1 pr-3 font-mono">{of(entry.before, n)}</td
                  >{/if}<td class="break-words py-1 font-mono">{of(entry.after, n)}</td></tr
              >
            {/each}
          </tbody>
        </table>
      {/if}
    {/if}
  </aside>
</div>

<style>
  .line {
    display: grid;
    grid-template-columns: 11.47rem minmax(6rem, 1fr) minmax(0, 3fr) 4.27rem;
    gap: 0.8rem;
    border-color: color-mix(in srgb, var(--color-base-content) 25%, transparent);
  }
  @media (max-width: 30rem) {
    .line {
      grid-template-columns: 11.47rem minmax(0, 1fr) auto;
      gap: 0 0.6rem;
      align-content: center;
    }
    .line > :nth-child(3) {
      grid-row: 1;
      grid-column: 1 / -1;
    }
  }
  .chosen {
    background: var(--color-base-200);
  }
</style>
