<script lang="ts">
  import { rem } from '../../lib/rem.svelte';
  import { inAddress } from '../../lib/address.svelte';
  import { screen } from '../../lib/screen.svelte';
  import { followFocus, goTo, opened } from '../../lib/focus';
  import { flushSync, untrack } from 'svelte';
  import { way } from '../../lib/back';
  import { api, need } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { Dragging } from '../../lib/drag';
  import { engine, newest } from '../../lib/engine';
  import { house, useLedger, useLimits, usePairs, useRoles, useSuggestions } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import { navigate, route } from '../../lib/router';
  import { copy, notation } from '../../lib/state.svelte';
  import Value from '../../lib/Value.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import Backup from './Backup.svelte';
  import Compare from './Compare.svelte';
  import FirstSteps from './FirstSteps.svelte';
  import Gradients from './Gradients.svelte';
  import Many from './Many.svelte';
  import { placeBefore } from './place.svelte';
  import Inks from './Inks.svelte';
  import { openSlip } from '../../lib/slips';
  import Plane from './Plane.svelte';
  import Printed from './Printed.svelte';
  import Presses from './Presses.svelte';
  import Sheet from './Sheet.svelte';
  import { choose, closeLimit, findable, runOf, underGroups, type Item, type Shown } from './shown';
  import Views from './Views.svelte';
  import Waiting from './Waiting.svelte';
  import { columns, orders, table } from './table.svelte';

  const limits = useLimits();
  const roles = useRoles();

  const ledger = useLedger();
  let filter = $state('');
  let list = $state<{ show: (index: number) => void }>();
  const place = placeBefore(() => all);

  const view = $derived(route.params.view ?? '');
  const chosen = $derived(route.params.color ? Number(route.params.color) : undefined);
  const all = $derived(ledger.data?.colors ?? []);

  // The address has what the list is narrowed to, and the marks.
  inAddress(
    () => (view === '' ? house.path('library') : 'nowhere'), // other views are not narrowed
    () => ({
      words: filter,
      order: table.sort === 'hand' ? '' : table.sort,
      role: table.role,
      status: table.status,
      close: table.close,
      marked: all
        .filter((c) => table.marked[c.id])
        .slice(0, 200)
        .map((c) => c.id)
        .join(','),
    }),
    (key, value) => {
      if (key === 'words') filter = value;
      else if (key === 'order') table.sort = orders.find((o) => o === value) ?? 'hand';
      else if (key === 'marked') for (const id of value.split(',')) table.marked[Number(id)] = true;
      else if (key === 'role' || key === 'status' || key === 'close') table[key] = value;
    },
  );

  // What can be found of each color, put together once and not at every key.
  const texts = $derived(all.map(findable));

  // "Close to": the distance of every color from the one typed, computed by the core.
  let far = $state.raw<{ deltaE: number; word: string }[] | null>(null);
  let farProblem = $state('');
  const measure = newest(
    async (a: { value: string; among: string[] }) =>
      a.value ? (await engine.ask('apart', { values: [a.value], among: a.among }))[0]! : null,
    (r) => ([far, farProblem] = [r, '']),
    (e) => ([far, farProblem] = [null, `${e.message}.`]),
  );
  $effect(() => {
    const typed = table.close.trim();
    const named = all.find((c) => c.name.toLowerCase() === typed.toLowerCase());
    measure({ value: named?.hex ?? typed, among: all.map((c) => c.hex) });
  });
  const shown = $derived(
    choose(all, () => texts, { words: filter, role: table.role, status: table.status, sort: table.sort, far }),
  );

  const grouped = $derived(table.sort === 'hand' && !table.close.trim());
  const items = $derived(grouped ? underGroups(shown) : (shown as Item[]));

  const current = $derived(all.find((c) => c.id === chosen));
  const marked = $derived(all.filter((c) => table.marked[c.id]));
  const shownIds = $derived(shown.map((s) => s.color.id));
  const shownMarked = $derived(shownIds.filter((id) => table.marked[id]).length);
  let anchor = 0; // what was marked last, from which Shift takes the run
  function mark(ids: number[], on: boolean) {
    for (const id of ids) table.marked[id] = on;
    anchor = ids.at(-1) ?? anchor;
  }
  /** Marks a color; with Shift all from the one that was marked last, as that one is. */
  function markOne(id: number, run: boolean, on = !table.marked[id]) {
    if (run && anchor) mark([...runOf(shownIds, anchor, id).filter((i) => i !== id), id], !!table.marked[anchor] || on);
    else mark([id], on);
  }
  function gridKeys(e: KeyboardEvent) {
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a' && !(e.target as Element).closest('input:not([type=checkbox])')) {
      e.preventDefault();
      mark(shownIds, shownMarked < shownIds.length);
    }
  }

  function open(id: number) {
    void navigate('/h/:house/library/:color', {
      params: { house: String(house.id), color: String(id) },
      replace: chosen !== undefined && !rem.phone,
      scrollToTop: false,
    });
  }

  // A bare library opens with its first color, so that the sheet is never empty; on a phone the list comes first.
  $effect(() => {
    const first = all[0];
    if (view === '' && chosen === undefined && first && !rem.phone)
      void navigate('/h/:house/library/:color', { params: { house: String(house.id), color: String(first.id) }, replace: true });
  });

  $effect(() => {
    const index = items.findIndex((i) => 'color' in i && i.color.id === chosen);
    untrack(() => list?.show(index));
  });

  function step(by: number) {
    const at = shown.findIndex((s) => s.color.id === chosen);
    const next = shown[Math.max(0, Math.min(shown.length - 1, at + by))];
    if (!next) return;
    open(next.color.id);
    followFocus();
  }

  // In the order by hand, a color changes places with its neighbor; at the edge of its group it joins the next one.
  function shift(by: number) {
    if (!grouped || !house.keeper) return;
    const at = shown.findIndex((s) => s.color.id === chosen);
    const c = shown[at]?.color;
    const next = shown[at + by]?.color;
    if (!c || !next) return;
    if (by < 0) void (next.group === c.group ? place(c.id, next.id) : place(c.id, 0, next.group));
    else if (next.group !== c.group) void place(c.id, next.id);
    else {
      const after = shown[at + 2]?.color;
      void place(c.id, after?.group === c.group ? after.id : 0);
    }
  }
  const dragging = new Dragging<number>((carried, before) => void place(carried, before));

  let copied = $state(0); // on a phone: what was copied last

  let renaming = $state('');
  let groupName = $state('');
  const changing = useChange(['ledger', 'sheet'], { aloud: true });
  const here = () => ({ params: { path: { house: house.id } } });
  const renameGroup = (name: string) =>
    changing.run(async () => {
      const to = groupName.trim();
      renaming = '';
      if (to === name) return;
      await need(api.POST('/houses/{house}/groups/rename', { ...here(), body: { name, to } }));
      return {
        said: `The group ${name} is ${to} now`,
        undo: [way('post', '/houses/{house}/groups/rename', { ...here(), body: { name: to, to: name } })],
      };
    });
  const deleteGroup = (name: string) =>
    changing.run(async () => {
      const colors = all.filter((c) => c.group === name).map((c) => c.id);
      await need(api.POST('/houses/{house}/groups/delete', { ...here(), body: { name } }));
      const undo = [way('post', '/houses/{house}/colors/bulk', { ...here(), body: { colors, group: name } })];
      return { said: `The group ${name} is gone; its colors stay`, undo };
    });

  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next color', run: () => step(1) },
      { key: 'ArrowUp', does: 'color before', run: () => step(-1) },
      { key: 'h', does: 'copy hex', run: () => current && void copy(notation.write('hex', current.rgb)) },
      { key: 'r', does: 'copy RGB', run: () => current && void copy(notation.write('rgb', current.rgb)) },
      { key: 'k', does: 'copy CMYK', run: () => current && void copy(notation.write('cmyk', current.press.value)) },
      { key: 'i', does: 'copy the ink code', run: () => current && void copy(current.ink.code) },
      {
        key: 'm',
        does: 'mark the color, for doing something to many',
        run: () => current && markOne(current.id, false),
      },
      { key: 'e', alt: true, does: 'earlier in the order by hand', run: () => shift(-1) },
      { key: 'f', alt: true, does: 'further down in the order by hand', run: () => shift(1) },
    ]),
  );

  const summary = $derived.by(() => {
    const parts = [all.length === 1 ? '1 color' : `${all.length} colors`];
    const retired = all.filter((c) => c.status === 'retired').length;
    const drafts = all.filter((c) => c.status === 'draft').length;
    const moved = all.filter((c) => c.press.moved !== undefined || c.ink.moved !== undefined).length;
    if (retired) parts.push(`${retired} retired`);
    if (drafts) parts.push(`${drafts} proposed`);
    if (moved) parts.push(moved === 1 ? '1 older approval' : `${moved} older approvals`);
    return parts.join(', ');
  });

  // What the list is narrowed to or ordered by, if it is not the whole library by hand.
  const narrowed = $derived(
    [
      table.sort !== 'hand' && `by ${table.sort}`,
      table.role,
      table.status === 'draft' ? 'proposed' : table.status,
      table.close.trim() && `close to ${table.close}`,
    ]
      .filter(Boolean)
      .join(', ') || 'order and choice',
  );
  function showAll() {
    filter = '';
    table.close = '';
    table.role = '';
    table.status = '';
    table.sort = 'hand';
  }
  const suggestions = useSuggestions();
  const waiting = $derived(suggestions.data ?? []);
  const pairs = usePairs();
  const broken = $derived((pairs.data ?? []).filter((p) => !p.holds || (p.may && p.retired)));

  // Columns that the room does not hold fold away, the last ones first.
  let room = $state(1000);
  const on = $derived.by(() => {
    let left = room / rem.px - 25;
    const out: Record<string, boolean> = {};
    for (const c of columns) {
      if (!table.columns[c.key]) continue;
      left -= parseFloat(c.width);
      out[c.key] = left >= 0;
    }
    return out;
  });
  const grid = $derived(
    `1.9rem minmax(12.4rem, 23%) minmax(8rem, 1fr) ${columns
      .filter((c) => on[c.key])
      .map((c) => c.width)
      .join(' ')}`,
  );

  // On paper all rows must be there, also when the browser's own command prints.
  const forPaper = (on: boolean) => flushSync(() => (table.printing = on));
</script>

<svelte:window onbeforeprint={() => forPaper(true)} onafterprint={() => forPaper(false)} />

{#snippet colorRow(s: Shown, index: number)}
  {@const c = s.color}
  <!-- The whole row takes a click; the keyboard uses the name's link, or the arrow keys. -->
  <div
    class="grid h-[4rem] items-center pr-3"
    class:chosen={c.id === chosen}
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
        mark(next ? [c.id, next] : [c.id], true);
        step(by);
        e.stopPropagation();
      } else if (e.key === ' ') markOne(c.id, e.shiftKey);
      else if (e.key === 'Enter') goTo('.work > aside');
      else return;
      e.preventDefault();
    }}
    {@attach dragging.item(c.id, grouped && house.keeper)}
    onclick={(e) => {
      if ((e.target as Element).closest('button, a, input')) return;
      if (e.shiftKey || e.ctrlKey || e.metaKey) markOne(c.id, e.shiftKey);
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
        onclick={(e) => markOne(c.id, e.shiftKey, e.currentTarget.checked)}
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
{/snippet}

{#snippet phoneRow(s: Shown, index: number)}
  {@const c = s.color}
  {@const hex = notation.write('hex', c.rgb)}
  <!-- svelte-ignore a11y_click_events_have_key_events -->
  <div
    class="rule grid h-full grid-cols-[7.3rem_minmax(0,1fr)_auto] border-b"
    class:chosen={copied === c.id}
    role="row"
    tabindex="-1"
    aria-rowindex={index + 2}
    onclick={(e) => (e.target as Element).closest('button, a') ?? open(c.id)}
  >
    <span role="gridcell" aria-label={`${c.hex} on a screen`} style:background={screen.face(c)}></span>
    <span class="min-w-0 self-center pl-3.5" role="gridcell">
      <a
        class="block truncate font-bold"
        href={house.path(`library/${c.id}`)}
        data-replace={chosen !== undefined && !rem.phone ? '' : undefined}
        data-scroll-to-top="false">{c.name}</a
      >
      <span class="block truncate"
        ><span class="font-mono">{hex}</span>
        <span class="text-small"
          >{#if s.far}<Distance value={s.far.deltaE} word={s.far.word} />{:else if c.status !== 'approved'}<b
              >{c.status === 'draft' ? 'proposed' : `retired${c.successor ? `, use ${c.successor.name}` : ''}`}</b
            >{/if}</span
        ></span
      >
    </span>
    <span role="gridcell"
      ><button
        class="h-full min-w-[5.2rem] px-3 font-bold"
        aria-label={`${copied === c.id ? 'Copied' : 'Copy'} ${hex} of ${c.name}`}
        onclick={() => {
          copied = c.id;
          void copy(hex);
        }}>{copied === c.id ? 'copied' : 'copy'}</button
      ></span
    >
  </div>
{/snippet}

<div
  class="print:block {view === '' ? 'work' : 'grid min-h-0 grid-cols-[minmax(0,1fr)]'}"
  data-at={chosen === undefined ? 'list' : 'one'}
>
  <main class="whole flex min-h-0 flex-col pl-5 pt-4 phone:pl-0 phone:pt-2" bind:clientWidth={room}>
    {#if rem.phone}<h1 class="keep sr-only">Library</h1>{/if}
    <div class="flex flex-wrap items-baseline gap-x-5 gap-y-1 pr-5 phone:gap-x-3 phone:px-4">
      {#if !rem.phone}<h1 class="print:hidden">Library</h1>{/if}
      <span class="print:hidden"><Views now={view} /></span>
      {#if view === ''}<input
          id="find"
          class="narrow ml-auto flex-1 border-b border-current bg-transparent py-1 print:hidden"
          type="search"
          placeholder="name, value or rule"
          aria-label="Find in the library"
          bind:value={filter}
          onkeydown={(e) => {
            if (e.key === 'Escape') filter = '';
            if (e.key === 'Enter' && shown[0]) {
              open(shown[0].color.id);
              e.currentTarget.blur();
            }
          }}
        />{/if}
    </div>
    {#if view !== ''}
      <div class="min-h-0 flex-1 overflow-y-auto pb-5 pr-5 pt-4 phone:px-4">
        {#if view === 'gradients'}<Gradients />{:else if view === 'plane'}<Plane />{:else if view === 'compare'}<Compare
          />{:else if view === 'inks'}<Inks />{:else if view === 'presses'}<Presses />{:else}<Backup />{/if}
      </div>
    {:else}
      <div class="mt-1 flex flex-wrap items-center gap-x-5 gap-y-1 pr-5 text-small phone:mt-2 phone:px-4 print:hidden">
        <span>{summary}</span>
        {#if waiting.length > 0 && !rem.phone}<a class="link" href={house.path(`library/${waiting[0]?.color.id}`)}
            >{waiting.length === 1 ? '1 suggestion' : `${waiting.length} suggestions`}</a
          >{/if}
        {#each rem.phone ? [] : broken.slice(0, 1) as p (p.color.id)}<a
            class="link font-bold"
            href={house.path(`library/${p.color.id}`)}
            >{broken.length === 1
              ? `${p.color.name} on ${p.ground.name} no longer keeps its rule`
              : `${broken.length} pairs no longer keep their rule`}</a
          >{/each}
        <details class="relative ml-auto">
          <summary class="cursor-pointer underline">{narrowed}</summary>
          <div class="absolute right-0 z-20 grid w-[16.67rem] gap-2 border border-current bg-base-200 p-3">
            <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
              >Order
              <select class="select" bind:value={table.sort}
                ><option value="hand">by hand</option><option value="hue">hue</option><option value="lightness">lightness</option
                ><option value="name">name</option><option value="newest">newest</option></select
              >
            </label>
            <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
              >Role
              <select class="select" bind:value={table.role}
                ><option value="">all</option>{#each roles.list as r (r)}<option>{r}</option>{/each}</select
              >
            </label>
            <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
              >Status
              <select class="select" bind:value={table.status}
                ><option value="">all</option><option>approved</option><option value="draft">proposed</option><option
                  >retired</option
                ></select
              >
            </label>
            <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
              >Close to <input
                class="input w-full font-mono"
                spellcheck="false"
                placeholder="#1D6F6A or a name"
                title={farProblem}
                bind:value={table.close}
              /></label
            >
            {#if narrowed !== 'order and choice'}<button class="link justify-self-start" onclick={showAll}>all, by hand</button
              >{/if}
          </div>
        </details>
        <details class="relative phone:hidden">
          <summary class="cursor-pointer underline">columns</summary>
          <div class="absolute right-0 z-20 grid w-[12.67rem] gap-1 border border-current bg-base-200 p-3">
            {#each columns as c (c.key)}<label class="flex items-center gap-2"
                ><input
                  type="checkbox"
                  class="checkbox"
                  checked={table.columns[c.key]}
                  onchange={(e) => table.show(c.key, e.currentTarget.checked)}
                />
                {c.name}</label
              >{/each}
          </div>
        </details>
        {#if !rem.phone}
          <button class="link" title="As a small window of its own, to copy from" onclick={() => openSlip(house.id)}
            >beside the work</button
          >
          <button class="link" onclick={() => window.print()}>print</button>
        {/if}
      </div>
      {#if marked.length > 0}<Many {marked} hidden={marked.length - shownMarked} groups={ledger.data?.groups ?? []} />{/if}
      <div
        class="mt-1 flex min-h-0 flex-1 flex-col"
        role="grid"
        aria-label="Ledger"
        aria-rowcount={items.length + 1}
        onkeydown={gridKeys}
        tabindex="-1"
      >
        <div role="rowgroup" class="overflow-hidden [scrollbar-gutter:stable] phone:sr-only print:hidden">
          <div class="grid border-b border-current pb-1 pr-3 text-small font-bold" style:grid-template-columns={grid} role="row">
            <span role="columnheader"
              ><input
                type="checkbox"
                class="checkbox align-middle print:hidden"
                aria-label={`Mark all ${shownIds.length} that are shown`}
                disabled={shownIds.length === 0}
                checked={shownIds.length > 0 && shownMarked === shownIds.length}
                indeterminate={shownMarked > 0 && shownMarked < shownIds.length}
                onclick={(e) => mark(shownIds, e.currentTarget.checked)}
              /></span
            >
            <span class="grid grid-cols-3" role="columnheader"><span>Screen</span><span>Press</span><span>Ink</span></span>
            <span class="pl-2.5" role="columnheader">Color</span>
            {#each columns as c (c.key)}{#if on[c.key]}<span class="truncate" role="columnheader"
                  >{c.head}{c.key === 'cmyk' ? ` ${(house.member?.press ?? '').replaceAll('-', ' ')}` : ''}</span
                >{/if}{/each}
          </div>
        </div>
        {#if ledger.isPending}
          <p class="pt-6">Reading the library…</p>
        {:else if ledger.isError}
          <p class="pt-6" role="alert">{ledger.error.message}</p>
        {:else if all.length === 0}
          <FirstSteps />
        {:else if shown.length === 0}
          <p class="pt-6">
            No color fits{filter ? ` “${filter}”` : ''}{table.close.trim()
              ? ` within ${closeLimit} of ${table.close}`
              : ''}{table.role ? ` as ${table.role}` : ''}.
            <button class="link" onclick={showAll}>Show all</button>
          </p>
        {:else if table.printing}
          <Printed
            {items}
            label={[...new Set(['Library', filter, narrowed.replace('order and choice', '')])].filter(Boolean).join(', ')}
          />
        {:else}
          <Virtual
            bind:this={list}
            {items}
            height={(i) => ('group' in i ? 2 : 4.4)}
            key={(i) => ('group' in i ? `g ${i.group}` : i.color.id)}
            label="Colors"
          >
            {#snippet row(item, index)}
              {#if 'group' in item}
                {@const ofGroup = shown.filter((s) => s.color.group === item.group).map((s) => s.color.id)}
                <div
                  class="group flex h-full items-end gap-3 pb-1 text-small font-bold phone:pl-4"
                  role="row"
                  aria-rowindex={index + 2}
                >
                  <span role="gridcell" class="flex items-center gap-2">
                    <input
                      type="checkbox"
                      class="checkbox phone:hidden"
                      aria-label={`Mark the ${ofGroup.length} of ${item.group || 'no group'}`}
                      checked={ofGroup.every((id) => table.marked[id])}
                      onclick={(e) => mark(ofGroup, e.currentTarget.checked)}
                    />
                    {#if renaming === item.group && item.group}
                      <form
                        class="flex gap-2"
                        onsubmit={(e) => {
                          e.preventDefault();
                          void renameGroup(item.group);
                        }}
                      >
                        <input
                          class="border-b border-current bg-transparent font-bold"
                          aria-label={`New name of ${item.group}`}
                          {@attach opened}
                          maxlength={limits.data?.nameRunes}
                          bind:value={groupName}
                          onkeydown={(e) => e.key === 'Escape' && (renaming = '')}
                        />
                        <button class="font-normal link">keep</button>
                      </form>
                    {:else}{item.group || 'No group'}{/if}
                  </span>
                  {#if house.keeper && item.group && renaming !== item.group}
                    <span class="flex gap-3 font-normal opacity-0 focus-within:opacity-100 group-hover:opacity-100" role="gridcell">
                      <button
                        class="link"
                        aria-label={`Rename the group ${item.group}`}
                        onclick={() => {
                          renaming = item.group;
                          groupName = item.group;
                        }}>rename</button
                      >
                      <button
                        class="link"
                        aria-label={`Delete the group ${item.group}; its colors stay`}
                        onclick={() => deleteGroup(item.group)}>delete</button
                      >
                    </span>
                  {/if}
                </div>
              {:else if rem.phone}{@render phoneRow(item, index)}{:else}{@render colorRow(item, index)}{/if}
            {/snippet}
          </Virtual>
        {/if}
      </div>
      {#if rem.phone}<Waiting />{/if}
    {/if}
  </main>
  {#if view !== ''}
    <!-- the other views take the whole width -->
  {:else if chosen !== undefined}
    {#key chosen}<Sheet id={chosen} colors={all} groups={ledger.data?.groups ?? []} />{/key}
  {:else}
    <aside class="bg-base-200 p-5 print:hidden" aria-label="Sheet"><p>The sheet of a color shows here.</p></aside>
  {/if}
</div>

<style>
  .narrow {
    min-width: 7rem;
    max-width: 13.33rem;
    flex-basis: 7rem;
  }
  @media (max-width: 30rem) {
    .narrow {
      max-width: none;
    }
  }
  .chosen {
    background: var(--color-base-200);
  }
</style>
