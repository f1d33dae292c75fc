<script lang="ts">
  import { sentence, type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest, type Member, type Near } from '../../lib/engine';
  import { useLedger } from '../../lib/house.svelte';
  import Bring from './Bring.svelte';

  const schemes = ['monochromatic', 'analogous', 'complementary', 'split complementary', 'triadic', 'tetradic'];
  const ledger = useLedger();
  const library = $derived((ledger.data?.colors ?? []).filter((c) => c.status !== 'retired'));

  let value = $state('');
  let wheel = $state('perceptual');
  let scheme = $state('triadic');
  let members = $state<Member[]>([]);
  let near = $state<Near[]>([]);
  let left = $state<boolean[]>([]);
  let active = $state(0);
  let problem = $state('');

  // Without a word from the person, the first library color is what the set is built around.
  $effect(() => {
    if (value === '' && library[0]) value = library[0].name;
  });
  const base = $derived(library.find((c) => c.name.toLowerCase() === value.trim().toLowerCase())?.hex ?? value);

  const show = newest(
    async (a: { value: string; wheel: string; scheme?: string; members?: Member[] }) => {
      const m = await engine.ask('harmony', a);
      return { m, near: await engine.ask('near', { values: m.map((x) => x.hex), among: library.map((c) => c.hex) }) };
    },
    (r) => {
      [members, near, problem] = [r.m, r.near, ''];
      active = Math.min(active, r.m.length - 1);
    },
    (e) => (problem = `${sentence(e)}.`),
  );

  $effect(() => {
    if (base.trim()) {
      left = [];
      show({ value: base, wheel, scheme });
    }
  });

  const follow = () => show({ value: base, wheel, members: $state.snapshot(members) });
  const hand = $derived(members[active]);

  function set(part: 'turn' | 'lift' | 'chroma', v: number) {
    const m = members[active];
    if (!m || active === 0) return;
    const was = m.free;
    m.free = false; // it is moved by hand, then held again
    m[part] = v;
    show({ value: base, wheel, members: $state.snapshot(members) });
    m.free = was;
  }

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
    const m = members[dragging]!;
    m.free = false;
    m.turn = Math.round(((Math.atan2(y, x) * 180) / Math.PI + 90 + 360) % 360);
    m.chroma = Math.min(1.35, Math.hypot(x, y) / radius);
    follow();
  }
  function key(e: KeyboardEvent, i: number) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (by && i > 0) {
      e.preventDefault();
      e.stopPropagation();
      active = i;
      set('turn', (members[i]!.turn + by + 360) % 360);
    }
  }

  const byHand = [
    { part: 'turn', name: 'Turn', min: 0, max: 359, step: 1, unit: '°' },
    { part: 'lift', name: 'Lightness', min: -0.6, max: 0.6, step: 0.01, unit: '' },
    { part: 'chroma', name: 'Chroma', min: 0, max: 1.35, step: 0.01, unit: ' ×' },
  ] as const;

  const colors = $derived(
    members.flatMap((m, i): Schema['NewCandidate'][] =>
      left[i]
        ? []
        : [{ value: m.hex, origin: 'harmony', source: `${scheme} around ${value}, ${wheel} wheel, ${Math.round(m.turn)}°` }],
    ),
  );
</script>

<div class="flex flex-wrap items-end gap-4">
  <label class="grid gap-1 text-small"
    >Around a library color or any value
    <input
      class="input w-[230px]"
      list="harmony-library"
      spellcheck="false"
      {value}
      onchange={(e) => (value = e.currentTarget.value)}
    />
  </label>
  <datalist id="harmony-library"
    >{#each library as c (c.id)}<option value={c.name}>{c.hex}</option>{/each}</datalist
  >
  <label class="grid gap-1 text-small"
    >Scheme
    <select class="select w-[190px]" bind:value={scheme}
      >{#each schemes as s (s)}<option>{s}</option>{/each}</select
    >
  </label>
  <label class="grid gap-1 text-small"
    >Wheel
    <select class="select w-[230px]" bind:value={wheel}
      ><option value="perceptual">perceptual</option><option value="painter">painter’s: red opposite green</option></select
    >
  </label>
</div>
{#if problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{problem}</p>{/if}
{#if members.length > 0}
  <div class="mt-4 flex h-28" aria-hidden="true">
    {#each members as m, i (i)}<span class="flex-1" style:background={m.hex}></span>{/each}
  </div>
  <ul class="flex" aria-label="Members of the set">
    {#each members as m, i (i)}
      {@const n = near[i] && near[i].at >= 0 ? library[near[i].at] : undefined}
      <li class="min-w-0 flex-1 pr-2 pt-1 text-small">
        <button class="member block text-left font-mono text-[15px]" aria-pressed={active === i} onclick={() => (active = i)}
          >{m.hex}</button
        >
        {#if n && near[i]}<span class="block"
            ><Distance value={near[i].deltaE} word={near[i].word} /> {near[i].word === 'identical' ? 'to' : 'from'} {n.name}</span
          >{/if}
        <label class="mt-1 flex items-center gap-2"
          ><input type="checkbox" class="checkbox" checked={!left[i]} onchange={(e) => (left[i] = !e.currentTarget.checked)} /> keep</label
        >
        {#if i > 0}<label class="mt-1 flex items-center gap-2"
            ><input type="checkbox" class="checkbox" bind:checked={m.free} /> unlinked</label
          >{/if}
      </li>
    {/each}
  </ul>
  <div class="mt-4 grid grid-cols-[250px_minmax(0,1fr)] gap-6">
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
          onfocus={() => (active = i)}
          onkeydown={(e) => key(e, i)}
          onpointerdown={(e) => {
            active = i;
            dragging = i;
            ring?.setPointerCapture(e.pointerId);
          }}
        />
      {/each}
    </svg>
    <div>
      {#if hand && active > 0}
        <h2>Member {active + 1}, by hand</h2>
        {#each byHand as s (s.part)}
          <label class="mt-1 grid grid-cols-[80px_minmax(0,1fr)_70px] items-center gap-3 text-small">
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
        <p class="mt-2 text-small">An unlinked member stays where it is when the first color or the wheel changes.</p>
      {:else}
        <h2>The first color</h2>
        <p class="mt-1">
          The set is built around it; it stays as it is. Take another member in hand to move it, here or on the wheel.
        </p>
      {/if}
      <div class="mt-4"><Bring {colors} /></div>
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
