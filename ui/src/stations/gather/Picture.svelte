<script lang="ts">
  import { onDestroy, untrack } from 'svelte';
  import { sentence, type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { engine, type Near, type Opened } from '../../lib/engine';
  import { comparison } from '../../lib/comparison.svelte';
  import { house, useLedger } from '../../lib/house.svelte';
  import { screen } from '../../lib/screen.svelte';
  import Bring from './Bring.svelte';
  import { setName } from './found';
  import { incoming } from './incoming.svelte';

  let { choose }: { choose: () => void } = $props();

  interface Point {
    id: number;
    x: number;
    y: number;
    window: number;
    hex: string;
    /** The color itself, as CSS writes it, where sRGB does not hold it. */
    wide?: string;
    share?: number;
    near?: Near;
    name?: string;
    /** It is taken as this color of the library, which a lossy picture only comes near to. */
    as?: { name: string; hex: string; value: string };
  }

  const ledger = useLedger();
  let opened = $state<Opened | null>(null);
  let problem = $state('');
  let stage = $state(''); // what is under way; empty when nothing is
  let points = $state<Point[]>([]);
  let active = $state(0); // id of the point in hand
  let many = $state(5);
  let chart = $state(false);
  let drawn = $state(false); // all flat colors of what was drawn are taken
  let next = 1;

  let canvas = $state<HTMLCanvasElement>();
  let glass = $state<HTMLCanvasElement>();
  let room = $state(700);
  let tall = $state(800);
  let whole = $state.raw<HTMLCanvasElement | null>(null); // the picture as the core sees it: upright and in sRGB

  const hand = $derived(points.find((p) => p.id === active));
  const scale = $derived(opened ? Math.min((room - 240) / opened.width, Math.max(320, tall * 0.48) / opened.height, 8) : 1);
  const face = (p: Point) => (screen.wide && p.wide) || p.hex;
  const exact = (c: { hex: string; master?: Schema['ColorMaster'] }) => c.master?.css ?? c.hex;
  const library = $derived((ledger.data?.colors ?? []).filter((c) => c.status !== 'retired'));

  $effect(() => {
    const file = incoming.picture;
    if (file) untrack(() => void open(file)); // it must not run again for what it changes itself
  });

  onDestroy(() => opened && void engine.ask('close', { id: opened.id }));

  let turn = 0; // of the picture that was opened last
  async function open(file: File) {
    const mine = ++turn;
    stage = 'decoding its pixels, 1 of 3';
    [problem, points] = ['', []];
    if (opened) void engine.ask('close', { id: opened.id });
    [opened, whole] = [null, null];
    try {
      const here = await engine.open(file);
      if (mine !== turn) {
        void engine.ask('close', { id: here.id });
        return; // another one was opened meanwhile
      }
      opened = here;
      stage = `showing ${((opened.width * opened.height) / 1e6).toFixed(1)} megapixels, 2 of 3`;
      const all = document.createElement('canvas');
      [all.width, all.height] = [opened.width, opened.height];
      all.getContext('2d')!.putImageData(await engine.pixels(opened), 0, 0);
      if (mine !== turn) return;
      whole = all;
      stage = 'finding its colors, 3 of 3';
      chart = opened.chart.length > 0;
      drawn = !chart && opened.flat.length > many;
      await propose();
    } catch (e) {
      if (mine !== turn) return;
      [opened, whole] = [null, null];
      problem = `${file.name}: ${sentence(e)}.`;
    } finally {
      if (mine === turn) stage = '';
    }
  }

  // While other points are looked for, the ones before are not what would be put on the tray. Only the newest answer counts.
  let proposing = $state(false);
  let asked = 0;
  async function propose() {
    if (!opened) return;
    const mine = ++asked;
    proposing = true;
    const spots = chart ? opened.chart : drawn ? opened.flat : await engine.ask('colors', { id: opened.id, n: many });
    if (mine !== asked) return;
    proposing = false;
    points = spots.map((s) => ({ id: next++, x: s.x, y: s.y, window: chart ? 5 : 1, hex: s.hex, wide: s.wide, share: s.share }));
    active = points[0]?.id ?? 0;
    await compare();
  }

  async function compare() {
    const near = await engine.ask('near', { values: points.map((p) => p.wide ?? p.hex), among: library.map(exact) });
    points.forEach((p, i) => (p.near = near[i]));
  }

  async function sample(p: Point) {
    if (!opened) return;
    p.x = Math.max(0, Math.min(opened.width - 1, Math.round(p.x)));
    p.y = Math.max(0, Math.min(opened.height - 1, Math.round(p.y)));
    try {
      const s = await engine.ask('sample', { id: opened.id, x: p.x, y: p.y, window: p.window });
      [p.hex, p.wide, p.share, p.as] = [s.hex, s.wide, undefined, undefined];
      problem = '';
    } catch (e) {
      problem = `${sentence(e)}.`;
    }
    const [near] = await engine.ask('near', { values: [p.wide ?? p.hex], among: library.map(exact) });
    p.near = near;
  }

  function add(e: MouseEvent) {
    if (!opened || !canvas || points.length >= 64) return;
    const box = canvas.getBoundingClientRect();
    const p: Point = { id: next++, x: (e.clientX - box.left) / scale, y: (e.clientY - box.top) / scale, window: 5, hex: '#000000' };
    points.push(p);
    active = p.id;
    void sample(points[points.length - 1]!);
  }

  function key(e: KeyboardEvent, p: Point) {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (by) {
      e.preventDefault();
      e.stopPropagation();
      const far = e.shiftKey ? 10 : 1;
      p.x += by[0]! * far;
      p.y += by[1]! * far;
      void sample(p);
    } else if (e.key === 'Delete' || e.key === 'Backspace') {
      e.preventDefault();
      remove(p);
    }
  }

  function remove(p: Point) {
    points = points.filter((o) => o.id !== p.id);
    if (active === p.id) active = points[0]?.id ?? 0;
  }

  let dragged: Point | null = null;
  function drag(e: PointerEvent, p: Point) {
    active = p.id;
    dragged = p;
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
  }
  function move(e: PointerEvent) {
    if (!dragged || !canvas) return;
    const box = canvas.getBoundingClientRect();
    dragged.x = (e.clientX - box.left) / scale;
    dragged.y = (e.clientY - box.top) / scale;
    void sample(dragged);
  }

  $effect(() => {
    if (!opened || !canvas || !whole) return;
    const ratio = window.devicePixelRatio || 1;
    canvas.width = Math.max(1, Math.round(opened.width * scale * ratio));
    canvas.height = Math.max(1, Math.round(opened.height * scale * ratio));
    const to = canvas.getContext('2d')!;
    to.imageSmoothingQuality = 'high';
    to.drawImage(whole, 0, 0, canvas.width, canvas.height);
  });

  // The glass: 21 pixels a side, and the window that is sampled.
  const side = 21;
  $effect(() => {
    if (!glass || !hand || !whole) return;
    const to = glass.getContext('2d')!;
    const cell = glass.width / side;
    to.imageSmoothingEnabled = false;
    to.fillStyle = '#777';
    to.fillRect(0, 0, glass.width, glass.height);
    const half = (side - 1) / 2;
    to.drawImage(whole, hand.x - half, hand.y - half, side, side, 0, 0, glass.width, glass.height);
    const from = Math.max(0, half - Math.floor(hand.window / 2)) * cell;
    const size = Math.min(side, hand.window) * cell;
    to.strokeStyle = '#fff';
    to.lineWidth = 3;
    to.strokeRect(from, from, size, size);
    to.strokeStyle = '#000';
    to.lineWidth = 1;
    to.strokeRect(from, from, size, size);
  });

  const colors = $derived(
    points.map((p): Schema['NewCandidate'] => ({
      name: p.as?.name ?? (p.name?.trim() || undefined),
      value: p.as?.value ?? p.wide ?? p.hex,
      origin: 'picture',
      source: `${incoming.picture?.name ?? 'picture'} at ${p.x}, ${p.y}`,
    })),
  );
</script>

<svelte:window bind:innerHeight={tall} />

{#if problem}<p role="alert" class="mb-3 border-l-4 border-current pl-3">{problem}</p>{/if}
{#if stage}<p class="mb-2 flex gap-4" aria-live="polite">
    Reading {incoming.picture?.name}: {stage} <button class="link" onclick={() => engine.cancel()}>cancel</button>
  </p>{/if}
{#if !opened && !stage}
  <div class="max-w-[37.33rem]">
    <h2>A logo, a photo, a screenshot of a palette</h2>
    <p class="mt-2">
      Drop it here, paste it from the clipboard, or open it. PNG, JPEG, WebP, GIF, TIFF and BMP; a profile inside is honored. If it
      shows a palette, its patches are taken in order.
    </p>
    <button class="btn btn-primary mt-4" onclick={choose}>Open a picture</button>
  </div>
{:else if opened}
  <div class="flex items-baseline gap-4">
    <h2 class="truncate">{incoming.picture?.name}</h2>
    <span class="whitespace-nowrap">{opened.width} × {opened.height} pixels{opened.profile ? `, from ${opened.profile}` : ''}</span>
    {#if opened.chart.length > 0}
      <span class="ml-auto flex items-center gap-3 whitespace-nowrap">
        {chart ? `A palette of ${opened.chart.length} patches.` : 'Taken as a picture.'}
        <button
          class="link"
          onclick={() => {
            chart = !chart;
            void propose();
          }}>{chart ? 'take the colors of the area instead' : 'take the patches instead'}</button
        >
      </span>
    {/if}
  </div>
  {#if !chart && opened.flat.length > 5}
    <p class="text-small">
      {drawn ? `All ${opened.flat.length} flat colors of it are taken.` : 'Its largest areas are taken.'}
      <button
        class="link ml-2"
        onclick={() => {
          drawn = !drawn;
          void propose();
        }}>{drawn ? 'take its largest areas instead' : `take all ${opened.flat.length} flat colors`}</button
      >
    </p>
  {/if}
  {#if opened.note}<p class="text-small">{opened.note}</p>{/if}
  <div class="mt-3 grid grid-cols-[auto_14.67rem] justify-start gap-5" bind:clientWidth={room}>
    <div>
      <div class="relative" style:width={`${opened.width * scale}px`} style:height={`${opened.height * scale}px`}>
        <!-- A click adds a point; from the keyboard, "add a point" does, and the arrow keys move it. -->
        <canvas
          bind:this={canvas}
          class="block h-full w-full cursor-crosshair"
          aria-label={`${incoming.picture?.name}, ${opened.width} by ${opened.height} pixels`}
          onclick={add}
        ></canvas>
        {#each points as p, i (p.id)}
          <button
            class="point"
            class:hand={p.id === active}
            style:left={`${(p.x + 0.5) * scale}px`}
            style:top={`${(p.y + 0.5) * scale}px`}
            aria-label={`Point ${i + 1}, ${p.hex} at ${p.x}, ${p.y}; arrow keys move it by a pixel`}
            onkeydown={(e) => key(e, p)}
            onfocus={() => (active = p.id)}
            onpointerdown={(e) => drag(e, p)}
            onpointermove={move}
            onpointerup={() => (dragged = null)}>{i + 1}</button
          >
        {/each}
      </div>
    </div>
    <div>
      {#if hand}
        <canvas bind:this={glass} width="210" height="210" class="block border border-current" aria-hidden="true"></canvas>
        <p class="mt-1 flex items-baseline justify-between">
          <span class="font-mono">{hand.hex}</span><span class="font-mono text-small">{hand.x}, {hand.y}</span>
        </p>
        {#if hand.wide}<p class="text-small">sRGB ends before it: <span class="font-mono">{hand.wide}</span></p>{/if}
        <label class="mt-1 flex items-center gap-2 text-small"
          >Window
          <select
            class="select w-auto"
            value={hand.window}
            onchange={(e) => {
              hand.window = Number(e.currentTarget.value);
              void sample(hand);
            }}
          >
            {#each [1, 3, 5, 11, 31] as w (w)}<option value={w}>{w} × {w} pixels</option>{/each}
          </select>
        </label>
      {:else}<p>Click into the picture to add a point.</p>{/if}
      {#if !chart && !drawn}
        <label class="mt-2 flex items-center gap-2 text-small"
          >Colors
          <input
            class="input w-16"
            type="number"
            min="1"
            max="24"
            value={many}
            oninput={(e) => {
              const n = e.currentTarget.valueAsNumber;
              if (!(n >= 1 && n <= 24) || n === many) return;
              many = Math.round(n);
              void propose();
            }}
            onchange={(e) => (e.currentTarget.value = String(many))}
          />
        </label>
      {/if}
    </div>
  </div>
  <div class="mt-4"><Bring colors={proposing ? [] : colors} proposed={setName(incoming.picture?.name ?? '')} /></div>
  <ul class="mt-3">
    {#each points as p, i (p.id)}
      {@const near = p.near && p.near.at >= 0 ? library[p.near.at] : undefined}
      <li
        class="rule grid grid-cols-[1.6rem_6.67rem_6rem_minmax(8rem,11.33rem)_minmax(0,1fr)_4.27rem_auto] items-center gap-3 border-b"
        class:font-bold={p.id === active}
      >
        <button class="text-left font-mono" aria-label={`Look at point ${i + 1}`} onclick={() => (active = p.id)}>{i + 1}</button>
        <span class="grid h-10 grid-cols-2" aria-hidden="true"
          ><span style:background={face(p)}></span><span style:background={near ? screen.face(near) : face(p)}></span></span
        >
        <span class="font-mono" title={p.as ? undefined : p.wide}
          >{p.as?.hex ?? p.hex}{#if p.wide && !p.as}<span class="block font-sans text-small leading-tight whitespace-nowrap"
              >beyond sRGB</span
            >{/if}</span
        >
        <input
          class="input w-full"
          aria-label={`Name of point ${i + 1}`}
          placeholder="name it"
          maxlength="60"
          disabled={!!p.as}
          value={p.as?.name ?? p.name ?? ''}
          onchange={(e) => (p.name = e.currentTarget.value)}
        />
        <span class="min-w-0">
          {#if near && p.near}
            <span class="block truncate"
              ><Distance value={p.near.deltaE} word={p.near.word} />
              {p.near.word === 'identical' ? 'to' : 'from'}
              {near.name}</span
            >
            {#if p.as}<button class="link text-small" onclick={() => (p.as = undefined)}>take {p.hex}</button
              >{:else if p.near.deltaE > 0 && p.near.deltaE < 3.5}<button
                class="link text-small"
                onclick={() => (p.as = { name: near.name, hex: near.hex, value: exact(near) })}>take it as {near.name}</button
              >{/if}
          {:else}the library is empty{/if}
        </span>
        <span class="text-right font-mono text-small">{p.share !== undefined ? `${(p.share * 100).toFixed(1)} %` : ''}</span>
        <button class="link" aria-label={`Remove point ${i + 1}`} onclick={() => remove(p)}>remove</button>
      </li>
    {/each}
  </ul>
  <p class="mt-2 text-small">
    <button
      class="link"
      onclick={() => {
        if (opened) {
          points.push({ id: next++, x: opened.width >> 1, y: opened.height >> 1, window: 5, hex: '#000000' });
          active = points[points.length - 1]!.id;
          void sample(points[points.length - 1]!);
        }
      }}>add a point in the middle</button
    >
    {#if points.length > 0}<a
        class="ml-5 link"
        href={house.path('library/view/compare')}
        onclick={() => comparison.add(points.map((p, i) => ({ label: `${incoming.picture?.name}, point ${i + 1}`, hex: p.hex })))}
        >compare the points</a
      >{/if}
  </p>
{/if}

<style>
  .point {
    position: absolute;
    width: 1.47rem;
    height: 1.47rem;
    transform: translate(-50%, -50%);
    background: rgb(17 17 17 / 0.72);
    color: #fff;
    font-size: 0.87rem;
    line-height: 1.33rem;
    border: 1px solid #fff;
    touch-action: none;
    cursor: move;
  }
  .point.hand {
    background: #fff;
    color: #111;
    border-color: #111;
    font-weight: 700;
  }
</style>
