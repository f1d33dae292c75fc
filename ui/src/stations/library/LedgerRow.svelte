<script lang="ts">
  import type { Attachment } from 'svelte/attachments';
  import Distance from '../../lib/Distance.svelte';
  import { goTo } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { screen } from '../../lib/screen.svelte';
  import Value from '../../lib/Value.svelte';
  import type { Shown } from './shown';
  import { table, type Column } from './table.svelte';

  // A color in the ledger, with the columns that the room holds.
  let {
    s,
    index,
    chosen,
    on,
    grid,
    drag,
    shownIds,
    open,
    steps,
  }: {
    s: Shown;
    index: number;
    chosen: number | undefined;
    on: Partial<Record<Column, boolean>>;
    grid: string;
    drag: Attachment<HTMLElement>;
    shownIds: number[];
    open: (id: number) => void;
    steps: (by: number) => void;
  } = $props();

  const c = $derived(s.color);
</script>

<!-- The whole row takes a click; the keyboard uses the name's link, or the arrow keys. -->
<div
  class="grid h-[4rem] items-center pr-3"
  class:bg-base-200={c.id === chosen}
  style:grid-template-columns={grid}
  role="row"
  aria-selected={c.id === chosen}
  aria-rowindex={index + 2}
  tabindex={c.id === chosen ? 0 : -1}
  onkeydown={(e) => {
    if (e.target !== e.currentTarget) return;
    const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (e.shiftKey && by) {
      const next = shownIds[shownIds.indexOf(c.id) + by];
      table.mark(next ? [c.id, next] : [c.id], true);
      steps(by);
      e.stopPropagation();
    } else if (e.key === ' ') table.markOne(c.id, e.shiftKey ? shownIds : undefined);
    else if (e.key === 'Enter') goTo('.work > aside');
    else return;
    e.preventDefault();
  }}
  {@attach drag}
  onclick={(e) => {
    if ((e.target as Element).closest('button, a, input')) return;
    if (e.shiftKey || e.ctrlKey || e.metaKey) table.markOne(c.id, e.shiftKey ? shownIds : undefined);
    else open(c.id);
  }}
  onmousedown={(e) => e.shiftKey && e.preventDefault()}
>
  <span role="gridcell"
    ><input
      type="checkbox"
      class="checkbox print:hidden"
      aria-label={`Mark ${c.name}`}
      checked={!!table.marked[c.id]}
      onclick={(e) => table.markOne(c.id, e.shiftKey ? shownIds : undefined, e.currentTarget.checked)}
    /></span
  >
  <span class="grid h-full grid-cols-3" role="gridcell" aria-label={`screen ${c.hex}, press ${c.press.word}, ink ${c.ink.word}`}>
    <span style:background={screen.face(c)}></span><span style:background={c.press.hex}></span><span style:background={c.ink.hex}
    ></span>
  </span>
  <span class="min-w-0 pl-2.5 pr-3" role="gridcell">
    <a
      class="block truncate font-bold"
      href={house.path(`library/${c.id}`)}
      draggable="false"
      data-replace={chosen !== undefined && !rem.phone ? '' : undefined}
      data-scroll-to-top="false">{c.name}</a
    >
    <span class="line-clamp-2 text-small leading-[1rem]">
      {#if s.far}<Distance value={s.far.deltaE} word={s.far.word} /> from {table.close}
      {:else if c.status === 'retired'}<b>retired</b>{c.successor ? `, use ${c.successor.name}` : ''}
      {:else}{#if c.status === 'draft'}<b>proposed</b>{c.role || c.rule || c.master?.css ? ' · ' : ''}{/if}{[
          c.role,
          c.master?.css && 'beyond sRGB',
          c.rule,
        ]
          .filter(Boolean)
          .join(' · ')}{/if}
    </span>
  </span>
  {#if on.screen}<span role="gridcell"
      ><Value kind="hex" parts={c.rgb} label={`hex of ${c.name}`} /><span class="block text-small"
        ><Value kind="rgb" parts={c.rgb} label={`RGB of ${c.name}`} /></span
      ></span
    >{/if}
  {#if on.cmyk}<span role="gridcell"
      ><Value kind="cmyk" parts={c.press.value} label={`CMYK of ${c.name}`} /><span class="block text-small"
        >{c.press.moved !== undefined ? 'older approval' : c.press.origin}</span
      ></span
    >{/if}
  {#if on.spot}<span role="gridcell"
      ><Value text={c.ink.code} label={`spot ink of ${c.name}`} /><span class="block text-small">{c.ink.origin}</span></span
    >{/if}
  {#if on.press}<span role="gridcell"
      ><b class="font-mono">{c.press.deltaE.toFixed(1)}</b><span class="block text-small">{c.press.word}</span></span
    >{/if}
  {#if on.ink}<span role="gridcell"
      ><b class="font-mono">{c.ink.deltaE.toFixed(1)}</b><span class="block text-small">{c.ink.word}</span></span
    >{/if}
  {#if on.tags}<span class="line-clamp-3 pr-2 text-small" role="gridcell"
      >{[...c.tags, ...c.aliases.map((a) => `“${a}”`)].join(', ')}</span
    >{/if}
  {#if on.oklch}<span class="font-mono text-small" role="gridcell"
      >L {(c.oklch[0]! * 100).toFixed(0)}<br />C {c.oklch[1]!.toFixed(3)}<br />h {c.oklch[2]!.toFixed(0)}°</span
    >{/if}
</div>
