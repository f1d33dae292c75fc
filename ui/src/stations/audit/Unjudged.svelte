<script lang="ts">
  import { createInfiniteQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { count } from './audit.svelte';

  // What of a file could not be judged, and what of it was not read, each with why.
  let { id, undecided, unread }: { id: number; undecided: number; unread: { path: string; why: string }[] } = $props();

  const unjudged = createInfiniteQuery(() => ({
    queryKey: ['undecided', house.id, id],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/audits/{audit}/undecided', {
          params: { path: { house: house.id, audit: id }, query: { from: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    enabled: undecided > 0,
    staleTime: Infinity,
  }));
  const undone = $derived(unjudged.data?.pages.flatMap((p) => p.undecided) ?? []);
</script>

{#if undecided > 0}
  <details class="mr-5 border-t border-current py-2">
    <summary class="cursor-pointer"><b>{count(undecided, 'place')} could not be judged</b>, with what stands there and why</summary>
    <ul class="max-h-[12rem] overflow-y-auto text-small">
      {#each undone as u, i (i)}
        <li class="rule border-b py-1"><b class="font-mono">{u.value}</b> {u.where}: {u.why}</li>
      {/each}
      {#if unjudged.hasNextPage}<li>
          <button class="link" onclick={() => unjudged.fetchNextPage()}>show more</button>
        </li>{/if}
    </ul>
  </details>
{/if}
{#if unread.length > 0}
  <details class="mr-5 border-t border-current py-2">
    <summary class="cursor-pointer"><b>{count(unread.length, 'part')} not read</b></summary>
    <ul class="max-h-[10.67rem] overflow-y-auto text-small">
      {#each unread as u (u.path)}<li class="rule border-b py-1">{u.path}: {u.why}</li>{/each}
    </ul>
  </details>
{/if}
