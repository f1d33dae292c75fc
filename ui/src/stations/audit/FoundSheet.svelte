<script lang="ts">
  import { createInfiniteQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import Distance from '../../lib/Distance.svelte';
  import Value from '../../lib/Value.svelte';
  import Verdict from '../../lib/Verdict.svelte';

  let { found, audit, tolerance }: { found: Schema['FoundColor']; audit: number; tolerance: number } = $props();

  // The first places come with the color; all of them, a page at a time, when there are more.
  const pages = createInfiniteQuery(() => ({
    queryKey: ['places', house.id, audit, found.key],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/audits/{audit}/places', {
          params: { path: { house: house.id, audit }, query: { key: found.key, from: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    enabled: found.placeCount > found.places.length,
    staleTime: Infinity,
  }));
  const shown = $derived(pages.data?.pages.flatMap((p) => p.places) ?? found.places);

  const spoiled = $derived.by(() => {
    const how = found.reason ?? '';
    const meant = `within the tolerance of ${tolerance.toFixed(1)}: surely meant to be ${found.nearest?.name}.`;
    return `${how.charAt(0).toUpperCase()}${how.slice(1)}, ${meant}`;
  });
  const uses = $derived(found.count === 1 ? '1 use' : `${found.count} uses`);
  const places = $derived(found.placeCount === 1 ? '1 place' : `${found.placeCount} places`);
</script>

<aside class="flex min-h-0 flex-col bg-base-200" aria-label="Found color">
  <div class="grid grid-cols-2 px-5 pb-2 pt-4 text-small">
    <span><b>in the file</b> <Value text={found.hex} label="found color" /></span>
    {#if found.nearest}<span><b>{found.nearest.name}</b> <Value text={found.nearest.hex} label="nearest color" /></span>{/if}
  </div>
  <div class="grid h-[140px] shrink-0 grid-cols-2" role="img" aria-label={`${found.hex} beside ${found.nearest?.hex ?? 'nothing'}`}>
    <span style:background={found.hex}></span><span style:background={found.nearest?.hex}></span>
  </div>
  <div class="min-h-0 flex-1 overflow-y-auto px-5 pb-6 pt-3">
    <h2 class="text-[19px]">{uses} in {places}</h2>
    <p class="mt-1 flex items-center gap-4">
      <Verdict verdict={found.verdict} />{#if found.nearest}<Distance value={found.nearest.deltaE} word={found.nearest.word} />{/if}
    </p>
    {#if found.reason}<p class="mt-2">{spoiled}</p>{/if}
    {#if found.nearest?.successor}<p class="mt-2">{found.nearest.name} is retired; use <b>{found.nearest.successor}</b>.</p>{/if}
    {#if found.others?.length}
      <h3 class="mt-4 text-[14px] font-bold">Next nearest</h3>
      <ul>
        {#each found.others as o (o.name)}
          <li class="rule flex items-center gap-3 border-b">
            <span class="grid h-9 w-[72px] grid-cols-2" aria-hidden="true"
              ><span style:background={found.hex}></span><span style:background={o.hex}></span></span
            >
            <span class="flex-1 truncate">{o.name}</span><span class="text-small"><Distance value={o.deltaE} word={o.word} /></span>
          </li>
        {/each}
      </ul>
    {/if}
    <h3 class="mt-4 text-[14px] font-bold">Where</h3>
    <ul>
      {#each shown as p (`${p.where} ${p.value} ${p.linked}`)}
        <li class="rule grid grid-cols-[1fr_auto] gap-3 border-b py-1.5 text-small">
          <span class="min-w-0 break-words">{p.where}<span class="block font-mono">{p.value}</span></span>
          <span class="text-right">{p.count}, {p.linked ? 'linked' : 'hard-coded'}</span>
        </li>
      {/each}
    </ul>
    {#if found.placeCount > shown.length}
      <button class="link mt-2 text-small" disabled={pages.isFetching} onclick={() => pages.fetchNextPage()}>
        show more of {found.placeCount - shown.length} places
      </button>
    {/if}
  </div>
</aside>
