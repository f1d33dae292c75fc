<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import type { Work } from './audit.svelte';
  import { bytes } from '../../lib/notations';

  // The files that the next run of a project reads.
  let { project, list, work }: { project: number; list: Schema['ProjectFile'][]; work: Work } = $props();

  let files = $state(100); // how many are shown

  const dropFile = (path: string) =>
    work.run(async () => {
      const params = { path: { house: house.id, project }, query: { path } };
      await need(api.DELETE('/houses/{house}/projects/{project}/files', { params }));
      return {
        said: `${path} is out of the project; the runs that read it keep it`,
        undo: [way('post', '/houses/{house}/projects/{project}/files/restore', { params })],
      };
    });
</script>

<h2 class="mt-6 text-[1.13rem]">Files of the next run</h2>
{#if list.length === 0}<p class="text-small">None. Drop some here.</p>{/if}
<ul class="text-small">
  {#each list.slice(0, files) as f (f.path)}
    <li class="rule grid grid-cols-[1fr_auto_auto] gap-3 border-b py-1">
      <span class="min-w-0"
        ><span class="block truncate" title={f.path}>{f.path}</span>{#if f.why}<span class="block">not read: {f.why}</span
          >{/if}</span
      ><span class="font-mono">{bytes(f.size)}</span>
      {#if house.contributor}<button
          class="link"
          aria-label={`take out ${f.path}`}
          disabled={work.changing.busy}
          onclick={() => dropFile(f.path)}>take out</button
        >{/if}
    </li>
  {/each}
</ul>
{#if list.length > files}<button class="link text-small" onclick={() => (files += 500)}>show more of {list.length - files}</button
  >{/if}
