<script lang="ts">
  import { untrack } from 'svelte';
  import type { Schema } from '../../lib/api/client';
  import { house, useLedger } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import { navigate, route } from '../../lib/router';
  import { copy, notation } from '../../lib/state.svelte';
  import Value from '../../lib/Value.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import Sheet from './Sheet.svelte';

  const ledger = useLedger();
  let filter = $state('');
  let list = $state<{ show: (index: number) => void }>();

  const chosen = $derived(route.params.color ? Number(route.params.color) : undefined);

  // What can be found of each color, put together once and not at every key.
  const texts = $derived(
    (ledger.data?.colors ?? []).map((c) =>
      `${c.name} ${c.group} ${c.role} ${c.rule} ${c.status} ${c.hex} ${c.rgb.join(' ')} ${c.press.text} ${c.ink.code} ${c.ink.name}`.toLowerCase(),
    ),
  );
  const shown = $derived.by(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
    const all = ledger.data?.colors ?? [];
    return words.length === 0 ? all : all.filter((_, i) => words.every((w) => texts[i]?.includes(w)));
  });

  type Item = { group: string } | { color: Schema['ColorRow'] };
  const items = $derived.by(() => {
    const out: Item[] = [];
    let group: string | undefined;
    for (const color of shown) {
      if (color.group !== group) out.push({ group: (group = color.group) || 'No group' });
      out.push({ color });
    }
    return out;
  });

  const current = $derived(ledger.data?.colors.find((c) => c.id === chosen));

  function open(id: number) {
    void navigate('/h/:house/library/:color', { params: { house: String(house.id), color: String(id) }, replace: chosen !== undefined, scrollToTop: false });
  }

  // A bare library opens with its first color, so that the sheet is never empty.
  $effect(() => {
    const first = ledger.data?.colors[0];
    if (chosen === undefined && first) void navigate('/h/:house/library/:color', { params: { house: String(house.id), color: String(first.id) }, replace: true });
  });

  $effect(() => {
    const index = items.findIndex((i) => 'color' in i && i.color.id === chosen);
    untrack(() => list?.show(index));
  });

  function step(by: number) {
    const at = shown.findIndex((c) => c.id === chosen);
    const next = shown[Math.max(0, Math.min(shown.length - 1, at + by))];
    if (next) open(next.id);
  }

  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next color', run: () => step(1) },
      { key: 'ArrowUp', does: 'color before', run: () => step(-1) },
      { key: 'h', does: 'copy hex', run: () => current && void copy(notation.write('hex', current.rgb)) },
      { key: 'r', does: 'copy RGB', run: () => current && void copy(notation.write('rgb', current.rgb)) },
      { key: 'k', does: 'copy CMYK', run: () => current && void copy(notation.write('cmyk', current.press.value)) },
      { key: 'i', does: 'copy the ink code', run: () => current && void copy(current.ink.code) },
    ]),
  );

  const summary = $derived.by(() => {
    const all = ledger.data?.colors ?? [];
    const parts = [all.length === 1 ? '1 color' : `${all.length} colors`];
    const retired = all.filter((c) => c.status === 'retired').length;
    const drafts = all.filter((c) => c.status === 'draft').length;
    const moved = all.filter((c) => c.press.moved !== undefined || c.ink.moved !== undefined).length;
    if (retired) parts.push(`${retired} retired`);
    if (drafts) parts.push(`${drafts} proposed`);
    if (moved) parts.push(`${moved} with an approval for an older value`);
    return parts.join(', ');
  });
</script>

<div class="grid min-h-0 grid-cols-[minmax(0,2fr)_minmax(380px,1fr)]">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    <div class="flex items-baseline gap-4 pr-5">
      <h1>Library</h1>
      <span>{summary}</span>
      <input id="find" class="ml-auto w-[236px] border-b border-current bg-transparent py-1" type="search" placeholder="name, value or rule" aria-label="Find in the library" bind:value={filter}
        onkeydown={(e) => {
          if (e.key === 'Escape') filter = '';
          if (e.key === 'Enter' && shown[0]) {
            open(shown[0].id);
            e.currentTarget.blur();
          }
        }} />
      <a class="underline" href={`/api/houses/${house.id}/library`} download>export</a>
    </div>
    <div class="mt-2 flex min-h-0 flex-1 flex-col" role="table" aria-label="Ledger">
      <div role="rowgroup">
        <div class="grid-row border-b border-current pb-1 pr-3 text-small font-bold" role="row">
          <span class="grid grid-cols-3" role="columnheader"><span>Screen</span><span>Press</span><span>Ink</span></span>
          <span class="pl-2.5" role="columnheader">Color</span><span role="columnheader">Hex, RGB</span><span role="columnheader">CMYK coated</span><span role="columnheader">Spot</span><span role="columnheader">to press</span><span role="columnheader">to ink</span>
        </div>
      </div>
      {#if ledger.isPending}
        <p class="pt-6">Reading the library…</p>
      {:else if ledger.isError}
        <p class="pt-6" role="alert">{ledger.error.message}</p>
      {:else if ledger.data.colors.length === 0}
        <div class="pt-8">
          <h2>This library is empty</h2>
          <p class="mt-2">Gather the colors you have been sent; one paste will do.</p>
          <a class="btn btn-primary mt-4" href={house.path('gather')}>Gather colors</a>
        </div>
      {:else if shown.length === 0}
        <p class="pt-6">No color has “{filter}” in its name, values or rule. <button class="underline" onclick={() => (filter = '')}>Show all</button></p>
      {:else}
        <Virtual bind:this={list} {items} height={(i) => ('group' in i ? 30 : 66)} key={(i) => ('group' in i ? `g ${i.group}` : i.color.id)} label="Colors">
          {#snippet row(item)}
            {#if 'group' in item}
              <div class="flex h-full items-end pb-1 text-small font-bold" role="row"><span role="cell">{item.group}</span></div>
            {:else}
              {@const c = item.color}
              <!-- The whole row takes a click; the keyboard uses the name's link, or the arrow keys. -->
              <!-- svelte-ignore a11y_click_events_have_key_events -->
              <div
                class="grid-row h-[60px] items-center pr-3"
                class:chosen={c.id === chosen}
                role="row"
                aria-selected={c.id === chosen}
                tabindex="-1"
                onclick={(e) => !(e.target as Element).closest('button, a') && open(c.id)}
              >
                <span class="grid h-full grid-cols-3" role="cell" aria-label={`screen ${c.hex}, press ${c.press.word}, ink ${c.ink.word}`}>
                  <span style:background={c.hex}></span><span style:background={c.press.hex}></span><span style:background={c.ink.hex}></span>
                </span>
                <span class="min-w-0 pl-2.5 pr-3" role="cell">
                  <a class="block truncate font-bold" href={house.path(`library/${c.id}`)} onclick={(e) => { e.preventDefault(); open(c.id); }}>{c.name}</a>
                  <span class="line-clamp-2 text-small leading-[15px]">
                    {#if c.status === 'retired'}<b>retired</b>{c.successor ? `, use ${c.successor.name}` : ''}
                    {:else}{#if c.status === 'draft'}<b>proposed</b>{c.role || c.rule ? ' · ' : ''}{/if}{[c.role, c.rule].filter(Boolean).join(' · ')}{/if}
                  </span>
                </span>
                <span role="cell"><Value kind="hex" parts={c.rgb} label={`hex of ${c.name}`} /><span class="block text-small"><Value kind="rgb" parts={c.rgb} label={`RGB of ${c.name}`} /></span></span>
                <span role="cell"><Value kind="cmyk" parts={c.press.value} label={`CMYK of ${c.name}`} /><span class="block text-small">{c.press.origin}{c.press.moved !== undefined ? ', older value' : ''}</span></span>
                <span role="cell"><Value text={c.ink.code} label={`spot ink of ${c.name}`} /><span class="block text-small">{c.ink.origin}</span></span>
                <span role="cell"><b class="font-mono">{c.press.deltaE.toFixed(1)}</b><span class="block text-small">{c.press.word}</span></span>
                <span role="cell"><b class="font-mono">{c.ink.deltaE.toFixed(1)}</b><span class="block text-small">{c.ink.word}</span></span>
              </div>
            {/if}
          {/snippet}
        </Virtual>
      {/if}
    </div>
  </main>
  {#if chosen !== undefined}
    {#key chosen}<Sheet id={chosen} colors={ledger.data?.colors ?? []} groups={ledger.data?.groups ?? []} />{/key}
  {:else}
    <aside class="bg-base-200 p-5"><p>The sheet of a color shows here.</p></aside>
  {/if}
</div>

<style>
  .grid-row {
    display: grid;
    grid-template-columns: minmax(204px, 24%) minmax(126px, 1fr) 108px 126px 88px 80px 76px;
    column-gap: 0;
  }
  .chosen {
    background: var(--color-base-200);
  }
</style>
