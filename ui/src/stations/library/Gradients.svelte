<script lang="ts">
  import { opened } from '../../lib/focus';
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { engine } from '../../lib/engine';
  import { house, useLedger, useLimits } from '../../lib/house.svelte';
  import { copy } from '../../lib/state.svelte';

  const limits = useLimits();

  const ledger = useLedger();
  const changing = useChange(['gradients']);
  const gradients = createQuery(() => ({
    queryKey: ['gradients', house.id],
    queryFn: () => need(api.GET('/houses/{house}/gradients', { params: { path: { house: house.id } } })),
  }));
  const colors = $derived((ledger.data?.colors ?? []).filter((c) => c.status !== 'retired'));

  type Draft = Schema['NewGradient'] & { id?: number };
  let draft = $state<Draft | null>(null);

  function begin(g?: Schema['Gradient']) {
    changing.problem = '';
    draft = g
      ? {
          id: g.id,
          version: g.version,
          name: g.name,
          angle: g.angle,
          space: g.space as Draft['space'],
          stops: g.stops.map((s) => ({ color: s.color.id, place: s.place })),
        }
      : {
          name: '',
          angle: 90,
          space: 'oklab',
          stops: [
            { color: colors[0]?.id ?? 0, place: 0 },
            { color: colors[1]?.id ?? 0, place: 100 },
          ],
        };
  }

  const here = $derived({ house: house.id });
  const keep = () =>
    changing.run(async () => {
      const { id, ...body } = $state.snapshot(draft!);
      body.stops.sort((a, b) => a.place - b.place);
      const known = new Set(gradients.data?.map((g) => g.id));
      const was = gradients.data?.find((g) => g.id === id);
      const list = await (id
        ? need(api.PUT('/houses/{house}/gradients/{gradient}', { params: { path: { ...here, gradient: id } }, body }))
        : need(api.POST('/houses/{house}/gradients', { params: { path: here }, body })));
      draft = null;
      const now = list.find((g) => (id ? g.id === id : !known.has(g.id)));
      const path = now && { ...here, gradient: now.id };
      const undo =
        path &&
        (was
          ? [
              way('put', '/houses/{house}/gradients/{gradient}', {
                params: { path },
                body: {
                  name: was.name,
                  angle: was.angle,
                  space: was.space as Draft['space'],
                  stops: was.stops.map((s) => ({ color: s.color.id, place: s.place })),
                  version: now.version,
                },
              }),
            ]
          : [way('delete', '/houses/{house}/gradients/{gradient}', { params: { path } })]);
      return { said: `${body.name} is kept`, undo };
    });

  const remove = (g: Schema['Gradient']) =>
    changing.run(async () => {
      const path = here;
      await need(api.DELETE('/houses/{house}/gradients/{gradient}', { params: { path: { ...path, gradient: g.id } } }));
      draft = null;
      const { name, angle } = g;
      const body = {
        name,
        angle,
        space: g.space as Draft['space'],
        stops: g.stops.map((s) => ({ color: s.color.id, place: s.place })),
      };
      const undo = [way('post', '/houses/{house}/gradients', { params: { path }, body })];
      return { said: `${name} is deleted`, undo, back: `${name} is back` };
    });

  // Gradients to begin from, of the colors that are approved; the core chooses.
  const choice = $derived(colors.filter((c) => c.status === 'approved').slice(0, 200));
  const proposals = createQuery(() => ({
    queryKey: ['begin', choice.map((c) => c.hex)],
    queryFn: () => engine.ask('gradients', { values: choice.map((c) => c.hex) }),
    enabled: house.keeper && choice.length > 1,
    staleTime: Infinity,
  }));
  type Begin = NonNullable<typeof proposals.data>[number];
  const of = (p: Begin) => p.at.map((i) => choice[i]!);
  const css = (p: Begin) =>
    `linear-gradient(90deg in ${p.space}, ${of(p)
      .map((c, i) => `${c.hex} ${p.place[i]}%`)
      .join(', ')})`;
  function take(p: Begin) {
    changing.problem = '';
    const list = of(p);
    draft = {
      name: `${list[0]!.name} to ${list.at(-1)!.name}`,
      angle: 90,
      space: p.space as Draft['space'],
      stops: list.map((c, i) => ({ color: c.id, place: p.place[i]! })),
    };
  }
  const forms = [
    { key: 'picture', name: 'picture', title: 'For slides and pages, 1920 × 1080' },
    { key: 'film', name: 'film', title: 'A ground of 3840 × 2160 in 16 bits, without steps' },
    { key: 'drawing', name: 'drawing', title: 'SVG, whose fill drawing and office programs take over' },
    { key: 'steps', name: 'steps', title: 'Eleven steps to key in' },
  ];

  const hexOf = (id: number) => colors.find((c) => c.id === id)?.hex ?? '#808080';
  // The browser mixes the draft as CSS says; what is kept comes with its steps from the server.
  const preview = $derived(
    draft
      ? `linear-gradient(${draft.angle}deg in ${draft.space}, ${[...draft.stops]
          .sort((a, b) => a.place - b.place)
          .map((s) => `${hexOf(s.color)} ${s.place}%`)
          .join(', ')})`
      : '',
  );
</script>

{#if house.keeper && !draft}<button class="btn btn-primary" disabled={colors.length < 2} onclick={() => begin()}
    >New gradient</button
  >{/if}
{#if draft}
  <form
    class="border border-current p-4"
    onsubmit={(e) => {
      e.preventDefault();
      keep();
    }}
  >
    <div class="h-24" style:background={preview} role="img" aria-label="Preview"></div>
    <div class="mt-3 flex flex-wrap items-end gap-3">
      <label class="grid gap-1 text-small"
        >Name <input
          class="input w-[13.33rem]"
          required
          maxlength={limits.data?.nameRunes}
          {@attach opened}
          bind:value={draft.name}
        /></label
      >
      <label class="grid gap-1 text-small"
        >Angle <input class="input w-[6rem]" type="number" min="0" max="359" bind:value={draft.angle} /></label
      >
      <label class="grid gap-1 text-small"
        >Mixed in
        <select class="select w-[10rem]" bind:value={draft.space}
          >{#each ['oklab', 'oklch', 'lab', 'srgb', 'srgb-linear'] as s (s)}<option value={s}>{s}</option>{/each}</select
        >
      </label>
    </div>
    <ul class="mt-3">
      {#each draft.stops as s, i (i)}
        <li class="flex items-center gap-3 py-1">
          <span class="h-8 w-12" style:background={hexOf(s.color)}></span>
          <select class="select w-[13.33rem]" aria-label={`Color of stop ${i + 1}`} bind:value={s.color}
            >{#each colors as c (c.id)}<option value={c.id}>{c.name}</option>{/each}</select
          >
          <input class="w-[13.33rem]" type="range" min="0" max="100" aria-label={`Place of stop ${i + 1}`} bind:value={s.place} />
          <span class="w-16 whitespace-nowrap font-mono text-small">{s.place} %</span>
          {#if draft.stops.length > 2}<button
              type="button"
              class="link"
              aria-label={`Remove stop ${i + 1}`}
              onclick={() => draft!.stops.splice(i, 1)}>remove</button
            >{/if}
        </li>
      {/each}
    </ul>
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    <div class="mt-3 flex gap-3">
      <button class="btn btn-primary">Keep it</button>
      {#if draft.stops.length < 12}<button
          type="button"
          class="btn btn-plain"
          onclick={() => draft!.stops.push({ color: colors[0]?.id ?? 0, place: 50 })}>Add a stop</button
        >{/if}
      <button type="button" class="btn btn-plain" onclick={() => (draft = null)}>Leave</button>
    </div>
  </form>
{:else if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
{#if gradients.data?.length === 0 && !draft}<p class="mt-4 max-w-[37.33rem]">
    No gradient yet. A gradient runs between library colors and follows them when they are amended.
  </p>{/if}
<ul class="mt-4 grid gap-5">
  {#each gradients.data ?? [] as g (g.id)}
    <li>
      <div
        class="h-20"
        style:background={`linear-gradient(${g.angle}deg, ${g.steps.join(', ')})`}
        role="img"
        aria-label={`Gradient ${g.name}`}
      ></div>
      <p class="mt-1 flex flex-wrap items-baseline gap-x-4">
        <b>{g.name}</b>
        <span class="min-w-0">{g.stops.map((s) => `${s.color.name} ${s.place} %`).join(', ')}; {g.angle}°, mixed in {g.space}</span>
        <span class="ml-auto flex flex-wrap gap-x-4"
          ><button class="link" onclick={() => copy(g.css)}>copy CSS</button>{#each forms as f (f.key)}<a
              class="link"
              title={f.title}
              aria-label={`${g.name} as ${f.name}`}
              href={`/api/houses/${house.id}/gradients/${g.id}/files/${f.key}`}
              download>{f.name}</a
            >{/each}</span
        >
        {#if house.keeper}<button class="link" aria-label={`Change ${g.name}`} onclick={() => begin(g)}>change</button><button
            class="link"
            aria-label={`Delete ${g.name}`}
            onclick={() => remove(g)}>delete</button
          >{/if}
      </p>
    </li>
  {/each}
</ul>

{#if house.keeper && !draft && proposals.data && proposals.data.length > 0}
  <h2 class="mt-6">To begin from, of your colors</h2>
  <ul class="mt-2 grid grid-cols-4 gap-x-4 gap-y-3 max-[56.25rem]:grid-cols-2">
    {#each proposals.data as p, i (i)}
      <li>
        <button class="block w-full text-left" onclick={() => take(p)}>
          <span class="block h-14" style:background={css(p)}></span>
          <span class="block pt-1 text-small"
            ><b>{p.kind === 'past gray' ? 'gray avoided' : p.kind}</b>, {of(p)
              .map((c) => c.name)
              .join(', ')}</span
          >
        </button>
      </li>
    {/each}
  </ul>
{/if}
