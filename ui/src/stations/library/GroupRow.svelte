<script lang="ts">
  import { opened } from '../../lib/focus';
  import { house, useLimits } from '../../lib/house.svelte';
  import { table } from './table.svelte';

  // The name of a group above its colors, by which all of them are marked; ids are those that are shown.
  let {
    group,
    index,
    ids,
    rename,
    remove,
  }: { group: string; index: number; ids: number[]; rename: (to: string) => unknown; remove: () => unknown } = $props();

  const limits = useLimits();
  let renaming = $state(false);
  let name = $state('');
</script>

<div class="group flex h-full items-end gap-3 pb-1 text-small font-bold phone:pl-4" role="row" aria-rowindex={index + 2}>
  <span role="gridcell" class="flex items-center gap-2">
    <input
      type="checkbox"
      class="checkbox phone:hidden"
      aria-label={`Mark the ${ids.length} of ${group || 'no group'}`}
      checked={ids.every((id) => table.marked[id])}
      onclick={(e) => table.mark(ids, e.currentTarget.checked)}
    />
    {#if renaming}
      <form
        class="flex gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          renaming = false;
          void rename(name.trim());
        }}
      >
        <input
          class="border-b border-current bg-transparent font-bold"
          aria-label={`New name of ${group}`}
          {@attach opened}
          maxlength={limits.data?.nameRunes}
          bind:value={name}
          onkeydown={(e) => e.key === 'Escape' && (renaming = false)}
        />
        <button class="font-normal link">keep</button>
      </form>
    {:else}{group || 'No group'}{/if}
  </span>
  {#if house.keeper && group && !renaming}
    <span class="flex gap-3 font-normal opacity-0 focus-within:opacity-100 group-hover:opacity-100" role="gridcell">
      <button
        class="link"
        aria-label={`Rename the group ${group}`}
        onclick={() => {
          renaming = true;
          name = group;
        }}>rename</button
      >
      <button class="link" aria-label={`Delete the group ${group}; its colors stay`} onclick={remove}>delete</button>
    </span>
  {/if}
</div>
