<script lang="ts">
  import type { Snippet } from 'svelte';
  import { inAddress } from '../../lib/address.svelte';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest, type KeptApart, type Vision } from '../../lib/engine';
  import { house, useLimits } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import type { Part } from '../../lib/subject.svelte';
  import { putChanged } from './put';
  import { fetched, picture } from './picture.svelte';
  import Slide from './Slide.svelte';
  import Use from './Use.svelte';

  // The subject as eyes with weakened or missing cones see it, ordinary vision always beside it.
  let { colors, head }: { colors: Part[]; head: Snippet<[string, Snippet?]> } = $props();

  const kinds = [
    { key: 'deuteranopia', name: 'green', about: 'Weak or no green: reds and greens fall together. About one man in sixteen.' },
    { key: 'protanopia', name: 'red', about: 'Weak or no red: reds darken and fall together with greens. About one man in fifty.' },
    { key: 'tritanopia', name: 'blue', about: 'Weak or no blue: blues and yellows fall together. Rare.' },
    {
      key: 'achromatopsia',
      name: 'all colors',
      about: 'No color at all, lightness only. Very rare; also what a gray print shows.',
    },
  ];
  const form = kept(`vision-${house.id}`, { kind: 'deuteranopia', severity: 1 });
  const f = $derived(form.now);
  inAddress(
    () => house.path('proof/vision'),
    () => ({ weak: f.kind === 'deuteranopia' ? '' : f.kind, severity: f.severity === 1 ? '' : String(f.severity) }),
    (key, value) => {
      if (key === 'weak' && kinds.some((k) => k.key === value)) form.now.kind = value;
      if (key === 'severity' && Number(value) >= 0 && Number(value) <= 1) form.now.severity = Number(value);
    },
  );
  const kind = $derived(kinds.find((k) => k.key === f.kind) ?? kinds[0]!);
  const degree = $derived(f.severity === 0 ? 'ordinary' : f.severity === 1 ? 'missing' : `weakened, ${f.severity.toFixed(2)}`);

  const limits = useLimits();
  const changing = useChange(['tray']);
  let seen = $state.raw<{ of: Part[]; vision: Vision } | undefined>();
  let problem = $state('');
  const ask = newest(
    async (q: { colors: Part[]; kind: string; severity: number }) => ({
      of: q.colors,
      vision: await engine.ask('vision', { values: q.colors.map((c) => c.hex), kind: q.kind, severity: q.severity }),
    }),
    (r) => ([seen, problem] = [r, '']),
    (e) => (problem = `${e.message}.`),
  );
  $effect(() => ask({ colors, kind: f.kind, severity: f.severity }));

  // A picture of the user's, seen likewise.
  let room = $state(700);
  const wide = $derived(
    picture.opened ? Math.min(room, picture.opened.width * 4, (picture.opened.width / picture.opened.height) * 520) : 0,
  );
  let pictured = $state.raw<{ of: number; ordinary: ImageData; seen: ImageData } | undefined>();
  const askPicture = newest(
    async (q: { id: number; side: number; kind: string; severity: number }) => {
      const a = await engine.ask('seen', q);
      return { of: q.id, ordinary: await fetched(a.ordinary), seen: await fetched(a.seen) };
    },
    (r) => (pictured = r),
    (e) => (problem = `${e.message}.`),
  );
  $effect(() => {
    const o = picture.opened;
    if (o) askPicture({ id: o.id, side: Math.min(1400, Math.max(o.width, o.height)), kind: f.kind, severity: f.severity });
  });

  const worst = $derived(seen?.vision.confusable ?? []);
  let picked = $state.raw<string | undefined>();
  const name = (p: Vision['confusable'][number]) => `${p.a}-${p.b}`;
  const pair = $derived(worst.find((p) => name(p) === picked) ?? worst[0]);

  // The least change of lightness, and one of any kind where that is smaller by what somebody sees.
  let mends = $state.raw<{ pair: string; list: (KeptApart & { said: string })[] } | undefined>();
  const askMend = newest(
    async (q: { a: string; b: string; kind: string; severity: number; pair: string }) => {
      const [light, any] = await Promise.all([
        engine.ask('keepapart', { ...q, any: false }),
        engine.ask('keepapart', { ...q, any: true }),
      ]);
      const list = [];
      if (any.ok && (!light.ok || any.deltaE < light.deltaE - 0.5))
        list.push({ ...any, said: 'The least change of either color after which they stay 10 apart.' });
      if (light.ok) list.push({ ...light, said: 'The least change of lightness alone, which every weakness leaves to be seen.' });
      return { pair: q.pair, list };
    },
    (r) => (mends = r),
    () => (mends = undefined),
  );
  $effect(() => {
    const [a, b] = [seen?.of[pair?.a ?? -1], seen?.of[pair?.b ?? -1]];
    if (pair && a && b) askMend({ a: a.hex, b: b.hex, kind: f.kind, severity: f.severity, pair: name(pair) });
  });
  const put = (hex: string, was: Part, other: Part) =>
    changing.run(() => putChanged(hex, was, { name: 'beside', why: 'stay apart from' }, other, limits.data?.nameRunes));
  const summary = $derived(
    !seen
      ? ''
      : worst.length === 0
        ? 'no pair becomes hard to tell apart'
        : `${worst.length === 1 ? '1 pair becomes' : `${worst.length} pairs become`} hard to tell apart`,
  );
</script>

<div class="work">
  <main class="flex min-h-0 flex-col">
    {@render head(summary)}
    <div class="flex flex-wrap items-center gap-x-5 gap-y-1 px-5 pb-3">
      <label class="flex items-center gap-2"
        >Weak in <select class="select w-auto" bind:value={f.kind}
          >{#each kinds as k (k.key)}<option value={k.key}>{k.name}</option>{/each}</select
        ></label
      >
      <label class="flex min-w-[17.33rem] flex-1 items-center gap-2"
        >severity <input type="range" min="0" max="1" step="0.05" bind:value={f.severity} aria-valuetext={degree} />
        <span class="w-[7.33rem] shrink-0">{degree}</span></label
      >
    </div>
    {#if problem}<p role="alert" class="mx-5 border-l-4 border-current pl-3">{problem}</p>{/if}
    {#if seen}
      <div class="min-h-0 flex-1 overflow-y-auto px-5 pb-5">
        <div class="grid" style:grid-template-columns={`repeat(${Math.min(seen.of.length, 12)}, minmax(0, 1fr))`}>
          {#each seen.of as c, i (i)}
            <div class="pb-2">
              <div class="h-[3.87rem]" style:background={c.hex}></div>
              <div class="h-[3.87rem]" style:background={seen.vision.seen[i]}></div>
              <span class="block truncate pr-1 text-small" title={`${c.name} ${c.hex}, seen as ${seen.vision.seen[i]}`}
                >{c.name}</span
              >
            </div>
          {/each}
        </div>
        <p class="text-small">Above as ordinary eyes see it, below as these do. {kind.about}</p>
        <div class="grid grid-cols-2 gap-5 pt-4">
          <div>
            <h2 class="pb-1">Ordinary</h2>
            <Use colors={seen.of.map((c) => c.hex)} label="The set in use, for ordinary vision" />
          </div>
          <div>
            <h2 class="pb-1">{kind.name[0]!.toUpperCase() + kind.name.slice(1)} {degree}</h2>
            <Use colors={seen.vision.seen} label={`The set in use, with ${kind.name} ${degree}`} />
          </div>
        </div>
        <div class="flex items-baseline gap-4 pb-1 pt-5" bind:clientWidth={room}>
          <h2>A picture of yours</h2>
          <label class="link cursor-pointer"
            >{picture.opened ? 'another one' : 'open one'}<input
              class="sr-only"
              type="file"
              accept="image/*"
              aria-label="Picture to see"
              onchange={(e) => void picture.take(e.currentTarget.files?.[0])}
            /></label
          >
          {#if picture.busy}<span class="text-small">Decoding the picture</span>{/if}
        </div>
        {#if picture.problem}<p role="alert" class="border-l-4 border-current pl-3">{picture.problem}</p>{/if}
        {#if pictured && picture.opened && pictured.of === picture.opened.id}
          <Slide
            before={{ name: 'Ordinary', alt: 'The picture, for ordinary vision', image: pictured.ordinary }}
            after={{
              name: `${kind.name[0]!.toUpperCase() + kind.name.slice(1)} ${degree}`,
              alt: `The picture, with ${kind.name} ${degree}`,
              image: pictured.seen,
            }}
            width={wide}
            height={(wide / picture.opened.width) * picture.opened.height}
            label="Where the simulation begins"
          />
        {/if}
      </div>
    {/if}
  </main>
  <aside class="min-h-0 overflow-y-auto bg-base-200 p-5" aria-label="Pairs that become hard to tell apart">
    <h2 class="text-[1.27rem]">Hard to tell apart</h2>
    {#if seen && worst.length === 0}
      <p class="pt-1">Every two colors that ordinary eyes tell apart stay at least 10 apart here too.</p>
    {:else if seen && pair}
      {@const [a, b] = [seen.of[pair.a]!, seen.of[pair.b]!]}
      <p class="pt-1 text-small">Colors of a chart or a map should keep 10 (ΔE00). The worst pair first.</p>
      <ul class="pt-2">
        {#each worst as p (name(p))}
          {@const at = p === pair}
          <li class="rule border-t" class:bg-base-300={at}>
            <button class="flex w-full items-center gap-3 py-1.5 text-left" aria-pressed={at} onclick={() => (picked = name(p))}>
              <span class="grid h-[2.4rem] w-[5.07rem] shrink-0 grid-cols-2">
                <span style:background={seen.of[p.a]?.hex}></span><span style:background={seen.of[p.b]?.hex}></span>
                <span style:background={seen.vision.seen[p.a]}></span><span style:background={seen.vision.seen[p.b]}></span>
              </span>
              <span class="min-w-0 flex-1"
                ><b class="block truncate">{seen.of[p.a]?.name} and {seen.of[p.b]?.name}</b>
                <span class="text-small"
                  >ordinary {p.deltaE.toFixed(1)}, here <b class="font-mono">{p.simulated.toFixed(1)}</b>, lightness {p.light < 1
                    ? 'the same'
                    : `${p.light.toFixed(0)} apart`}</span
                ></span
              >
            </button>
          </li>
        {/each}
      </ul>
      <h2 class="pt-5">To keep {a.name} and {b.name} apart</h2>
      {#if mends && mends.pair === name(pair)}
        {#each mends.list as mend, i (mend.said)}
          {@const [was, other] = mend.first ? [a, b] : [b, a]}
          <div class="mt-2 grid h-[5.07rem] grid-cols-3" aria-hidden="true">
            <span style:background={was.hex}></span><span style:background={mend.hex}></span><span style:background={other.hex}
            ></span>
            <span style:background={seen.vision.seen[mend.first ? pair.a : pair.b]}></span><span style:background={mend.seen}
            ></span><span style:background={seen.vision.seen[mend.first ? pair.b : pair.a]}></span>
          </div>
          <div class="grid grid-cols-3 gap-x-2 text-small">
            <span class="min-w-0"><b class="block truncate">{was.name}</b><span class="font-mono">{was.hex}</span></span>
            <span
              ><b class="block">changed</b><span class="font-mono">{mend.hex}</span><span class="block"
                ><Distance value={mend.deltaE} word={mend.word} /></span
              ></span
            >
            <span class="min-w-0"><b class="block truncate">{other.name}</b><span class="font-mono">{other.hex}</span></span>
          </div>
          <p class="pt-1 text-small">{mend.said}</p>
          {#if house.contributor}
            <button
              class="btn {i === 0 ? 'btn-primary' : 'btn-plain'} mt-2 mb-3"
              disabled={changing.busy}
              onclick={() => put(mend.hex, was, other)}>Put {mend.hex} on the tray</button
            >
          {/if}
        {:else}
          <p class="pt-1">No change of either color does it; tell them apart by a mark, a pattern or a label.</p>
        {/each}
        {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
      {/if}
    {/if}
  </aside>
</div>
