<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { searchParams } from 'sv-router';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { house, useLedger } from '../../lib/house.svelte';
  import { count, when } from './audit.svelte';
  import PlanFrom from './PlanFrom.svelte';
  import PlanUses from './PlanUses.svelte';

  // Saved plans: a map from old to new, made by hand or from a color that was amended or replaced, to be applied to whole projects.
  const plans = createQuery(() => ({
    queryKey: ['audits', 'plans', house.id],
    queryFn: () => need(api.GET('/houses/{house}/plans', { params: { path: { house: house.id } } })),
  }));
  const colors = useLedger();
  const changing = useChange(['audits']);
  type Draft = { id?: number; version?: number; name: string; colors: Schema['PlanStep'][] };
  let draft = $state<Draft | null>(null);

  const current = $derived((colors.data?.colors ?? []).filter((c) => c.status !== 'retired' && c.status !== 'draft'));
  const retired = $derived((colors.data?.colors ?? []).filter((c) => c.status === 'retired'));

  const stays = ' '; // no name of a color
  let wrong = $state<Schema['PlanPair'][]>([]); // lines that are no part of the draft
  let open = $state<number>(); // the plan whose uses are shown

  // What was changed just now, elsewhere, comes as an address with the moment of it.
  const moment = String(searchParams.get('moment') ?? '');
  if (moment)
    void changing.run(async () => {
      const query = { moment };
      const list = await need(api.GET('/houses/{house}/plans/proposal', { params: { path: { house: house.id }, query } }));
      if (list.length === 0) return 'No old value is left that is not a color of its own';
      draft = { name: `New values of ${when.format(new Date(moment))}`, colors: list };
    });

  const save = () =>
    changing.run(async () => {
      if (!draft) return;
      const { id, version, name } = draft;
      const steps = draft.colors.filter((s) => s.from.trim() !== '').map((s) => ({ ...s, from: s.from.trim() }));
      const path = { house: house.id };
      const was = plans.data?.find((p) => p.id === id);
      const now = await need(api.POST('/houses/{house}/plans', { params: { path }, body: { id, version, name, colors: steps } }));
      draft = null;
      wrong = [];
      open = now.id;
      return {
        said: `The plan ${name} is kept`,
        undo: was
          ? [
              way('post', '/houses/{house}/plans', {
                params: { path },
                body: { id, version: now.version, name: was.name, colors: was.colors },
              }),
            ]
          : [way('delete', '/houses/{house}/plans/{plan}', { params: { path: { ...path, plan: now.id } } })],
      };
    });

  const drop = (p: Schema['RepaintPlan']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/plans/{plan}', { params: { path: { house: house.id, plan: p.id } } }));
      return {
        said: `The plan ${p.name} is deleted`,
        undo: [
          way('post', '/houses/{house}/plans', { params: { path: { house: house.id } }, body: { name: p.name, colors: p.colors } }),
        ],
      };
    });
  const swatch = (from: string) => (/^#[0-9A-F]{6}$/i.test(from) ? from : 'transparent');
  const hexOf = (name?: string) => colors.data?.colors.find((c) => c.name === name)?.hex ?? 'transparent';
</script>

<div class="work">
  <main class="flex min-h-0 flex-col overflow-y-auto pb-6 pl-5 pr-5 pt-4">
    <div class="flex items-baseline gap-4">
      <h1>Repaint plans</h1>
      <span class="ml-auto flex shrink-0 items-center gap-4">
        <a class="link" href={house.path('audit')}>all projects</a>
        {#if house.contributor}<button
            class="btn btn-primary"
            onclick={() => (draft = { name: '', colors: [{ from: '', to: '' }] })}>New plan</button
          >{/if}
      </span>
    </div>
    <p class="mt-1 max-w-[42.67rem]">
      What each old value becomes, kept under a name. Open a project and repaint all of its files by one; try it first to see what
      would change.
    </p>
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#each plans.data ?? [] as p (p.id)}
      <section class="rule border-b py-3">
        <div class="flex items-baseline gap-4">
          <h2 class="text-[1.13rem]">{p.name}</h2>
          <span class="text-small">{count(p.colors.length, 'color')}, {when.format(new Date(p.at))}, {p.by}</span>
          <button
            class="link ml-auto text-small"
            aria-expanded={open === p.id}
            onclick={() => (open = open === p.id ? undefined : p.id)}>{open === p.id ? 'only its colors' : 'where they are'}</button
          >
          {#if house.contributor}
            <span class="flex gap-4 text-small"
              ><button
                class="link"
                onclick={() => (draft = { id: p.id, version: p.version, name: p.name, colors: p.colors.map((c) => ({ ...c })) })}
                >change</button
              ><button class="link" onclick={() => drop(p)}>delete</button></span
            >
          {/if}
        </div>
        {#if open === p.id}<PlanUses steps={p.colors} plan={p.id} {hexOf} />{:else}
          <ul class="mt-2 grid grid-cols-2 gap-x-8">
            {#each p.colors.slice(0, 12) as s (s.from)}
              <li class="flex items-center gap-3 py-1">
                <span class="grid h-7 w-16 grid-cols-2" aria-hidden="true"
                  ><span style:background={swatch(s.from)}></span><span style:background={s.leave ? swatch(s.from) : hexOf(s.to)}
                  ></span></span
                ><span class="font-mono">{s.from}</span><span class="truncate">{s.leave ? 'stays' : `becomes ${s.to}`}</span>
              </li>
            {/each}
          </ul>
          {#if p.colors.length > 12}<p class="text-small">and {p.colors.length - 12} more</p>{/if}
        {/if}
      </section>
    {/each}
    {#if plans.data?.length === 0 && !draft}
      <p class="mt-6 border border-dashed border-current p-8 text-center">
        No plans yet. Begin one by hand, or from a color whose value changed or that was replaced.
      </p>
    {/if}
  </main>
  <aside class="flex min-h-0 flex-col overflow-y-auto bg-base-200 p-5">
    {#if draft}
      <form
        class="grid gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <h2>{draft.id ? 'Change the plan' : 'New plan'}</h2>
        <label class="grid gap-1 text-small"
          >Name<input
            class="input w-full"
            required
            placeholder="Old Funnel to Buoy"
            {@attach opened}
            bind:value={draft.name}
          /></label
        >
        <ul class="grid gap-1">
          {#each draft.colors as s, i (i)}
            <li class="grid grid-cols-[2.27rem_8rem_1fr_auto] items-center gap-2">
              <span class="grid h-8 grid-cols-2" aria-hidden="true"
                ><span style:background={swatch(s.from)}></span><span style:background={hexOf(s.to)}></span></span
              >
              <input class="input w-full font-mono" aria-label={`Old value ${i + 1}`} placeholder="#112233" bind:value={s.from} />
              <select
                class="select w-full"
                aria-label={`What old value ${i + 1} becomes`}
                required
                value={s.leave ? stays : (s.to ?? '')}
                onchange={(e) => {
                  const to = e.currentTarget.value;
                  draft!.colors[i] = to === stays ? { from: s.from, leave: true } : { from: s.from, to };
                }}
              >
                <option value="" disabled>becomes</option>
                <option value={stays}>stays as it is</option>
                {#each current as c (c.id)}<option value={c.name}>{c.name}</option>{/each}
              </select>
              <button
                type="button"
                class="link text-small"
                aria-label={`Take out old value ${i + 1}`}
                onclick={() => draft?.colors.splice(i, 1)}>out</button
              >
            </li>
          {/each}
        </ul>
        <p class="flex gap-4">
          <button type="button" class="link" onclick={() => draft?.colors.push({ from: '', to: '' })}>another color</button>
        </p>
        {#if wrong.length > 0}
          <div class="border-l-4 border-current pl-3 text-small" role="status">
            <p><b>{count(wrong.length, 'line')} {wrong.length === 1 ? 'is' : 'are'} no part of it</b></p>
            <ul>
              {#each wrong.slice(0, 12) as p, i (i)}<li class="break-words">
                  {p.line}: {p.text.length > 60 ? `${p.text.slice(0, 60)}…` : p.text}: {p.why}
                </li>{/each}
            </ul>
            {#if wrong.length > 12}<p>and {wrong.length - 12} more</p>{/if}
          </div>
        {/if}
        <p class="flex items-center gap-4">
          <button class="btn btn-primary" disabled={changing.busy}>Keep the plan</button>
          <button
            type="button"
            class="link"
            onclick={() => {
              draft = null;
              wrong = [];
            }}>throw it away</button
          >
        </p>
      </form>
    {:else if house.contributor}
      <PlanFrom
        {changing}
        {current}
        {retired}
        take={(name, colors, others) => {
          draft = { name, colors };
          wrong = others;
        }}
      />
    {/if}
  </aside>
</div>
