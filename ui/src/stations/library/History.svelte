<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import type { Change } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';

  // What happened to a color, newest first; older entries come when they are asked for.
  let { s, changing, bringBack }: { s: Schema['ColorSheet']; changing: Change; bringBack: (event: number) => void } = $props();

  let more = $state.raw<{ version: number; history: Schema['HistoryEntry'][]; older: boolean } | null>(null);
  // What was fetched belongs to this state of the color: after a change the list begins anew.
  const extra = $derived(more?.version === s.version ? more : null);
  const history = $derived([...s.history, ...(extra?.history ?? [])]);
  const older = $derived(extra ? extra.older : s.older);

  const fetchOlder = () =>
    changing.run(async () => {
      const path = { house: house.id, color: s.row.id };
      const before = history.at(-1)?.id ?? 0;
      const page = await need(api.GET('/houses/{house}/colors/{color}/history', { params: { path, query: { before } } }));
      more = { version: s.version, history: [...(extra?.history ?? []), ...page.history], older: page.older };
    });

  const moment = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
</script>

<h3>What happened so far</h3>
<ul>
  {#each history as h, i (h.id)}
    <li class="rule border-b py-1.5 text-small">
      <span class="flex gap-3">
        {#if h.before && h.after}
          <span class="grid h-8 w-12 shrink-0 grid-cols-2" aria-hidden="true">
            <span style:background={h.before}></span><span style:background={h.after}></span>
          </span>
        {/if}
        <span class="min-w-0 break-words">
          {h.by}: {h.what}<br />{moment.format(new Date(h.at))}{h.from ? `, from ${h.from}` : ''}
          {#if house.keeper && h.kept && i > 0}
            <button
              class="link ml-2"
              disabled={changing.busy}
              aria-label={`Bring back what it was after: ${h.what}`}
              onclick={() => bringBack(h.id)}>bring this back</button
            >
          {/if}
        </span>
      </span>
    </li>
  {/each}
</ul>
{#if older}<button class="link mt-2 text-small" disabled={changing.busy} onclick={fetchOlder}>show older entries</button>{/if}
