<script lang="ts">
  import { searchParams } from 'sv-router';
  import { untrack } from 'svelte';
  import { sentence, type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest, type Member, type Near } from '../../lib/engine';
  import { house, useLedger } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import Bring from './Bring.svelte';
  import FirstColor from './FirstColor.svelte';

  const hues: Record<string, number> = {
    monochromatic: 5,
    analogous: 3,
    complementary: 2,
    'split complementary': 3,
    triadic: 3,
    tetradic: 4,
  };
  const schemes = ['monochromatic', 'analogous', 'complementary', 'split complementary', 'triadic', 'tetradic'];
  const ledger = useLedger();
  const library = $derived((ledger.data?.colors ?? []).filter((c) => c.status !== 'retired'));

  interface Hand {
    turn: number;
    lift: number;
    chroma: number;
  }
  // The harmony that is being built, with what was done by hand: moved members keep their place, unlinked ones their color,
  // whatever becomes of the rest.
  const work = kept(`harmony-${house.id}`, {
    value: '',
    wheel: 'perceptual',
    scheme: 'triadic',
    count: 0, // of its members; 0 for as many as the scheme has hues
    extra: [] as string[], // companions of members that are taken too
    spread: true,
    moved: {} as Record<number, Hand>,
    held: {} as Record<number, string>, // unlinked: the color it has
    left: {} as Record<number, boolean>,
    active: 0,
  });
  const w = $derived(work.now);
  // Another place sends a color to begin from.
  const from = String(searchParams.get('from') ?? '');
  if (from && untrack(() => work.now.value) !== from)
    work.now = { ...untrack(() => work.now), value: from, moved: {}, held: {}, left: {} };

  let members = $state<Member[]>([]);
  let near = $state<Near[]>([]);
  let note = $state('');
  let problem = $state('');

  // Without a word from the person, the first library color is what the set is built around.
  const value = $derived(w.value || library[0]?.name || '');
  const base = $derived(library.find((c) => c.name.toLowerCase() === value.trim().toLowerCase())?.hex ?? value);

  const show = newest(
    async (a: {
      value: string;
      wheel: string;
      scheme: string;
      count: number;
      spread: boolean;
      moved: Record<number, Hand>;
      held: Record<number, string>;
    }) => {
      let h = await engine.ask('harmony', { value: a.value, wheel: a.wheel, scheme: a.scheme, count: a.count, spread: a.spread });
      const note = h.note;
      const byHand = h.members.some((_, i) => i > 0 && (a.moved[i] || a.held[i]));
      if (byHand) {
        const placed = h.members.map((m, i) =>
          i === 0 ? m : a.held[i] ? { ...m, hex: a.held[i], free: true } : a.moved[i] ? { ...m, ...a.moved[i] } : m,
        );
        h = await engine.ask('harmony', { value: a.value, wheel: a.wheel, members: placed });
      }
      return { h, note, near: await engine.ask('near', { values: h.members.map((x) => x.hex), among: library.map((c) => c.hex) }) };
    },
    (r) => {
      [members, near, note, problem] = [r.h.members, r.near, r.note, ''];
      if (w.active >= r.h.members.length) w.active = 0;
    },
    (e) => (problem = `${sentence(e)}.`),
  );

  $effect(() => {
    const { wheel, scheme, count = 0, spread, moved, held } = $state.snapshot(w);
    if (base.trim()) show({ value: base, wheel, scheme, count, spread, moved, held });
  });

  const active = $derived(Math.min(w.active, members.length - 1));
  const hand = $derived(members[active]);

  function place(i: number, to: Hand) {
    if (i === 0) return;
    if (w.held[i]) {
      // Moved by hand while it is unlinked: it gets the color of the new place, and keeps that.
      const m = { ...$state.snapshot(members[i]!), ...to, free: false };
      void engine
        .ask('harmony', { value: base, wheel: w.wheel, members: [members[0]!, m] })
        .then((h) => (w.held[i] = h.members[1]!.hex));
    } else w.moved[i] = to;
  }
  function set(part: keyof Hand, v: number) {
    const m = members[active];
    if (m) place(active, { turn: m.turn, lift: m.lift, chroma: m.chroma, [part]: v });
  }
  function link(i: number, free: boolean) {
    if (free) w.held[i] = members[i]!.hex;
    else {
      const { turn, lift, chroma } = members[i]!;
      w.moved[i] = { turn, lift, chroma };
      delete w.held[i];
    }
  }
  // A member becomes the first color, and the set is built around it.
  function first(i: number) {
    const m = members[i];
    if (m) work.now = { ...w, value: m.hex, moved: {}, held: {}, left: {}, active: 0 };
  }
  // A value that is typed for a member unlinks it; that of the first color moves all.
  function type(i: number, text: string) {
    void engine.ask('look', { value: text }).then(
      (l) => {
        problem = '';
        if (i === 0) w.value = l.hex;
        else w.held[i] = l.hex;
      },
      (e: unknown) => (problem = `${sentence(e)}.`),
    );
  }
  // What goes with the member that is active: what it stands opposite to, and lighter and darker ones.
  let companions = $state<{ name: string; hex: string }[]>([]);
  const accompany = newest(
    async (a: { hex: string; wheel: string }) => {
      const [opposite, scale] = await Promise.all([
        engine.ask('harmony', { value: a.hex, wheel: a.wheel, scheme: 'complementary', spread: true }),
        engine.ask('scale', { value: a.hex, percents: [30, 60] }),
      ]);
      return [
        { name: 'complement', hex: opposite.members[1]!.hex },
        { name: 'tint, 60 %', hex: scale.tints[1]! },
        { name: 'tint, 30 %', hex: scale.tints[0]! },
        { name: 'shade, 30 %', hex: scale.shades[0]! },
        { name: 'shade, 60 %', hex: scale.shades[1]! },
      ];
    },
    (list) => (companions = list),
    () => (companions = []),
  );
  $effect(() => {
    const hex = hand?.hex;
    if (hex) accompany({ hex, wheel: w.wheel });
  });
  const extra = $derived(w.extra ?? []);
  const take = (hex: string) => (w.extra = extra.includes(hex) ? extra.filter((x) => x !== hex) : [...extra, hex]);

  const touched = $derived(Object.keys(w.moved).length + Object.keys(w.held).length > 0);

  // The wheel: a member stands at its turn, as far out as its chroma.
  const size = 250;
  const radius = 88;
  const at = (m: Member) => {
    const a = ((m.turn - 90) * Math.PI) / 180;
    const r = radius * Math.min(1.35, Math.max(0.12, m.chroma));
    return { x: size / 2 + r * Math.cos(a), y: size / 2 + r * Math.sin(a) };
  };
  let ring = $state<SVGSVGElement>();
  let dragging = $state(-1);
  function move(e: PointerEvent) {
    if (dragging < 1 || !ring) return;
    const box = ring.getBoundingClientRect();
    const x = e.clientX - box.left - size / 2;
    const y = e.clientY - box.top - size / 2;
    place(dragging, {
      turn: Math.round(((Math.atan2(y, x) * 180) / Math.PI + 90 + 360) % 360),
      lift: members[dragging]!.lift,
      chroma: Math.min(1.35, Math.hypot(x, y) / radius),
    });
  }
  function key(e: KeyboardEvent, i: number) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (by && i > 0) {
      e.preventDefault();
      e.stopPropagation();
      w.active = i;
      set('turn', (members[i]!.turn + by + 360) % 360);
    }
  }

  const byHand = [
    { part: 'turn', name: 'Turn', min: 0, max: 359, step: 1, unit: '°' },
    { part: 'lift', name: 'Lightness', min: -0.6, max: 0.6, step: 0.01, unit: '' },
    { part: 'chroma', name: 'Chroma', min: 0, max: 1.35, step: 0.01, unit: ' ×' },
  ] as const;

  const colors = $derived([
    ...members.flatMap((m, i): Schema['NewCandidate'][] =>
      w.left[i]
        ? []
        : [{ value: m.hex, origin: 'harmony', source: `${w.scheme} around ${value}, ${w.wheel} wheel, ${Math.round(m.turn)}°` }],
    ),
    ...extra.map((hex): Schema['NewCandidate'] => ({
      value: hex,
      origin: 'harmony',
      source: `beside ${w.scheme} around ${value}`,
    })),
  ]);
</script>

<div class="flex flex-wrap items-end gap-4">
  <label class="grid gap-1 text-small"
    >Around a library color or any value
    <input
      class="input w-[12.67rem]"
      list="harmony-library"
      spellcheck="false"
      {value}
      onchange={(e) => (w.value = e.currentTarget.value)}
    />
  </label>
  <datalist id="harmony-library"
    >{#each library as c (c.id)}<option value={c.name}>{c.hex}</option>{/each}</datalist
  >
  <label class="grid gap-1 text-small"
    >Scheme
    <select class="select w-[11.47rem]" bind:value={w.scheme}
      >{#each schemes as s (s)}<option>{s}</option>{/each}</select
    >
  </label>
  <label class="grid gap-1 text-small"
    >Members
    <select
      class="select w-[4.93rem]"
      bind:value={() => w.count || hues[w.scheme] || 3, (n) => (w.count = n === hues[w.scheme] ? 0 : n)}
      >{#each [2, 3, 4, 5, 6, 7, 8] as n (n)}<option value={n}>{n}</option>{/each}</select
    >
  </label>
  <label class="grid gap-1 text-small"
    >Wheel
    <select class="select w-[10rem]" bind:value={w.wheel}
      ><option value="perceptual">perceptual</option><option value="painter">painter’s</option></select
    >
  </label>
  <label class="grid gap-1 text-small"
    >Lightness
    <select class="select w-[13.67rem]" bind:value={w.spread}
      ><option value={true}>as suits each hue</option><option value={false}>that of the first color</option></select
    >
  </label>
  {#if touched}<button
      class="link pb-2"
      onclick={() => {
        w.moved = {};
        w.held = {};
      }}>undo what was moved by hand</button
    >{/if}
</div>
{#if note}<p class="mt-3 border-l-4 border-current pl-3">{note}</p>{/if}
{#if problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{problem}</p>{/if}
{#if members.length > 0}
  <div class="mt-4 flex h-28" aria-hidden="true">
    {#each members as m, i (i)}<span class="flex-1" style:background={m.hex}></span>{/each}
  </div>
  <ul class="flex" aria-label="Members of the set">
    {#each members as m, i (i)}
      {@const n = near[i] && near[i].at >= 0 ? library[near[i].at] : undefined}
      <li class="min-w-0 flex-1 pr-2 pt-1 text-small">
        <button
          class="member block min-h-[1.6rem] text-left font-mono text-[1rem]"
          aria-pressed={active === i}
          onclick={() => (w.active = i)}>{m.hex}</button
        >
        {#if n && near[i]}<span class="block"
            ><Distance value={near[i].deltaE} word={near[i].word} /> {near[i].word === 'identical' ? 'to' : 'from'} {n.name}</span
          >{/if}
        <label class="mt-1 flex items-center gap-2"
          ><input type="checkbox" class="checkbox" bind:checked={() => !w.left[i], (on) => (w.left[i] = !on)} /> keep</label
        >
        {#if i > 0}<label class="mt-1 flex items-center gap-2"
            ><input type="checkbox" class="checkbox" bind:checked={() => m.free, (free) => link(i, free)} /> unlinked</label
          >{/if}
      </li>
    {/each}
  </ul>
  <div class="mt-4 grid grid-cols-[16.67rem_minmax(0,1fr)] gap-6">
    <svg
      bind:this={ring}
      width={size}
      height={size}
      role="group"
      aria-label="Wheel"
      onpointermove={move}
      onpointerup={() => (dragging = -1)}
    >
      <circle cx={size / 2} cy={size / 2} r={radius} fill="none" stroke="currentColor" />
      <path d={`M${size / 2} 8V${size - 8}M8 ${size / 2}H${size - 8}`} stroke="currentColor" stroke-width="0.5" />
      {#each members as m, i (i)}
        {@const p = at(m)}
        <line x1={size / 2} y1={size / 2} x2={p.x} y2={p.y} stroke="currentColor" stroke-dasharray={m.free ? '3 3' : undefined} />
        <rect
          x={p.x - 13}
          y={p.y - 13}
          width="26"
          height="26"
          fill={m.hex}
          stroke="currentColor"
          stroke-width={active === i ? 3 : 1}
          role="slider"
          tabindex="0"
          aria-label={`Turn of member ${i + 1}`}
          aria-valuenow={Math.round(m.turn)}
          aria-valuemin="0"
          aria-valuemax="359"
          style:cursor={i > 0 ? 'move' : 'default'}
          onfocus={() => (w.active = i)}
          onkeydown={(e) => key(e, i)}
          onpointerdown={(e) => {
            w.active = i;
            dragging = i;
            ring?.setPointerCapture(e.pointerId);
          }}
        />
      {/each}
    </svg>
    <div>
      {#if hand && active > 0}
        <h2 class="flex items-baseline gap-4">
          Member {active + 1}, by hand
          <button class="link text-small" onclick={() => first(active)}>make it the first color</button>
        </h2>
        <label class="mt-1 grid grid-cols-[5.33rem_minmax(0,1fr)_4.67rem] items-center gap-3 text-small"
          >Value
          <input
            class="input w-full font-mono"
            spellcheck="false"
            value={hand.hex}
            onchange={(e) => type(active, e.currentTarget.value)}
          /></label
        >
        {#each byHand as s (s.part)}
          <label class="mt-1 grid grid-cols-[5.33rem_minmax(0,1fr)_4.67rem] items-center gap-3 text-small">
            {s.name}
            <input
              type="range"
              min={s.min}
              max={s.max}
              step={s.step}
              value={hand[s.part]}
              oninput={(e) => set(s.part, Number(e.currentTarget.value))}
            />
            <span class="font-mono">{s.part === 'turn' ? Math.round(hand.turn) : hand[s.part].toFixed(2)}{s.unit}</span>
          </label>
        {/each}
        <p class="mt-2 text-small">An unlinked member keeps its color when the first color, the wheel or the scheme changes.</p>
      {:else}
        <h2>The first color</h2>
        <FirstColor hex={members[0]?.hex ?? ''} change={(hex) => (w.value = hex)} />
      {/if}
      {#if companions.length > 0}
        <h3 class="mt-4">Beside {active === 0 ? 'the first color' : `member ${active + 1}`}</h3>
        <ul class="mt-1 flex flex-wrap gap-2">
          {#each companions as c (c.name)}
            <li>
              <button class="w-[6.13rem] text-left text-small" aria-pressed={extra.includes(c.hex)} onclick={() => take(c.hex)}
                ><span class="block h-9" style:background={c.hex} aria-hidden="true"></span>{c.name}<span class="block font-mono"
                  >{c.hex}</span
                ><span class="block underline">{extra.includes(c.hex) ? 'leave it' : 'take it too'}</span></button
              >
            </li>
          {/each}
        </ul>
      {/if}
      {#if extra.length > 0}<p class="mt-2 flex flex-wrap items-center gap-2 text-small">
          Taken too:
          {#each extra as hex (hex)}<button class="flex items-center gap-1" aria-label={`Leave ${hex}`} onclick={() => take(hex)}
              ><span class="h-6 w-8" style:background={hex} aria-hidden="true"></span><span class="font-mono">{hex}</span><span
                class="underline">leave it</span
              ></button
            >{/each}
        </p>{/if}
      <div class="mt-4"><Bring {colors} done={() => (w.extra = [])} /></div>
    </div>
  </div>
{/if}

<style>
  .member[aria-pressed='true'] {
    font-weight: 700;
    text-decoration: underline;
    text-underline-offset: 3px;
  }
</style>
