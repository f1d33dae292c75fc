<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { reportPath, when } from './audit.svelte';

  // What people said about findings of a project and is not settled yet.
  let { project, files }: { project: number; files: Schema['AuditLine'][] } = $props();

  const remarks = createQuery(() => ({
    queryKey: ['audits', 'remarks', house.id, project],
    queryFn: () => need(api.GET('/houses/{house}/projects/{project}/remarks', { params: { path: { house: house.id, project } } })),
  }));
  const open = $derived((remarks.data ?? []).filter((r) => !r.settled).toReversed()); // the newest first
</script>

{#if open.length > 0}
  <h3 class="mt-5 text-[0.93rem] font-bold">Remarks</h3>
  <ul>
    {#each open.slice(0, 12) as r (r.id)}
      {@const file = files.find((f) => f.path === r.path)}
      <li class="rule border-b py-1.5 text-small">
        <span class="block break-words"
          ><span class="font-mono">{r.color}</span> in {#if file}<a class="link" href={reportPath(file.id)}>{r.path}</a
            >{:else}{r.path}{/if}{#if r.for}, for <b>{r.mine ? 'you' : r.for}</b>{/if}</span
        >
        <span class="block break-words">{r.text}</span>
        <span>{r.by}, {when.format(new Date(r.at))}</span>
      </li>
    {/each}
  </ul>
  {#if open.length > 12}<p class="text-small">and {open.length - 12} more</p>{/if}
{/if}
