<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest, type HeldAnswer, type HeldMatch } from '../../lib/engine';
  import { download, sentence } from '../../lib/api/client';
  import { house, useLimits } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import type { Part, Subject } from '../../lib/subject.svelte';
  import { bring } from '../gather/incoming.svelte';
  import { called, draw, fetched, picture } from './picture.svelte';
  import PictureRoom from './PictureRoom.svelte';

  // A palette held against a picture, value by value.
  let { subject, head }: { subject: Subject; head: Snippet<[string, Snippet?]> } = $props();

  const opened = $derived(picture.opened);
  const limits = useLimits();
  const changing = useChange(['tray']);
  const form = kept(`held-${house.id}`, { tolerance: 6, gray: true });
  const f = $derived(form.now);
  let scale = $state(1);
  let problem = $state('');
  let tried = $state<Record<string, string>>({}); // corrections of the subject's colors, by what they are
  const values = $derived(subject.colors.map((c) => tried[c.hex] ?? c.hex));

  // Worked on about as large as it is shown; shares and values change little with the size.
  const side = $derived(opened ? Math.min(1400, Math.max(opened.width, opened.height)) : 0);
  interface Held {
    answer: HeldAnswer;
    of: Part[];
    id: number;
    image: ImageData;
  }
  let held = $state.raw<Held | undefined>();
  let busy = $state(false);
  const ask = newest(
    async (q: { id: number; side: number; values: string[]; of: Part[] }) => {
      busy = true;
      const answer = await engine.ask('held', { id: q.id, side: q.side, values: q.values });
      return { answer, of: q.of, id: q.id, image: await fetched(answer.picture) } satisfies Held;
    },
    (r) => ([held, problem, busy] = [r.id === opened?.id ? r : undefined, '', false]),
    (e) => ([problem, busy] = [`${sentence(e)}.`, false]),
  );
  $effect(() => {
    if (opened && values.length > 0) ask({ id: opened.id, side, values, of: subject.colors });
  });

  // The poorest match first: what is in the picture and farthest from the palette; what is not in it comes last.
  const order = $derived(
    (held?.answer.matches ?? [])
      .map((m, at) => ({ m, at }))
      .sort((a, b) => Number(b.m.share > 0) - Number(a.m.share > 0) || b.m.deltaE - a.m.deltaE),
  );
  let picked = $state<number | undefined>();
  // The poorest at first stays chosen, also when a correction makes it the best.
  $effect(() => {
    const first = order[0]?.at;
    if (first !== undefined) untrack(() => (picked ??= first));
  });
  const at = $derived(picked !== undefined && held?.of[picked] ? picked : order[0]?.at);
  const match = $derived(at === undefined ? undefined : held?.answer.matches[at]);
  const chosen = $derived(at === undefined ? undefined : held?.of[at]);

  // How far each pixel is from the value that is looked at; sliding the tolerance compares numbers only.
  let far = $state.raw<{ image: ImageData; id: number } | undefined>();
  const askFar = newest(
    async (q: { id: number; side: number; value: string }) => ({
      image: await fetched(await engine.ask('distances', q)),
      id: q.id,
    }),
    (r) => (far = r),
    () => (far = undefined),
  );
  $effect(() => {
    if (opened && held && match) askFar({ id: opened.id, side, value: match.share > 0 ? match.own : values[at!]! });
  });
  const masked = (image: ImageData, distance: ImageData | undefined, tolerance: number) => (canvas: HTMLCanvasElement) => {
    if (!distance || distance.width !== image.width || distance.height !== image.height) return draw(image)(canvas);
    if (canvas.width !== image.width || canvas.height !== image.height) [canvas.width, canvas.height] = [image.width, image.height];
    const out = new ImageData(image.width, image.height);
    const [to, from, d] = [
      new Uint32Array(out.data.buffer),
      new Uint32Array(image.data.buffer),
      new Uint32Array(distance.data.buffer),
    ];
    const most = Math.round(tolerance * 4);
    for (let i = 0; i < to.length; i++) to[i] = d[i]! >>> 24 <= most ? from[i]! : d[i]! | 0xff000000;
    canvas.getContext('2d')!.putImageData(out, 0, 0);
  };
  const within = $derived.by(() => {
    if (!far) return 0;
    const d = new Uint32Array(far.image.data.buffer);
    const most = Math.round(f.tolerance * 4);
    let n = 0;
    for (let i = 0; i < d.length; i++) if (d[i]! >>> 24 <= most) n++;
    return n / d.length;
  });

  // While the button is held, the area has the set's color in place of its own.
  let place = $state.raw<{ image: ImageData; of: string } | undefined>();
  let holding = $state<'' | 'one' | 'all'>('');
  const placeKey = (what: 'one' | 'all') => `${opened?.id} ${what === 'one' ? at : 'all'} ${values.join(' ')}`;
  const askPlace = newest(
    async (q: { id: number; side: number; only: number; key: string }) => ({
      image: await fetched(await engine.ask('inplace', { id: q.id, side: q.side, only: q.only })),
      of: q.key,
    }),
    (r) => (place = r),
    (e) => (problem = `${sentence(e)}.`),
  );
  function hold(what: 'one' | 'all') {
    if (!opened || !held || holding) return;
    holding = what;
    const key = placeKey(what);
    if (place?.of !== key) askPlace({ id: opened.id, side, only: what === 'one' ? at! : -1, key });
  }
  const inPlace = $derived(holding && place && place.of === placeKey(holding) ? place.image : undefined);
  const holder = (what: 'one' | 'all') => ({
    onpointerdown: () => hold(what),
    onpointerup: () => (holding = ''),
    onpointerleave: () => (holding = ''),
    onkeydown: (e: KeyboardEvent) => (e.key === ' ' || e.key === 'Enter') && hold(what),
    onkeyup: () => (holding = ''),
    onblur: () => (holding = ''),
  });

  const save = () =>
    changing.run(async () => {
      const image = await fetched(await engine.ask('inplace', { id: opened!.id, side: 0, only: -1 }));
      const canvas = document.createElement('canvas');
      draw(image)(canvas);
      const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
      if (!blob) throw new Error('The browser cannot write a picture of this size');
      const name = called(picture.file?.name ?? 'picture', `in the colors of ${subject.name}`, 'png');
      download(blob, name);
      return `${name} is on its way to your downloads`;
    });

  // A click on the picture: the value there, beside the nearest colors of the set.
  let point = $state.raw<{ hex: string; x: number; y: number; near: { part: Part; deltaE: number; word: string }[] } | undefined>();
  async function look(e: MouseEvent & { currentTarget: HTMLElement }) {
    if (!opened || !held) return;
    const box = e.currentTarget.getBoundingClientRect();
    const [x, y] = [
      Math.min(opened.width - 1, Math.max(0, Math.floor(((e.clientX - box.left) / box.width) * opened.width))),
      Math.min(opened.height - 1, Math.max(0, Math.floor(((e.clientY - box.top) / box.height) * opened.height))),
    ];
    const window = Math.max(1, Math.round(opened.width / held.image.width) * 3) | 1;
    const { hex } = await engine.ask('sample', { id: opened.id, x, y, window });
    const [far = []] = await engine.ask('apart', { values: [hex], among: values });
    point = {
      hex,
      x,
      y,
      near: held.of
        .map((part, i) => ({ part: { ...part, hex: values[i]! }, deltaE: far[i]?.deltaE ?? 0, word: far[i]?.word ?? '' }))
        .sort((a, b) => a.deltaE - b.deltaE)
        .slice(0, 3),
    };
  }
  // A correction of the subject's color, as it is typed.
  let typed = $state('');
  let wrong = $state('');
  const askTyped = newest(
    async (q: { value: string; of: string }) => ({ of: q.of, hex: (await engine.ask('look', { value: q.value })).hex }),
    (r) => ([tried, wrong] = [{ ...tried, [r.of]: r.hex }, '']),
    (e) => (wrong = sentence(e)),
  );
  const correct = (text: string, of: string) => {
    typed = text;
    if (text.trim()) askTyped({ value: text, of });
    else [tried, wrong] = [Object.fromEntries(Object.entries(tried).filter(([k]) => k !== of)), ''];
  };
  const put = (hex: string, name: string, where: string) =>
    changing.run(() =>
      bring(
        [{ value: hex, name: [...name].slice(0, limits.data?.nameRunes ?? 60).join(''), origin: 'picture', source: where }],
        '',
        false,
      ),
    );
  const put1 = (m: HeldMatch, c: Part) =>
    put(m.own, `${c.name} of ${picture.file?.name}`, `${picture.file?.name} at ${m.x}, ${m.y}`);
  const percent = (share: number) => (share > 0 && share < 0.001 ? 'under 0.1 %' : `${(share * 100).toFixed(1)} %`);
  const summary = $derived.by(() => {
    const found = order.filter((o) => o.m.share > 0).length;
    if (!held) return '';
    const open = held.answer.unanswered.reduce((n, u) => n + u.area.share, 0);
    return `${found} of ${held.of.length} colors are in the picture; ${percent(open)} of it is none of them`;
  });
  $effect(() => {
    void opened;
    void subject.colors;
    untrack(() => ([point, picked, tried, typed] = [undefined, undefined, {}, '']));
  });
</script>

<div class="work">
  <PictureRoom {head} asks="Which of these colors are in it?" {problem} bind:scale>
    {#if held && opened && held.id === opened.id}
      {@const h = held}
      <div style:width={`${opened.width * scale}px`}>
        <div class="flex justify-between gap-3 pb-1 text-small">
          <span>{summary}</span>{#if busy}<span>working</span>{/if}
        </div>
        <!-- Clicking picks a place; the list beside names every area for the keyboard. -->
        <div class="relative cursor-crosshair" role="presentation" style:height={`${opened.height * scale}px`} onclick={look}>
          {#if inPlace}<canvas class="h-full w-full" aria-label="The picture in the set’s colors" {@attach draw(inPlace)}></canvas>
          {:else if f.gray && far && far.id === opened.id}<canvas
              class="h-full w-full"
              aria-label={`The picture, gray but for what is near ${chosen?.name}`}
              {@attach masked(h.image, far.image, f.tolerance)}
            ></canvas>
          {:else}<canvas class="h-full w-full" aria-label="The picture" {@attach draw(h.image)}></canvas>{/if}
          {#each point ? [point] : match && match.share > 0 ? [match] : [] as p (`${p.x} ${p.y}`)}
            <svg
              class="pointer-events-none absolute"
              viewBox="0 0 24 24"
              width="24"
              height="24"
              style:left={`${(p.x / opened.width) * 100}%`}
              style:top={`${(p.y / opened.height) * 100}%`}
              style:margin="-12px 0 0 -12px"
              aria-hidden="true"
              ><g fill="none"
                ><circle cx="12" cy="12" r="7" stroke="#fff" stroke-width="4" /><circle
                  cx="12"
                  cy="12"
                  r="7"
                  stroke="#111"
                  stroke-width="1.5"
                /><path d="M12 0V24M0 12H24" stroke="#111" /></g
              ></svg
            >
          {/each}
        </div>
        <div class="flex flex-wrap items-center gap-x-5 gap-y-1 pt-2">
          <label class="flex items-center gap-2"
            ><input type="checkbox" class="checkbox" bind:checked={f.gray} /> gray but for {chosen?.name}</label
          >
          <label class="flex min-w-[16rem] flex-1 items-center gap-2"
            >within <input
              type="range"
              min="0.5"
              max="30"
              step="0.5"
              aria-label="Tolerance"
              aria-valuetext={`${f.tolerance.toFixed(1)}, ${percent(within)} of the picture`}
              bind:value={f.tolerance}
            />
            <span class="w-[8rem] shrink-0 font-mono text-small">{f.tolerance.toFixed(1)}, {percent(within)}</span></label
          >
          <button class="btn btn-plain" {...holder('one')}>Hold to see {chosen?.name} in its place</button>
        </div>
      </div>
    {:else}<p>{subject.colors.length === 0 ? subject.empty : 'Holding the colors against the picture'}</p>{/if}
  </PictureRoom>
  <aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-5" aria-label="The colors in the picture">
    {#if held && match && chosen && at !== undefined}
      {@const set = values[at]!}
      <div class="-mx-5 grid h-[7.33rem] grid-cols-2" aria-hidden="true">
        <span style:background={set}></span><span style:background={match.own}></span>
      </div>
      <div class="grid grid-cols-2 gap-x-3 pt-1 text-small">
        <span class="min-w-0"><b class="block truncate">{chosen.name}</b><span class="font-mono">{set}</span></span>
        <span
          ><b class="block">{match.share > 0 ? 'in the picture' : 'nearest in the picture'}</b><span class="font-mono"
            >{match.own}</span
          ></span
        >
      </div>
      <p class="pt-1">
        <Distance value={match.deltaE} word={match.word} />{match.share > 0 ? `, on ${percent(match.share)} of it` : ''}
      </p>
      <div class="mt-2 flex items-center gap-2">
        <label class="flex min-w-0 flex-1 items-center gap-2 text-small"
          >try <input
            class="input min-w-0 flex-1 font-mono"
            placeholder={`another value for ${chosen.name}`}
            spellcheck="false"
            value={tried[chosen.hex] ? typed : ''}
            oninput={(e) => correct(e.currentTarget.value, chosen.hex)}
          /></label
        >
        {#if house.contributor && tried[chosen.hex]}<button
            class="link text-small"
            disabled={changing.busy}
            onclick={() => put(tried[chosen.hex]!, `${chosen.name} corrected`, `${chosen.name} held against ${picture.file?.name}`)}
            >to the tray</button
          >{/if}
      </div>
      {#if wrong}<p class="text-small">{wrong}</p>{/if}
      {#if house.contributor && match.share > 0}<button
          class="link mt-1 text-small"
          disabled={changing.busy}
          onclick={() => put1(match, chosen)}>put the picture’s {match.own} on the tray</button
        >{/if}
      {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}

      {#if point}
        <h2 class="pt-4">At {point.x}, {point.y}</h2>
        <ul>
          {#each point.near as n (n.part.name)}
            <li class="rule flex items-center gap-3 border-t">
              <span class="grid h-9 w-[5.07rem] shrink-0 grid-cols-2" aria-hidden="true"
                ><span style:background={point.hex}></span><span style:background={n.part.hex}></span></span
              >
              <span class="min-w-0 flex-1 truncate">{n.part.name}</span>
              <span class="text-small"><Distance value={n.deltaE} word={n.word} /></span>
            </li>
          {/each}
        </ul>
        {#if house.contributor}<button
            class="link text-small"
            disabled={changing.busy}
            onclick={() => put(point!.hex, '', `${picture.file?.name} at ${point!.x}, ${point!.y}`)}
            >put {point.hex} on the tray</button
          >{/if}
      {/if}

      <h2 class="pt-4">{held.of.length} colors, the poorest match first</h2>
      <ul>
        {#each order as o (o.at)}
          {@const c = held.of[o.at]!}
          <li class="rule border-t">
            <button
              class="flex w-full items-center gap-3 text-left"
              class:bg-base-300={o.at === at}
              aria-pressed={o.at === at}
              onclick={() => ([picked, point, typed] = [o.at, undefined, ''])}
            >
              <span class="grid h-10 w-[5.07rem] shrink-0 grid-cols-2"
                ><span style:background={values[o.at]}></span><span style:background={o.m.share > 0 ? o.m.own : undefined}
                ></span></span
              >
              <span class="min-w-0 flex-1"
                ><b class="block truncate">{c.name}</b><span class="text-small"
                  >{o.m.share > 0 ? `${percent(o.m.share)} of the picture` : 'not in the picture'}</span
                ></span
              >
              <span class="text-small"
                >{#if o.m.share > 0}<Distance value={o.m.deltaE} word={o.m.word} />{/if}</span
              >
            </button>
          </li>
        {/each}
      </ul>
      {#if held.answer.unanswered.length > 0}
        <h2 class="pt-4">What no color answers</h2>
        <ul>
          {#each held.answer.unanswered as u (u.area.own)}
            <li class="rule flex items-center gap-3 border-t">
              <span class="grid h-10 w-[5.07rem] shrink-0 grid-cols-2" aria-hidden="true"
                ><span style:background={u.area.own}></span><span style:background={values[u.nearest]}></span></span
              >
              <span class="min-w-0 flex-1 text-small"
                ><b class="font-mono">{u.area.own}</b>, {percent(u.area.share)} of the picture; {held.of[u.nearest]?.name} is
                {u.area.deltaE.toFixed(1)} away</span
              >
              {#if house.contributor}<button
                  class="link text-small"
                  disabled={changing.busy}
                  aria-label={`to the tray: ${u.area.own}`}
                  onclick={() => put(u.area.own, '', `${picture.file?.name} at ${u.area.x}, ${u.area.y}`)}>to the tray</button
                >{/if}
            </li>
          {/each}
        </ul>
      {/if}
      <h2 class="pt-4">As a suggestion</h2>
      <p class="text-small">The picture as it would be in {subject.name}, grain and shading kept.</p>
      <p class="mt-1 flex flex-wrap gap-3">
        <button class="btn btn-plain" {...holder('all')}>Hold to see it</button>
        <button class="btn btn-primary" disabled={changing.busy} onclick={save}>Download it</button>
      </p>
    {:else}<p class="pt-5">Each color of the set, where in the picture it is, on what share of it, and how far off.</p>{/if}
  </aside>
</div>
