<script lang="ts">
  import { rem } from '../../lib/rem.svelte';
  import { followFocus } from '../../lib/focus';
  import { flushSync, untrack } from 'svelte';
  import { way } from '../../lib/back';
  import { api, need } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { Dragging } from '../../lib/drag';
  import { house, useLedger } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import { navigate, route } from '../../lib/router';
  import { copy, notation } from '../../lib/state.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import Backup from './Backup.svelte';
  import Compare from './Compare.svelte';
  import FirstSteps from './FirstSteps.svelte';
  import Gradients from './Gradients.svelte';
  import Many from './Many.svelte';
  import { placeBefore } from './place.svelte';
  import Inks from './Inks.svelte';
  import Plane from './Plane.svelte';
  import Printed from './Printed.svelte';
  import Presses from './Presses.svelte';
  import Sheet from './Sheet.svelte';
  import { closeLimit, underGroups, type Item } from './shown';
  import Views from './Views.svelte';
  import Waiting from './Waiting.svelte';
  import { columns, table } from './table.svelte';
  import { useNarrowing } from './narrowing.svelte';
  import GroupRow from './GroupRow.svelte';
  import LedgerHead from './LedgerHead.svelte';
  import LedgerRow from './LedgerRow.svelte';
  import LibraryBar from './LibraryBar.svelte';
  import PhoneRow from './PhoneRow.svelte';

  const ledger = useLedger();
  let list = $state<{ show: (index: number) => void }>();
  const place = placeBefore(() => all);

  const view = $derived(route.params.view ?? '');
  const chosen = $derived(route.params.color ? Number(route.params.color) : undefined);
  const all = $derived(ledger.data?.colors ?? []);

  const narrowing = useNarrowing(
    () => all,
    () => view === '', // other views are not narrowed
  );
  const shown = $derived(narrowing.shown);
  const grouped = $derived(table.sort === 'hand' && !table.close.trim());
  const items = $derived(grouped ? underGroups(shown) : (shown as Item[]));

  const current = $derived(all.find((c) => c.id === chosen));
  const marked = $derived(all.filter((c) => table.marked[c.id]));
  const shownIds = $derived(shown.map((s) => s.color.id));
  const shownMarked = $derived(shownIds.filter((id) => table.marked[id]).length);
  function gridKeys(e: KeyboardEvent) {
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a' && !(e.target as Element).closest('input:not([type=checkbox])')) {
      e.preventDefault();
      table.mark(shownIds, shownMarked < shownIds.length);
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

  const changing = useChange(['ledger', 'sheet'], { aloud: true });
  const here = () => ({ params: { path: { house: house.id } } });
  const renameGroup = (name: string, to: string) =>
    changing.run(async () => {
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
        run: () => current && table.markOne(current.id),
      },
      { key: 'e', alt: true, does: 'earlier in the order by hand', run: () => shift(-1) },
      { key: 'f', alt: true, does: 'further down in the order by hand', run: () => shift(1) },
    ]),
  );

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
          bind:value={narrowing.words}
          onkeydown={(e) => {
            if (e.key === 'Escape') narrowing.words = '';
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
      <LibraryBar {all} {narrowing} />
      {#if marked.length > 0}<Many {marked} hidden={marked.length - shownMarked} groups={ledger.data?.groups ?? []} />{/if}
      <div
        class="mt-1 flex min-h-0 flex-1 flex-col"
        role="grid"
        aria-label="Ledger"
        aria-rowcount={items.length + 1}
        onkeydown={gridKeys}
        tabindex="-1"
      >
        <LedgerHead {on} {grid} {shownIds} marked={shownMarked} />
        {#if ledger.isPending}
          <p class="pt-6">Reading the library…</p>
        {:else if ledger.isError}
          <p class="pt-6" role="alert">{ledger.error.message}</p>
        {:else if all.length === 0}
          <FirstSteps />
        {:else if shown.length === 0}
          <p class="pt-6">
            No color fits{narrowing.words ? ` “${narrowing.words}”` : ''}{table.close.trim()
              ? ` within ${closeLimit} of ${table.close}`
              : ''}{table.role ? ` as ${table.role}` : ''}.
            <button class="link" onclick={narrowing.showAll}>Show all</button>
          </p>
        {:else if table.printing}
          <Printed
            {items}
            label={[...new Set(['Library', narrowing.words, narrowing.said.replace('order and choice', '')])]
              .filter(Boolean)
              .join(', ')}
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
                <GroupRow
                  group={item.group}
                  {index}
                  ids={shown.filter((s) => s.color.group === item.group).map((s) => s.color.id)}
                  rename={(to) => renameGroup(item.group, to)}
                  remove={() => deleteGroup(item.group)}
                />
              {:else if rem.phone}<PhoneRow s={item} {index} {chosen} bind:copied {open} />{:else}<LedgerRow
                  s={item}
                  {index}
                  {chosen}
                  {on}
                  {grid}
                  drag={dragging.item(item.color.id, grouped && house.keeper)}
                  {shownIds}
                  {open}
                  steps={step}
                />{/if}
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
</style>
