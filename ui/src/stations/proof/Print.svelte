<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import { createQuery } from '@tanstack/svelte-query';
  import { api, download, need, sentence } from '../../lib/api/client';
  import Progress from '../../lib/Progress.svelte';
  import { engine, newest, type Proofed } from '../../lib/engine';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { inAddress } from '../../lib/address.svelte';
  import { house } from '../../lib/house.svelte';
  import { copy } from '../../lib/state.svelte';
  import type { Subject } from '../../lib/subject.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { called, picture } from './picture.svelte';
  import PictureRoom from './PictureRoom.svelte';
  import Slide from './Slide.svelte';

  // A picture as a press prints it, a line to slide between the two, and where it asks for what the press cannot give.
  let { subject, head }: { subject: Subject | undefined; head: Snippet<[string, Snippet?]> } = $props();

  const list = createQuery(() => ({
    queryKey: ['presses', house.id],
    queryFn: () => need(api.GET('/houses/{house}/presses', { params: { path: { house: house.id } } })),
  }));
  const presses = $derived(list.data ?? []);
  const intents = ['perceptual', 'relative colorimetric', 'saturation', 'absolute colorimetric'];
  const form = kept(`print-${house.id}`, {
    press: house.member?.press ?? 'coated',
    intent: 1,
    bpc: false,
    paper: false,
    limit: 300,
    gamut: false,
    ink: false,
    own: false,
  });
  const f = $derived(form.now);
  const plain = {
    press: house.member?.press ?? 'coated',
    intent: 1,
    bpc: false,
    paper: false,
    limit: 300,
    gamut: false,
    ink: false,
  };
  inAddress(
    () => house.path('proof/print'),
    () =>
      Object.fromEntries(
        Object.entries(plain).map(([key, was]) => [
          key,
          f[key as keyof typeof plain] === was ? '' : String(f[key as keyof typeof plain]),
        ]),
      ),
    (key, value) => {
      if (key === 'press') form.now.press = value;
      else if (key === 'intent' && intents[Number(value)]) form.now.intent = Number(value);
      else if (key === 'limit' && Number(value) > 0) form.now.limit = Number(value);
      else if (key === 'bpc' || key === 'paper' || key === 'gamut' || key === 'ink') form.now[key] = value === 'true';
    },
  );
  const press = $derived(presses.find((p) => p.name === f.press));

  const opened = $derived(picture.opened);
  let problem = $state('');
  let busy = $state('');
  let share = $state<number>(); // of the measuring
  let measuring = $state(true); // off where it was given up
  let scale = $state(1);
  type Shown = Proofed & { of: number; images: { screen: ImageData; print: ImageData; gamut?: ImageData; ink?: ImageData } };
  let shown = $state.raw<Shown | undefined>();

  type Asked = {
    id: number;
    press: string;
    intent: number;
    bpc: boolean;
    paper: boolean;
    own: boolean;
    limit: number;
    side: number;
    profile?: string | undefined;
    measure: boolean;
  };
  async function look(q: Asked, marks: boolean): Promise<Shown> {
    // About as large as it is shown, so that it is sharp and hatching stays even.
    const { profile, measure, ...args } = q;
    void measure; // that is for whoever asks
    share = undefined;
    const p = await engine.ask('proof', { ...args, marks }, profile, (s) => (share = s));
    const of = (id: number) => engine.pixels({ id, width: p.width, height: p.height });
    const images: Shown['images'] = { screen: await of(p.screen), print: await of(p.print) };
    if (marks) [images.gamut, images.ink] = [await of(p.gamut), await of(p.ink)];
    for (const id of [p.screen, p.print, p.gamut, p.ink]) if (id) void engine.ask('close', { id });
    return { ...p, of: q.id, images };
  }
  // The look comes first; where the press falls short takes longer and follows.
  // What is still on its way for a picture that is gone counts for nothing.
  const ask = newest(
    async (q: Asked) => {
      const gone = () => q.id !== opened?.id;
      try {
        busy = 'printing';
        const first = await look(q, false);
        if (gone()) return;
        if (!q.measure) return first;
        [shown, busy] = [first, 'measuring'];
        const whole = await look(q, true);
        return gone() ? undefined : whole;
      } catch (e) {
        if (!gone()) throw e;
      }
    },
    (r) => r && ([shown, problem, busy] = [r, '', '']),
    (e) => ([problem, busy] = [`${sentence(e)}.`, '']),
  );
  $effect(() => {
    const limit = Number(f.limit);
    if (opened && press)
      ask({
        id: opened.id,
        press: press && !press.shipped ? `${house.id}/${f.press}` : f.press,
        profile: press && !press.shipped ? `/api/houses/${house.id}/presses/${f.press}?of=${press.digest}` : undefined,
        intent: f.intent,
        bpc: f.bpc,
        paper: f.paper,
        own: f.own && opened.inks,
        measure: measuring,
        limit: limit > 0 && limit <= 400 ? limit : (press?.inkLimit ?? 400),
        side: Math.max(300, Math.ceil(Math.max(opened.width, opened.height) * untrack(() => scale) * 1.4 * devicePixelRatio)),
      });
  });

  // The core ends with what it was at; the picture is opened once more.
  const giveUp = async () => {
    measuring = false;
    engine.cancel();
    await picture.take(picture.file);
  };

  // How the subject itself prints: worst first, with what to tell the printer.
  const colors = $derived((subject?.colors ?? []).map((c) => ({ ...c })));
  const printed = createQuery(() => ({
    queryKey: ['ledger', house.id, 'printed', f.press, colors],
    queryFn: () =>
      need(
        api.POST('/houses/{house}/printed', {
          params: { path: { house: house.id } },
          body: { press: f.press, subject: subject?.name ?? '', colors },
        }),
      ),
    enabled: colors.length > 0,
  }));

  // The proof as a file, made from the picture as it is.
  const saving = useChange([]);
  const save = (form: 'png' | 'tif') =>
    saving.run(async () => {
      const file = picture.file!;
      const query = `press=${encodeURIComponent(f.press)}&intent=${f.intent}&bpc=${f.bpc}&paper=${f.paper}&form=${form}`;
      const proof = await saving.send<Blob>(`/houses/${house.id}/proofs?${query}`, file, file.name, 'POST', 'blob');
      const name = called(file.name, press?.label ?? f.press, form);
      download(proof, name);
      return `${name} is on its way to your downloads`;
    });
  const percent = (share: number) => (share > 0 && share < 0.001 ? 'under 0.1 %' : `${(share * 100).toFixed(1)} %`);
</script>

<div class="work">
  <PictureRoom {head} asks="How does it print?" {problem} bind:scale>
    {#if shown && opened && shown.of === opened.id}
      <Slide
        before={{ name: 'Screen', alt: 'The picture on the screen', image: shown.images.screen }}
        after={{ name: press?.label ?? '', alt: `The picture on ${press?.label}`, image: shown.images.print }}
        over={[
          ...(f.gamut && shown.images.gamut ? [{ alt: 'Out of gamut, hatched', image: shown.images.gamut }] : []),
          ...(f.ink && shown.images.ink ? [{ alt: 'Over the ink limit, hatched', image: shown.images.ink }] : []),
        ]}
        width={opened.width * scale}
        height={opened.height * scale}
        label="Where the print begins"
      />
    {:else}<p>Printing</p>{/if}
  </PictureRoom>
  <aside class="min-h-0 overflow-y-auto bg-base-200 p-5" aria-label="How it is printed">
    <div class="grid grid-cols-[6.67rem_minmax(0,1fr)] items-center gap-x-3 gap-y-2">
      <label for="proof-press">Press</label>
      <select id="proof-press" class="select w-full" bind:value={f.press} onchange={() => (f.limit = press?.inkLimit ?? f.limit)}
        >{#each presses as p (p.name)}<option value={p.name}>{p.label}</option>{/each}</select
      >
      <label for="proof-intent">Intent</label>
      <select id="proof-intent" class="select w-full" bind:value={f.intent}
        >{#each intents as name, i (name)}<option value={i}>{name}</option>{/each}</select
      >
      <label for="proof-limit">Ink limit</label>
      <span class="flex items-center gap-2"
        ><input id="proof-limit" class="input w-[6rem]" type="number" min="1" max="400" step="5" bind:value={f.limit} /> % in total</span
      >
    </div>
    <div class="flex flex-col gap-2 pt-3">
      <label class="flex items-center gap-2"
        ><input type="checkbox" class="checkbox" bind:checked={f.bpc} /> compensate the black point</label
      >
      <label class="flex items-center gap-2"
        ><input type="checkbox" class="checkbox" bind:checked={f.paper} /> with the paper's own color, as beside a screen</label
      >
      {#if opened?.inks}<label class="flex items-center gap-2"
          ><input type="checkbox" class="checkbox" bind:checked={f.own} /> its own inks as they are, not separated anew</label
        >{/if}
      <label class="flex items-center gap-2"
        ><input type="checkbox" class="checkbox" bind:checked={f.gamut} /> hatch what is out of gamut</label
      >
      <label class="flex items-center gap-2"
        ><input type="checkbox" class="checkbox" bind:checked={f.ink} /> hatch what is over the ink limit</label
      >
    </div>
    {#if shown}
      <h2 class="pt-5 text-[1.27rem]">What the press cannot give</h2>
      {#if busy === 'measuring' && !shown.images.ink}<Progress what="Measuring" {share} cancel={giveUp} />
      {:else if !measuring}<p>
          Not measured. <button class="link" onclick={() => (measuring = true)}>measure it</button>
        </p>
      {:else if shown.images.ink}
        <dl class="report">
          <dt>Out of gamut</dt>
          <dd>{percent(shown.outOfGamut)}</dd>
          <dt>Over {f.limit} % of ink</dt>
          <dd>{percent(shown.overInk)}</dd>
          <dt>Heaviest point</dt>
          <dd>{shown.heaviest.toFixed(0)} %, at {shown.x}, {shown.y}</dd>
        </dl>
        <p class="flex flex-wrap gap-x-4 pt-2">
          <button class="link" disabled={saving.busy} onclick={() => save('png')}>download as PNG</button>
          <button class="link" disabled={saving.busy} onclick={() => save('tif')}>download the inks as TIFF</button>
        </p>
        {#if saving.problem}<p role="alert" class="border-l-4 border-current pl-3">{saving.problem}</p>{/if}
        <p class="pt-2 text-small">
          {[
            'Out of gamut is what no build prints within 2 (ΔE00).',
            shown.reduced && `Measured on the picture reduced to ${shown.width} x ${shown.height}.`,
            opened?.note,
          ]
            .filter(Boolean)
            .join(' ')}
        </p>
      {/if}
    {/if}
    {#if printed.data}
      <div class="flex items-baseline justify-between gap-3 pt-5">
        <h2 class="text-[1.27rem]">{subject?.name} on {printed.data.label}</h2>
        <button class="link shrink-0" onclick={() => copy(printed.data!.text, 'What to tell the printer')}
          >copy for the printer</button
        >
      </div>
      <p class="text-small">
        Worst first. Side by side: screen, print{printed.data.rows.some((r) => r.mends) ? ', and the ink that would mend it' : ''}.
      </p>
      <ul class="pt-1">
        {#each printed.data.rows as r (r.name)}
          <li class="rule flex items-center gap-3 border-t py-1">
            <span class="flex h-10 w-[5.6rem] shrink-0" aria-hidden="true"
              ><span class="flex-1" style:background={r.hex}></span><span class="flex-1" style:background={r.look}
              ></span>{#if r.mends}<span class="flex-1" style:background={r.inkHex}></span>{/if}</span
            >
            <span class="min-w-0 flex-1 text-small"
              ><b class="block truncate text-[1rem]">{r.name}</b><span class="font-mono">{r.build}</span> {r.origin}</span
            >
            <span class="w-[10rem] shrink-0 text-right text-small"
              ><Distance value={r.deltaE} word={r.word} />
              {#if r.direction}<span class="block">{r.direction}</span>{/if}
              {#if r.mends}<span class="block">{r.ink}: {r.inkDeltaE.toFixed(1)} {r.inkWord}</span>{/if}</span
            >
          </li>
        {/each}
      </ul>
    {/if}
  </aside>
</div>

<style>
  .report {
    display: grid;
    grid-template-columns: 1fr auto;
  }
  .report > * {
    padding: 0.2rem 0;
    border-top: 1px solid color-mix(in srgb, currentColor 40%, transparent);
  }
  .report dd {
    font-weight: 700;
    font-variant-numeric: tabular-nums;
  }
</style>
