<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import type { SheetActs } from './sheet.svelte';

  // How a color goes: it is retired, becomes another, or was a mistake.
  let { s, acts, colors }: { s: Schema['ColorSheet']; acts: SheetActs; colors: Schema['ColorRow'][] } = $props();

  const c = $derived(s.row);
  let successor = $state(0);
  let into = $state(0);
  function open(what: 'retire' | 'merge') {
    successor = c.successor?.id ?? 0;
    into = colors.find((o) => o.id !== c.id && o.hex === c.hex)?.id ?? 0;
    acts.edit(what);
  }
</script>

<p class="mt-5 flex flex-wrap gap-x-5">
  {#if house.keeper && c.status !== 'draft'}
    <button class="link" aria-expanded={acts.editing === 'retire'} onclick={() => open('retire')}>
      {c.status === 'retired' ? 'Replace it by another color' : 'Retire this color'}
    </button>
  {/if}
  {#if house.keeper}<button class="link" aria-expanded={acts.editing === 'merge'} onclick={() => open('merge')}
      >Merge it into another color</button
    >{/if}
  <button class="link" disabled={acts.removing.busy} onclick={acts.remove}
    >{house.keeper ? 'Remove it from the library' : 'Withdraw this proposal'}</button
  >
</p>
{#if acts.editing === 'merge'}
  <form
    {@attach opened}
    class="mt-2 grid gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void acts.merge(colors.find((o) => o.id === into)!);
    }}
  >
    <label class="grid gap-1 text-small"
      >Into
      <select class="select w-full" required bind:value={into}>
        <option value={0} disabled>choose a color</option>
        {#each colors.filter((o) => o.id !== c.id && o.status !== 'retired') as o (o.id)}<option value={o.id}
            >{o.name}, {o.hex}</option
          >{/each}
      </select>
    </label>
    <p class="text-small">
      Its name and aliases become aliases of that color; swatch sets and gradients follow; fixed editions stay. It can be taken back
      for a day.
    </p>
    <button class="btn btn-primary justify-self-start" disabled={acts.removing.busy || !into}
      >Merge {c.name}{into ? ` into ${colors.find((o) => o.id === into)?.name}` : ''}</button
    >
  </form>
{/if}
{#if acts.removing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{acts.removing.problem}</p>{/if}
{#if acts.editing === 'retire'}
  <form
    {@attach opened}
    class="mt-2 flex flex-wrap items-end gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      void (c.status === 'retired'
        ? acts.change(`${c.name} has another successor`, { successor })
        : acts.change(`${c.name} retired`, { status: 'retired', successor }));
    }}
  >
    <label class="grid flex-1 gap-1 text-small"
      >Replaced by
      <select class="select w-full" bind:value={successor}>
        <option value={0}>nothing</option>
        {#each colors.filter((o) => o.id !== c.id && o.status === 'approved') as o (o.id)}<option value={o.id}>{o.name}</option
          >{/each}
      </select>
    </label>
    <button class="btn btn-primary" disabled={acts.busy}>{c.status === 'retired' ? 'Keep' : 'Retire'} {c.name}</button>
  </form>
{/if}
