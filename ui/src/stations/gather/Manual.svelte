<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import type { FoundRow } from './found';

  // A document in which somebody wrote the colors down: its pages beside what was read on them, and what contradicts.
  let {
    found,
    rows,
    isTaken,
    names,
    chosen,
    without,
    tick,
    name,
    choose,
    leave,
  }: {
    found: Schema['FoundFile'];
    rows: FoundRow[];
    isTaken: (r: FoundRow) => boolean;
    names: Record<string, string>;
    chosen: Record<string, string>;
    without: Record<string, boolean>;
    tick: (r: FoundRow, on: boolean) => void;
    name: (r: FoundRow, text: string) => void;
    choose: (r: FoundRow, hex: string) => void;
    leave: (r: FoundRow, kind: string, on: boolean) => void;
  } = $props();

  const pages = $derived(found.pages ?? []);
  let at = $state<number>();
  let marked = $state<string>();
  const open = $derived(rows.filter((r) => (r.color.written?.disagree.length ?? 0) > 0));
  const current = $derived(rows.find((r) => r.key === marked) ?? open[0]);
  const shown = $derived(pages.find((p) => p.number === (at ?? current?.color.written?.page)) ?? pages[0]);
  const look = (r: FoundRow) => {
    marked = r.key;
    at = r.color.written?.page;
  };
  const place = (r: FoundRow) => {
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = r.color.written?.at ?? [];
    const pad = 0.006;
    return `left:${100 * (x0 - pad)}%;top:${100 * (y0 - pad)}%;width:${100 * (x1 - x0 + 2 * pad)}%;height:${100 * (y1 - y0 + 2 * pad)}%`;
  };
  const disagreeing = $derived(open.length === 1 ? 'One does' : `${open.length} do`);
  const counted = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;
  const given = (r: FoundRow) => (r.color.written?.given ?? []).map((v) => v.text).join('  ·  ');
</script>

<p class="mt-1">
  {#if found.of}{counted(found.of, 'page')}, {counted(rows.length, 'color')} written on
    {pages.length === 1 ? `page ${pages[0]?.number}` : `${pages.length} of them`}.
  {:else}{counted(rows.length, 'color')} written in {found.label}.{/if}
  {#if open.length === 0}{rows.length === 1 ? 'It agrees with itself.' : 'All agree with themselves.'}
  {:else}{rows.length - open.length} agree with themselves. {disagreeing} not: look, and choose.{/if}
</p>
<div class="mt-3 grid items-start gap-5" class:two={pages.length > 0}>
  {#if pages.length > 0}
    <div class="sticky top-0">
      <p class="flex flex-wrap gap-2 pb-2" role="group" aria-label="Pages">
        {#each pages as p (p.number)}
          <button
            class={['btn', p === shown ? 'btn-primary' : 'btn-plain']}
            aria-pressed={p === shown}
            onclick={() => (at = p.number)}>page {p.number}</button
          >
        {/each}
      </p>
      {#if shown?.png}
        <div class="relative border border-current">
          <img class="block w-full" src={`data:image/png;base64,${shown.png}`} alt={`Page ${shown.number}`} />
          {#each rows.filter((r) => r.color.written?.page === shown.number) as r (r.key)}
            <button
              class="place"
              class:here={r === current}
              style={place(r)}
              aria-label={`${r.color.name || r.color.hex} on the page`}
              onclick={() => look(r)}
            ></button>
          {/each}
        </div>
      {:else if shown}<p class="border-l-4 border-current pl-3">
          Page {shown.number} is not shown; all pages are too much at once.
        </p>{/if}
    </div>
  {/if}
  <ul class="min-w-0">
    {#each rows as r (r.key)}
      {@const c = r.color}
      {@const w = c.written}
      <li class="rule grid grid-cols-[1.6rem_4.27rem_1fr] gap-x-3 border-b py-1" class:marked={r === current}>
        <input
          type="checkbox"
          class="checkbox self-center"
          aria-label={`Take ${c.name || c.hex}`}
          checked={isTaken(r)}
          onchange={(e) => tick(r, e.currentTarget.checked)}
        />
        <span class="flex min-h-11" aria-hidden="true"
          >{#each w && w.others.length > 1 ? w.others : [{ hex: c.hex }] as o, i (i)}<span class="flex-1" style:background={o.hex}
            ></span>{/each}</span
        >
        <div class="min-w-0">
          <div class="grid grid-cols-[1fr_auto] gap-2">
            <input
              class="input w-full"
              aria-label={`Name of ${c.hex}`}
              placeholder={c.generic ? 'give it a name' : ''}
              value={names[r.key] ?? (c.generic ? '' : c.name)}
              onfocus={() => look(r)}
              onchange={(e) => name(r, e.currentTarget.value)}
            />
            <button class="link text-small" disabled={pages.length === 0} onclick={() => look(r)}
              >{w?.place}{w?.also.length ? `, ${w.also.join(', ')}` : ''}</button
            >
          </div>
          <p class="truncate font-mono text-small" title={given(r)}>{given(r)}</p>
          {#if w && w.disagree.length > 0}
            <div class="question my-1 px-3 py-2">
              {#each w.disagree as d (d.text)}
                <p class="text-small">
                  <span class="inline-block first-letter:uppercase">{d.text}.</span>
                  {#if (d.kind === 'ink' && c.spot) || d.kind === 'cmyk'}
                    <label class="ml-1 inline-flex items-center gap-1 whitespace-nowrap"
                      ><input
                        type="checkbox"
                        class="checkbox checkbox-sm"
                        checked={without[`${r.key} ${d.kind}`] ?? false}
                        onchange={(e) => leave(r, d.kind, e.currentTarget.checked)}
                      /> leave it out</label
                    >
                  {/if}
                </p>
              {/each}
              {#if w.others.length > 1}
                <p class="mt-1 flex flex-wrap gap-2" role="group" aria-label={`Which value ${c.name || c.hex} has`}>
                  {#each w.others as o (o.text)}
                    {@const on = (chosen[r.key] ?? c.hex) === o.hex}
                    <button class={['btn', on ? 'btn-primary' : 'btn-plain']} aria-pressed={on} onclick={() => choose(r, o.hex)}
                      >{o.text}</button
                    >
                  {/each}
                </p>
              {/if}
            </div>
          {/if}
          {#if c.nearest && c.nearest.deltaE < 5}<p class="text-small">
              {c.nearest.name}, {c.nearest.deltaE.toFixed(1)}
              {c.nearest.word}
            </p>{/if}
        </div>
      </li>
    {/each}
  </ul>
</div>

<style>
  .two {
    grid-template-columns: minmax(16rem, 2fr) minmax(25.33rem, 3fr);
  }
  .place {
    position: absolute;
    border: 1px solid transparent;
  }
  .place:hover,
  .place:focus-visible {
    border-color: #000;
    outline: 1px solid #fff;
  }
  .place.here {
    border: 2px solid #000;
    outline: 2px solid #fff;
  }
  .question {
    background: var(--color-base-300);
  }
</style>
