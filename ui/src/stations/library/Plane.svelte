<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import Term from '../../lib/Term.svelte';

  // The library as a picture: its colors by hue and chroma from above, by lightness and chroma from the side, and round them what screens
  // and presses reach.
  const plane = createQuery(() => ({
    queryKey: ['ledger', house.id, 'plane'],
    queryFn: () => need(api.GET('/houses/{house}/plane', { params: { path: { house: house.id } } })),
  }));
  const colors = $derived(plane.data?.colors ?? []);
  const screens: Record<string, string> = { srgb: 'sRGB screens', 'display-p3': 'wide screens' };
  const named = (r: { name: string }) => screens[r.name] ?? `press, ${r.name.replaceAll('-', ' ')}`;
  const dashes = ['', '9 4', '2 3', '7 3 2 3', '1 5', '12 3 3 3'];
  let off = $state<Record<string, boolean>>({});
  const reach = $derived((plane.data?.reach ?? []).map((r, i) => ({ ...r, dash: dashes[i % dashes.length]!, says: named(r) })));
  const drawn = $derived(reach.filter((r) => !off[r.name]));

  // As far as anything reaches, and no farther.
  const most = $derived(
    Math.max(40, ...reach.flatMap((r) => r.plane.flat().map(Math.abs)), ...colors.flatMap((c) => c.lab.slice(1).map(Math.abs))) *
      1.06,
  );
  const size = 560;
  const x = (a: number) => ((a / most + 1) / 2) * size;
  const y = (b: number) => ((1 - b / most) / 2) * size;
  const wide = 360;
  const sx = (c: number) => (c / most / 1.25) * wide;
  const sy = (l: number) => (1 - l / 100) * size;
  const chroma = (c: Schema['PlaneColor']) => Math.hypot(c.lab[1]!, c.lab[2]!);
  const line = (points: number[][], f: (p: number[]) => [number, number]) =>
    points
      .map(
        (p, i) =>
          `${i ? 'L' : 'M'}${f(p)
            .map((v) => v.toFixed(1))
            .join(' ')}`,
      )
      .join('');

  let over = $state(0); // what the pointer or the focus is on
  const presses = $derived(reach.filter((r) => r.press));
  const nowhere = $derived(colors.filter((c) => c.beyond.length === presses.length && presses.length > 0));
  const nameOf = (id: number) => colors.find((c) => c.id === id)?.name ?? '';
  const href = (id: number) => house.path(`library/${id}`);
  const labels = $derived(colors.length <= 40);
  // Names beside their colors, each below the one that it would stand on.
  const placed = $derived.by(() => {
    const out: { id: number; name: string; x: number; y: number; wide: number }[] = [];
    for (const c of [...colors].sort((p, q) => q.lab[2]! - p.lab[2]!)) {
      const at = { id: c.id, name: c.name, x: x(c.lab[1]!) + 13, y: y(c.lab[2]!) + 4, wide: c.name.length * 7.5 };
      const under = (o: typeof at) => Math.abs(o.y - at.y) < 14 && o.x < at.x + at.wide && at.x < o.x + o.wide;
      for (let tries = 0; labels && tries < 12 && out.some(under); tries++) at.y += 5;
      out.push(at);
    }
    return out;
  });
</script>

{#snippet spot(c: Schema['PlaneColor'], cx: number, cy: number, first: boolean)}
  <a
    href={href(c.id)}
    tabindex={first ? 0 : -1}
    aria-label={`${c.name}, lightness ${c.lab[0]!.toFixed(0)}, chroma ${chroma(c).toFixed(0)}${
      c.beyond.length ? `, not reached by ${c.beyond.join(', ')}` : ''
    }`}
    onmouseenter={() => (over = c.id)}
    onmouseleave={() => (over = 0)}
    onfocus={() => (over = c.id)}
    onblur={() => (over = 0)}
  >
    <circle {cx} {cy} r="13" fill="transparent" />
    <circle
      {cx}
      {cy}
      r={over === c.id ? 11 : 8}
      style:fill={c.hex}
      stroke="currentColor"
      stroke-opacity={over === c.id ? 1 : 0.35}
      stroke-width={over === c.id ? 2 : 1}
    />
    {#if c.beyond.length > 0 && c.beyond.length === presses.length}
      <path
        d={`M${cx - 12} ${cy - 12}l6 6M${cx + 12} ${cy - 12}l-6 6M${cx - 12} ${cy + 12}l6 -6M${cx + 12} ${cy + 12}l-6 -6`}
        class="mark"
      />
    {/if}
  </a>
{/snippet}

{#if plane.isError}<p role="alert">{plane.error.message}</p>{/if}
{#if plane.data}
  <div class="flex flex-wrap gap-x-8 gap-y-4">
    <figure class="min-w-0 flex-[3_1_24rem]">
      <figcaption class="text-small">
        <b>From above</b>: hue is the direction, chroma the distance from the middle (a* and b*)
      </figcaption>
      <svg
        viewBox={`-6 -6 ${size + 12} ${size + 12}`}
        class="mt-1 w-full max-w-[44rem]"
        role="group"
        aria-label="Colors by hue and chroma"
      >
        <path d={`M0 ${y(0)}H${size}M${x(0)} 0V${size}`} class="axis" />
        {#each [25, 50, 75, 100, 125].filter((c) => c < most) as c (c)}<circle
            cx={x(0)}
            cy={y(0)}
            r={x(c) - x(0)}
            class="axis"
          />{/each}
        {#each drawn as r (r.name)}<path
            d={`${line(r.plane, ([a, b]) => [x(a!), y(b!)])}Z`}
            class="reach"
            stroke-dasharray={r.dash}
          />{/each}
        {#each colors as c (c.id)}{@render spot(c, x(c.lab[1]!), y(c.lab[2]!), true)}{/each}
        {#each placed as l (l.id)}{#if labels || over === l.id}<text x={l.x} y={l.y} class="label" class:font-bold={over === l.id}
              >{l.name}</text
            >{/if}{/each}
      </svg>
    </figure>
    <figure class="min-w-0 flex-[2_1_16rem]">
      <figcaption class="text-small"><b>From the side</b>: lightness upward, chroma to the right</figcaption>
      <svg
        viewBox={`-14 -6 ${wide + 20} ${size + 12}`}
        class="mt-1 w-full max-w-[28rem]"
        role="group"
        aria-label="Colors by lightness and chroma"
      >
        <path d={`M0 0V${size}H${wide}`} class="axis" />
        {#each [25, 50, 75] as l (l)}<path d={`M0 ${sy(l)}H${wide}`} class="axis" />{/each}
        {#each drawn as r (r.name)}<path
            d={line(r.side, ([l, c]) => [sx(c!), sy(l!)])}
            class="reach"
            stroke-dasharray={r.dash}
          />{/each}
        {#each colors as c (c.id)}{@render spot(c, sx(chroma(c)), sy(c.lab[0]!), false)}{/each}
      </svg>
    </figure>
    <div class="flex-[1_1_15rem]">
      <h2>What reaches how far</h2>
      <ul>
        {#each reach as r (r.name)}
          <li>
            <label class="flex min-h-[1.87rem] items-center gap-2"
              ><input
                type="checkbox"
                class="checkbox"
                checked={!off[r.name]}
                onchange={(e) => (off[r.name] = !e.currentTarget.checked)}
              />
              <svg viewBox="0 0 40 8" class="h-2 w-10" aria-hidden="true"
                ><path d="M0 4H40" class="reach" stroke-dasharray={r.dash} /></svg
              >{r.says}</label
            >
          </li>
        {/each}
      </ul>
      <p class="mt-1 text-small">Presses relative to their paper, within their ink limit.</p>
      {#each presses as p (p.name)}
        {@const out = colors.filter((c) => c.beyond.includes(p.name))}
        <h3><Term of="gamut">Out of gamut</Term>, {p.name.replaceAll('-', ' ')}</h3>
        <p class="text-small">
          {#if out.length === 0}None.{:else}{#each out.slice(0, 12) as c, i (c.id)}{i ? ', ' : ''}<a
                class="link inline-block min-h-[1.6rem]"
                href={href(c.id)}>{c.name}</a
              >{/each}{out.length > 12 ? ` and ${out.length - 12} more` : ''}{/if}
        </p>
      {/each}
      {#if nowhere.length > 0}<p class="mt-2 text-small">
          Between corner marks: {nowhere.length === 1 ? 'the color that' : `the ${nowhere.length} colors that`} no press reaches.
        </p>{/if}
      <h3>Colors that crowd</h3>
      <ul class="text-small">
        {#each plane.data.crowded as c (`${c.a} ${c.b}`)}
          <li>
            <a class="link inline-block min-h-[1.6rem]" href={href(c.a)}>{nameOf(c.a)}</a> and
            <a class="link inline-block min-h-[1.6rem]" href={href(c.b)}>{nameOf(c.b)}</a>,
            <b class="font-mono">{c.deltaE.toFixed(1)}</b>
          </li>
        {:else}<li>No two are closer than 3.0.</li>{/each}
      </ul>
    </div>
  </div>
  <details class="mt-3">
    <summary class="cursor-pointer underline">the same as a table</summary>
    <table class="mt-1 text-small">
      <thead
        ><tr class="border-b border-current text-left"
          ><th class="pr-6">Color</th><th class="pr-6">Lightness</th><th class="pr-6">a*</th><th class="pr-6">b*</th><th
            class="pr-6">Chroma</th
          ><th>Not reached by</th></tr
        ></thead
      >
      <tbody>
        {#each colors as c (c.id)}<tr class="rule border-b"
            ><td class="pr-6">{c.name}</td>{#each [...c.lab, chroma(c)] as v, i (i)}<td class="pr-6 font-mono">{v.toFixed(1)}</td
              >{/each}<td>{c.beyond.map((b) => b.replaceAll('-', ' ')).join(', ')}</td></tr
          >{/each}
      </tbody>
    </table>
  </details>
{/if}

<style>
  .axis {
    fill: none;
    stroke: currentColor;
    opacity: 0.22;
    stroke-width: 1;
  }
  .reach {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.6;
  }
  .mark {
    fill: none;
    stroke: currentColor;
    stroke-width: 2;
  }
  .label {
    font-size: 13px;
    fill: currentColor;
    pointer-events: none;
    paint-order: stroke;
    stroke: var(--color-base-100);
    stroke-width: 3px;
  }
  a:focus-visible {
    outline: none;
  }
  a:focus-visible circle:nth-of-type(2) {
    stroke: currentColor;
    stroke-width: 3;
  }
  h3 {
    margin: 0.8rem 0 0.13rem;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
