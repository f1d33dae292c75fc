<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { count, reportPath, uses } from '../audit/audit.svelte';

  // How often a color is used in the files of all projects, with where: before one amends it, and at any time.
  let { color, name, hex, plain = false }: { color: number; name: string; hex: string; plain?: boolean } = $props();
  const used = createQuery(() => ({
    queryKey: ['audits', 'uses', house.id, color, hex],
    queryFn: () => need(api.GET('/houses/{house}/colors/{color}/uses', { params: { path: { house: house.id, color } } })),
  }));
  const u = $derived(used.data);
  const shown = 6;
  let whole = $state(false);
  const times = $derived(u?.uses === 1 ? 'once' : `${(u?.uses ?? 0).toLocaleString('en-US')} times`);
  const said = $derived(
    u
      ? `${name} is used ${u.more ? 'at least ' : ''}${times} in ${count(u.projects, 'project')}, in ${count(u.files, 'file')}`
      : '',
  );
</script>

{#if plain}
  {#if u && u.files > 0}<li>{said}.</li>{/if}
{:else}
  <h3>Where it is used</h3>
  {#if u?.files === 0}<p>No project that was audited holds {hex}.</p>
  {:else if u}
    <p>{said}.</p>
    <ul class="text-small">
      {#each u.all.slice(0, whole ? undefined : shown) as f (f.audit)}
        <li class="rule grid grid-cols-[1fr_auto] gap-3 border-b py-1">
          <span class="min-w-0 truncate"
            ><a class="link" href={`${reportPath(f.audit)}/see?key=${encodeURIComponent(hex)}&look=alone`}>{f.path}</a>,
            <a class="link" href={house.path(`audit/project/${f.project}`)}>{f.name}</a></span
          ><span>{uses(f.uses, f.kind)}</span>
        </li>
      {/each}
    </ul>
    {#if !whole && u.all.length > shown}<button class="link mt-1 text-small" onclick={() => (whole = true)}
        >show {count(u.all.length - shown, 'more file')}</button
      >{/if}
  {/if}
{/if}
