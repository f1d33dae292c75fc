<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { still, way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { bytes, notations } from '../../lib/notations';
  import { navigate } from '../../lib/router';
  import { session } from '../../lib/state.svelte';
  import Judging from '../audit/Judging.svelte';
  import Dumped from './Dumped.svelte';
  import Monthly from './Monthly.svelte';
  import Views from './Views.svelte';
  import GiveUp from './GiveUp.svelte';
  import HouseMark from './HouseMark.svelte';

  // What a house says of itself and how it works.
  const path = () => ({ house: house.id });
  const settings = createQuery(() => ({
    queryKey: ['house', house.id, 'settings'],
    queryFn: () => need(api.GET('/houses/{house}/settings', { params: { path: path() } })),
  }));
  const presses = createQuery(() => ({
    queryKey: ['presses', house.id],
    queryFn: () => need(api.GET('/houses/{house}/presses', { params: { path: path() } })),
  }));
  const book = createQuery(() => ({
    queryKey: ['ink-book', house.id],
    queryFn: () => need(api.GET('/houses/{house}/ink-book', { params: { path: path() } })),
  }));
  const pressName = (name: string) => presses.data?.find((p) => p.name === name)?.label ?? name;
  const changing = useChange(['house', 'ledger', 'sheet', 'ink-book']);
  const founding = useChange([]);
  let draft = $state<Schema['Settings']>();
  // Classes that are kept and that the book does not have mean nothing; without one of its own, all are meant.
  const meant = $derived.by(() => {
    const all = book.data?.classes ?? [];
    const some = all.filter((k) => draft?.inks?.some((i) => i.toLowerCase() === k.toLowerCase()));
    return some.length > 0 ? some : all;
  });
  let name = $state('');

  const deciding = {
    '': 'the one that is written first decides',
    screen: 'the screen value decides',
    build: 'the CMYK build decides',
    ink: 'the spot ink decides',
  };
  const trailChoices: [number, string][] = [
    [0, 'for good'],
    [90, 'for three months'],
    [365, 'for a year'],
    [1095, 'for three years'],
    [3650, 'for ten years'],
  ];
  const put = (body: Schema['Settings']) => need(api.PUT('/houses/{house}/settings', { params: { path: path() }, body }));
  const save = () =>
    changing.run(async () => {
      const was = settings.data!;
      const params = { path: path() };
      const body = $state.snapshot(draft!);
      await put(body);
      draft = undefined;
      await session.load();
      const parts = Object.fromEntries(Object.entries(body).filter(([k]) => k !== 'stored' && k !== 'room')); // what a form sets
      return {
        said: 'The settings are changed',
        undo: [still('/houses/{house}/settings', { params }, parts), way('put', '/houses/{house}/settings', { params, body: was })],
      };
    });
  const found = () =>
    founding.run(async () => {
      const made = await need(api.POST('/houses', { body: { name } }));
      name = '';
      await session.load();
      void navigate('/h/:house/library', { params: { house: String(made.id) } });
    });
  const kinds = ['hex', 'rgb', 'cmyk'] as const;
  const label = { hex: 'Hex', rgb: 'RGB', cmyk: 'CMYK' };
</script>

<div class="work">
  <main class="flex min-h-0 flex-col overflow-y-auto p-5 pt-4">
    <div class="flex flex-wrap items-baseline gap-x-6">
      <h1>{house.member?.name}</h1>
      <Views now="house" />
    </div>
    {#if settings.isError}<p class="mt-4" role="alert">{settings.error.message}</p>{/if}
    {#if settings.data}
      {@const s = settings.data}
      {#if draft}
        <form
          class="mt-5 grid max-w-[41.33rem] gap-4"
          onsubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <label class="grid gap-1"
            ><b>Name</b><input class="input w-full" required maxlength="120" bind:value={draft.name} /></label
          >
          <fieldset class="grid gap-1">
            <legend class="mb-1 font-bold">Who invites</legend>
            <label class="flex gap-2"><input type="radio" value="keeper" bind:group={draft.inviters} />keepers</label>
            <label class="flex gap-2"
              ><input type="radio" value="contributor" bind:group={draft.inviters} />keepers and contributors</label
            >
          </fieldset>
          <label class="flex items-center gap-2"
            ><input class="checkbox" type="checkbox" bind:checked={draft.secondFactor} />nobody enters without a second factor</label
          >
          <fieldset>
            <legend class="mb-1 font-bold">Values are first written as</legend>
            <div class="grid grid-cols-3 gap-3">
              {#each kinds as k, i (k)}<label class="grid gap-1 text-small"
                  >{label[k]}<select class="select w-full font-mono" bind:value={draft.notations[i]}
                    >{#each notations[k] as n, at (n.name)}<option value={at}>{n.name}</option>{/each}</select
                  ></label
                >{/each}
            </div>
            <p class="mt-1 text-small">Everybody may choose another for themselves.</p>
          </fieldset>
          <fieldset>
            <legend class="mb-1 font-bold">Where a color comes with several values</legend>
            <select class="select w-full" aria-label="What decides a color with several values" bind:value={draft.decides}
              >{#each Object.entries(deciding) as [kind, words] (kind)}<option value={kind}>{words}</option>{/each}</select
            >
          </fieldset>
          <fieldset class="grid grid-cols-2 gap-3 max-[35rem]:grid-cols-1">
            <legend class="mb-1 font-bold">The library shows prints on</legend>
            <label class="grid gap-1 text-small"
              >Press<select class="select w-full" bind:value={draft.press}
                >{#each presses.data ?? [] as p (p.name)}<option value={p.name}>{p.label}</option>{/each}</select
              ></label
            >
            <label class="grid gap-1 text-small"
              >Inks on<select class="select w-full" bind:value={draft.stock}
                ><option value="coated">coated paper</option><option value="uncoated">uncoated paper</option></select
              ></label
            >
            {#if book.data}<div class="col-span-full grid gap-1 text-small">
                The nearest ink of a color is
                <span class="flex flex-wrap gap-x-4 gap-y-1"
                  >{#each book.data.classes as kind (kind)}<label class="flex items-center gap-2"
                      ><input
                        class="checkbox"
                        type="checkbox"
                        bind:checked={
                          () => meant.includes(kind),
                          (on) => (draft!.inks = book.data!.classes.filter((k) => (k === kind ? on : meant.includes(k))))
                        }
                      />{kind}</label
                    >{/each}</span
                >
              </div>{/if}
          </fieldset>
          <label class="grid max-w-[21.33rem] gap-1"
            ><b>The trail of changes is kept</b><select class="select w-full" bind:value={draft.trailDays}
              >{#each trailChoices as [days, says] (days)}<option value={days}>{says}</option>{/each}</select
            ></label
          >
          <label class="grid gap-1"
            ><b>What recipients read first in a mail</b><textarea
              class="textarea w-full"
              rows="3"
              maxlength="500"
              bind:value={draft.greeting}></textarea></label
          >
          <label class="grid gap-1"
            ><b>What stands on top of public pages</b><textarea
              class="textarea w-full"
              rows="2"
              maxlength="500"
              bind:value={draft.sentence}></textarea></label
          >
          {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
          <span class="flex gap-4"
            ><button class="btn btn-primary" disabled={changing.busy}>Set it so</button><button
              type="button"
              class="link"
              onclick={() => (draft = undefined)}>leave it</button
            ></span
          >
        </form>
      {:else}
        <dl
          class="mt-5 grid max-w-[50.67rem] grid-cols-[12.67rem_minmax(0,1fr)] gap-y-2 max-[35rem]:grid-cols-1 max-[35rem]:gap-y-0"
        >
          <dt class="font-bold">Name</dt>
          <dd>{s.name}</dd>
          <dt class="font-bold">Who invites</dt>
          <dd>{s.inviters === 'keeper' ? 'keepers' : 'keepers and contributors'}</dd>
          <dt class="font-bold">Second factor</dt>
          <dd>{s.secondFactor ? 'nobody enters without one' : 'everybody decides for themselves'}</dd>
          <dt class="font-bold">Values first written as</dt>
          <dd class="font-mono">{kinds.map((k, i) => notations[k][s.notations[i] ?? 0]?.name).join(' · ')}</dd>
          <dt class="font-bold">The library shows</dt>
          <dd>{pressName(s.press)}; inks on {s.stock} paper, {(s.inks ?? []).length > 0 ? s.inks?.join(', ') : 'of any class'}</dd>
          <dt class="font-bold">Of several values</dt>
          <dd>{deciding[s.decides ?? '']}</dd>
          <dt class="font-bold">The trail is kept</dt>
          <dd>{trailChoices.find(([d]) => d === (s.trailDays ?? 0))?.[1] ?? `for ${s.trailDays} days`}</dd>
          <dt class="font-bold">Recipients read first</dt>
          <dd>{s.greeting || 'nothing but what the mail says'}</dd>
          <dt class="font-bold">Public pages begin with</dt>
          <dd>{s.sentence || 'the name of the house'}</dd>
          <dt class="font-bold">Files of projects</dt>
          <dd>{bytes(s.stored ?? 0)}{s.room ? ` of ${bytes(s.room)}` : ''}</dd>
          <dt class="font-bold">Backup</dt>
          <dd><Dumped /> <a class="link" href={house.path('library/view/backup')}>Take it along</a></dd>
        </dl>
        {#if house.keeper}<button
            class="btn btn-primary mt-4 justify-self-start self-start"
            onclick={() => (draft = structuredClone($state.snapshot(s)))}>Change the settings</button
          >{/if}
      {/if}
      <div class="max-w-[50.67rem]"><Judging /></div>
      {#if house.keeper}<div class="max-w-[50.67rem]"><Monthly /></div>{/if}
    {/if}
  </main>
  <aside class="overflow-y-auto bg-base-200 p-5" aria-label="Mark and houses">
    <HouseMark />
    {#if house.keeper}
      <h2 class="mt-8 text-[1.13rem]">Another house</h2>
      <form
        class="mt-2 flex gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void found();
        }}
      >
        <input
          class="input min-w-0 flex-1"
          aria-label="Name of the new house"
          placeholder="its name"
          required
          maxlength="120"
          bind:value={name}
        />
        <button class="btn btn-plain" disabled={founding.busy}>Make it</button>
      </form>
      {#if founding.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{founding.problem}</p>{/if}

      <h2 class="mt-8 text-[1.13rem]">Take it along, or give it up</h2>
      <p class="mt-1">
        <a class="link" href={house.path('library/view/backup')}>The backup</a> holds the library, its history, sets, editions, recipients
        and boards; the archive of the whole house the projects, excuses and plans too.
      </p>
      <GiveUp />
    {/if}
  </aside>
</div>
