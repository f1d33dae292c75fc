<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';

  // Projects whose newest run found the value.
  let { hex }: { hex: string } = $props();
  const projects = createQuery(() => ({
    queryKey: ['audits', 'with', house.id, hex],
    queryFn: () => need(api.GET('/houses/{house}/projects', { params: { path: { house: house.id }, query: { with: hex } } })),
  }));
  const list = $derived(projects.data?.projects ?? []);
</script>

<h3>Where it is used</h3>
{#if projects.data}
  <p>
    {#if list.length === 0}No project that was audited holds {hex}.{:else}{#each list as p, i (p.id)}{i ? ', ' : ''}<a
          class="link"
          href={house.path(`audit/project/${p.id}`)}>{p.name}</a
        >{/each}{/if}
  </p>
{/if}
