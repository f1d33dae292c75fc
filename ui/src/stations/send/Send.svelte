<script lang="ts">
  import { tick, untrack } from 'svelte';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { Dragging, moved } from '../../lib/drag';
  import { house, useLedger, useSets } from '../../lib/house.svelte';
  import { openSlip } from '../../lib/slips';
  import { fits } from '../../lib/fits';
  import ListFind from '../../lib/ListFind.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { backTo, navigate, route } from '../../lib/router';
  import SetSheet from './SetSheet.svelte';
  import SetSlots from './SetSlots.svelte';
  import SetTools from './SetTools.svelte';
  import Ways from './Ways.svelte';
  import NewSet from './NewSet.svelte';
  import SetRow from './SetRow.svelte';

  const sets = useSets();
  const ledger = useLedger();
  const changing = useChange(['sets']);

  const chosen = $derived(route.params.set ? Number(route.params.set) : undefined);
  const set = $derived(sets.data?.find((s) => s.id === chosen));
  const follows = $derived(Boolean(set?.follows.role || set?.follows.tag));
  let words = $state('');
  const list = $derived((sets.data ?? []).filter((s) => fits(words, s.name, ...s.colors.map((c) => c.name))));
  const busy = $derived(changing.busy);
  // The order in hand while something is dragged; the server's otherwise.
  let order = $state<Schema['ColorRef'][]>([]);
  $effect(() => {
    const colors = set?.colors ?? [];
    untrack(() => (order = [...colors]));
  });

  $effect(() => {
    const first = sets.data?.[0];
    if (chosen === undefined && first && !rem.phone)
      void navigate('/h/:house/send/:set', { params: { house: String(house.id), set: String(first.id) }, replace: true });
  });

  const free = $derived((ledger.data?.colors ?? []).filter((c) => c.status === 'approved' && !order.some((o) => o.id === c.id)));
  const go = (id: number) =>
    navigate('/h/:house/send/:set', {
      params: { house: String(house.id), set: String(id) },
      replace: !rem.phone,
      scrollToTop: false,
    });

  type Order = Schema['ColorRef'][];
  const ordered = (s: Schema['SwatchSet'], version: number, colors: Order) => ({
    params: { path: { house: house.id, set: s.id } },
    body: { name: s.name, version, colors: colors.map((c) => c.id) },
  });

  function put(colors: Order, said?: string) {
    const s = set;
    if (!s) return Promise.resolve(false);
    const before = [...order];
    order = colors;
    return changing.run(async () => {
      try {
        const now = await need(api.PUT('/houses/{house}/sets/{set}', ordered(s, s.version, colors)));
        if (said) return { said, undo: [way('put', '/houses/{house}/sets/{set}', ordered(s, now.version, before))] };
      } catch (e) {
        order = before;
        throw e;
      }
    });
  }

  const placed = (carried: Schema['ColorRef'], onto: Schema['ColorRef']) =>
    `${carried.name} is number ${order.findIndex((c) => c.id === onto.id) + 1} of ${set?.name}`;

  // The focus goes along with what moves: it stays on the mover that was pressed, so that it can be pressed again, and on the
  // color where its arrows were used.
  function move(i: number, by: number, mover?: HTMLElement) {
    const [carried, onto] = [order[i], order[i + by]];
    if (!carried || !onto) return;
    const label = mover?.getAttribute('aria-label');
    void put(moved(order, carried, onto), placed(carried, onto)).then(async () => {
      await tick();
      const tile = document.getElementById(`tile-${carried.id}`);
      const again = label
        ? tile?.parentElement?.querySelector<HTMLButtonElement>(`[aria-label="${CSS.escape(label)}"]`)
        : undefined;
      const other = tile?.parentElement?.querySelector<HTMLButtonElement>('.mover:not(:disabled)');
      (mover ? (again && !again.disabled ? again : other) : tile)?.focus();
    });
  }
  const dragging = new Dragging<number>((carried, onto) => {
    const of = (id: number) => order.find((c) => c.id === id)!;
    void put(moved(order, of(carried), of(onto)), placed(of(carried), of(onto)));
  });

  const take = (c: Schema['ColorRef']) =>
    put(
      order.filter((o) => o.id !== c.id),
      `${c.name} taken out of ${set?.name}`,
    );

  // Retired colors that the set still holds, and the one step that puts their successor there.
  const retired = $derived((ledger.data?.colors ?? []).filter((c) => c.status === 'retired' && order.some((o) => o.id === c.id)));
  function replace(c: Schema['ColorRow']) {
    const next = ledger.data?.colors.find((o) => o.id === c.successor?.id);
    if (!next) return;
    const there = order.some((o) => o.id === next.id);
    const colors = there
      ? order.filter((o) => o.id !== c.id)
      : order.map((o) => (o.id === c.id ? { id: next.id, name: next.name, hex: next.hex } : o));
    void put(colors, `${next.name} took the place of ${c.name} in ${set?.name}`);
  }

  // What a set is most often taken along as, in one step and without an edition.
  const along = [
    { packing: 'gpl', name: 'plain text palette' },
    { packing: 'soc', name: 'open document palette' },
    { packing: 'css', name: 'CSS custom properties' },
    { packing: 'png', name: 'picture' },
  ];

  const light = $derived(rem.phone ? 1 : 3); // tiles per row of the picker that still show a name
</script>

<div class="work" data-at={chosen === undefined ? 'list' : 'one'}>
  <main class="along flex min-h-0 flex-col overflow-y-auto p-5 pt-4 phone:px-4">
    {#if rem.phone && set}<a class="flex min-h-[2.93rem] items-center font-bold" href={house.path('send')} onclick={backTo}
        >‹ Swatch sets</a
      >{/if}
    <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2" class:phone:hidden={chosen !== undefined}>
      <h1 class="phone:sr-only">Send</h1>
      <Ways at="sets" />
      {#if house.keeper}
        <NewSet {changing} {go} />
      {/if}
    </div>
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}

    {#if sets.data?.length === 0}
      <div class="pt-6">
        <h2>No swatch set yet</h2>
        <p class="mt-2">A swatch set is a choice of library colors in an order: what goes out together.</p>
      </div>
    {/if}
    <div class="mt-2" class:phone:hidden={chosen !== undefined}>
      <ListFind bind:words of={sets.data?.length ?? 0} label="Find in the sets" />
    </div>
    <ul class="mt-3" class:phone:hidden={chosen !== undefined}>
      {#each list as s (s.id)}
        <li class="seldom">
          <SetRow {s} chosen={s.id === chosen} colors={ledger.data?.colors ?? []} />
        </li>
      {/each}
    </ul>
    {#if words && list.length === 0}<p>No set has that in its name or among its colors.</p>{/if}

    {#if set}
      <section class="mt-5 phone:mt-0" aria-label={`Order of ${set.name}`}>
        <h2 class="flex flex-wrap items-baseline gap-x-4">
          {set.name}, in order
          <button
            class="link text-small font-normal phone:hidden"
            title="As a small window of its own, to copy from"
            onclick={() => openSlip(house.id, set.id)}>beside the work</button
          >
          {#if order.length > 0}
            <span class="flex items-baseline gap-3 text-small font-normal">
              take along:
              {#each along as f (f.packing)}<a
                  class="link inline-block min-h-[1.6rem] min-w-[1.6rem]"
                  href={`/api/houses/${house.id}/library?format=${f.packing}&colors=${order.map((c) => c.id).join(',')}`}
                  download={`${set.name}.${f.packing}`}
                  title={`As it is now, not fixed: ${f.name}`}>.{f.packing}</a
                >{/each}
            </span>
          {/if}
        </h2>
        {#if house.keeper}{#key set.id}<SetTools {set} {go} />{/key}{/if}
        <p class="text-small">
          {house.keeper
            ? 'Drag a color to its place, or move it with the arrows. Charts and video tools take the colors in this order.'
            : 'Charts and video tools take the colors in this order.'}
        </p>
        <ol class="tiles mt-3">
          {#each order as c, i (c.id)}
            <li {@attach dragging.item(c.id, house.keeper && !busy)}>
              <a
                id={`tile-${c.id}`}
                class="block h-[6.13rem]"
                style:background={c.hex}
                href={house.path(`library/${c.id}`)}
                draggable="false"
                aria-label={`${i + 1}, ${c.name}, ${c.hex}`}
                onkeydown={(e) => {
                  if (!house.keeper) return;
                  if (e.key === 'ArrowLeft') move(i, -1);
                  else if (e.key === 'ArrowRight') move(i, 1);
                  else if (e.key === 'Delete' && !follows) take(c);
                  else return;
                  e.preventDefault();
                  e.stopPropagation();
                }}
              ></a>
              <span class="block truncate pr-2 pt-1 text-small"><b>{i + 1}</b> {c.name}</span>
              {#if house.keeper}
                <span class="flex text-small">
                  <button
                    class="mover"
                    aria-label={`Move ${c.name} before`}
                    disabled={i === 0 || busy}
                    onclick={(e) => move(i, -1, e.currentTarget)}>◂</button
                  >
                  <button
                    class="mover"
                    aria-label={`Move ${c.name} behind`}
                    disabled={i === order.length - 1 || busy}
                    onclick={(e) => move(i, 1, e.currentTarget)}>▸</button
                  >
                  {#if !follows}<button class="mover link" aria-label={`Take ${c.name} out`} disabled={busy} onclick={() => take(c)}
                      >out</button
                    >{/if}
                </span>
              {/if}
            </li>
          {/each}
        </ol>
        {#each retired as c (c.id)}
          <p class="mt-2 flex flex-wrap gap-x-3 text-small">
            <span><b>{c.name}</b> is retired{c.successor ? `, replaced by ${c.successor.name}` : ''}.</span>
            {#if house.keeper && c.successor}<button class="link" disabled={busy} onclick={() => replace(c)}
                >put {c.successor.name} in its place here</button
              >{:else}<a class="link" href={house.path(`library/${c.id}`)}>its sheet</a>{/if}
          </p>
        {/each}
        {#if order.length === 0}<p class="mt-2">The set is empty. Press the colors that belong to it, in their order.</p>{/if}

        {#if house.keeper && free.length > 0 && !follows}
          <h2 class="mt-6">Add from the library</h2>
          <ul class="mt-2 grid gap-y-1.5" style:grid-template-columns={`repeat(${light}, minmax(0, 1fr))`}>
            {#each free as c (c.id)}
              <li>
                <button
                  class="flex h-10 w-full items-center gap-3 text-left"
                  disabled={busy}
                  onclick={() => put([...order, { id: c.id, name: c.name, hex: c.hex }])}
                >
                  <span class="h-10 w-16 shrink-0" style:background={c.hex}></span><span class="truncate">+ {c.name}</span>
                </button>
              </li>
            {/each}
          </ul>
        {/if}
        {#key set.id}<SetSlots {set} />{/key}
      </section>
    {/if}
  </main>
  {#if set}{#key set.id}<SetSheet {set} />{/key}{:else}<aside class="bg-base-200 p-5">
      <p>Editions and recipients of a set show here.</p>
    </aside>{/if}
</div>

<style>
  /* The tiles touch: an order is judged by its neighbors. */
  .tiles {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(6.53rem, 1fr));
    row-gap: 0.93rem;
  }
  .mover {
    min-width: 2rem;
    min-height: 1.73rem;
  }
  .tiles button:disabled {
    opacity: 0.35;
  }
</style>
