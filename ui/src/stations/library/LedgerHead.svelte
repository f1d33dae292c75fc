<script lang="ts">
  import { house } from '../../lib/house.svelte';
  import { columns, table, type Column } from './table.svelte';

  // The heads of the columns, and the mark for all that is shown.
  let { on, grid, shownIds, marked }: { on: Partial<Record<Column, boolean>>; grid: string; shownIds: number[]; marked: number } =
    $props();
</script>

<div role="rowgroup" class="overflow-hidden [scrollbar-gutter:stable] phone:sr-only print:hidden">
  <div class="grid border-b border-current pb-1 pr-3 text-small font-bold" style:grid-template-columns={grid} role="row">
    <span role="columnheader"
      ><input
        type="checkbox"
        class="checkbox align-middle print:hidden"
        aria-label={`Mark all ${shownIds.length} that are shown`}
        disabled={shownIds.length === 0}
        checked={shownIds.length > 0 && marked === shownIds.length}
        indeterminate={marked > 0 && marked < shownIds.length}
        onclick={(e) => table.mark(shownIds, e.currentTarget.checked)}
      /></span
    >
    <span class="grid grid-cols-3" role="columnheader"><span>Screen</span><span>Press</span><span>Ink</span></span>
    <span class="pl-2.5" role="columnheader">Color</span>
    {#each columns as c (c.key)}{#if on[c.key]}<span class="truncate" role="columnheader"
          >{c.head}{c.key === 'cmyk' ? ` ${(house.member?.press ?? '').replaceAll('-', ' ')}` : ''}</span
        >{/if}{/each}
  </div>
</div>
