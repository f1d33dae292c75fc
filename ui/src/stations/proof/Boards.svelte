<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query';
  import type { Snippet } from 'svelte';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { navigate, route } from '../../lib/router';
  import type { Subject } from '../../lib/subject.svelte';
  import Board from './Board.svelte';
  import OptionCard from './OptionCard.svelte';
  import { letter, type Option } from './option';

  // Options for somebody to choose from: proposed of the subject, worked on, shown.
  let { subject, library, head }: { subject: Subject; library: Schema['ColorRow'][]; head: Snippet<[string, Snippet?]> } = $props();

  const client = useQueryClient();
  const id = $derived(Number(route.params.board ?? 0));
  const boards = createQuery(() => ({
    queryKey: ['boards', house.id],
    queryFn: () => need(api.GET('/houses/{house}/boards', { params: { path: { house: house.id } } })),
    enabled: house.contributor,
  }));
  const typefaces = createQuery(() => ({
    queryKey: ['typefaces', house.id],
    queryFn: () => need(api.GET('/houses/{house}/typefaces', { params: { path: { house: house.id } } })),
    enabled: house.contributor,
  }));
  $effect(() => {
    for (const t of typefaces.data ?? [])
      if (t.id && ![...document.fonts].some((f) => f.family.replaceAll('"', '') === t.key))
        document.fonts.add(new FontFace(t.key, `url(/api/houses/${house.id}/typefaces/${t.id})`));
  });

  const changing = useChange(['boards']);
  const at = $derived({ house: String(house.id), view: 'boards', subject: route.params.subject ?? '' });
  const open = (to: number) => navigate('/h/:house/proof/:view/:subject/:board', { params: { ...at, board: String(to) } });
  const close = () => navigate('/h/:house/proof/:view/:subject', { params: at });

  // What is proposed waits until a board is made of it, or it is thrown away.
  const proposed = kept<{ options: Option[]; keep: boolean[]; of: string }>(`options-${house.id}`, {
    options: [],
    keep: [],
    of: '',
  });
  const taken = $derived(proposed.now.options.filter((_, i) => proposed.now.keep[i]));
  const texts: Schema['BoardTexts'] = {
    word: '',
    headline: 'A headline of a few words',
    lines: 'Some lines of text, as long as they are on a poster or a page, to see how they read in these colors.',
    small: 'Small print: dates, sources, conditions.',
    button: 'Go on',
  };
  const propose = () =>
    changing.run(async () => {
      const options = await need(
        api.POST('/houses/{house}/boards/propose', {
          params: { path: { house: house.id } },
          body: { colors: subject.colors.map((c) => ({ ...c })) },
        }),
      );
      if (options.length === 0) return 'No two of these colors read on each other; choose another subject';
      proposed.now = { options, keep: options.map((_, i) => i < 4), of: subject.name };
      if (id) await close();
    });
  const counts = ['no options', 'one option', 'two options', 'three options', 'four options', 'five options', 'six options'];
  const create = (options: Option[], title: string) =>
    changing.run(async () => {
      const b = await need(
        api.POST('/houses/{house}/boards', {
          params: { path: { house: house.id } },
          body: { title, intro: '', texts, logo: '', options },
        }),
      );
      client.setQueryData(['boards', house.id, b.id], b);
      proposed.clear();
      await open(b.id);
    });
  const empty = (): Option => ({
    ground: { name: 'White', hex: '#FFFFFF' },
    type: { name: 'Black', hex: '#111111' },
    accents: [],
    typeface: typefaces.data?.[0]?.key ?? 'hanken-grotesk',
    size: 'medium',
    logo: false,
  });
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const of = (n: number, what: string) => (n === 1 ? `1 ${what}` : `${n} ${what}s`);
</script>

<svelte:head><link rel="stylesheet" href="/typefaces/faces.css" /></svelte:head>

{#snippet ways()}
  <span class="flex flex-wrap items-center gap-x-4">
    {#if id > 0}<button class="link" onclick={close}>all boards</button>{/if}
    <button class="link" disabled={changing.busy} onclick={() => create([empty()], `${subject.name}, a board`)}
      >an empty option</button
    >
    <button class="btn btn-primary" disabled={changing.busy || subject.colors.length < 2} onclick={propose}
      >Options from this subject</button
    >
  </span>
{/snippet}

{#if !house.contributor}
  <main>
    {@render head('')}
    <p class="px-5">Boards are for those who may propose colors. What they show you comes as a link.</p>
  </main>
{:else if id > 0}
  {#key id}<Board {id} {library} colors={subject.colors} {empty} typefaces={typefaces.data ?? []} {head} {ways} />{/key}
{:else}
  <main class="flex min-h-0 flex-col">
    {@render head(boards.data ? of(boards.data.length, 'board') : '', ways)}
    {#if changing.problem}<p role="alert" class="mx-5 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    <div class="min-h-0 flex-1 overflow-y-auto px-5 pb-5">
      {#if proposed.now.options.length > 0}
        <section aria-label="Proposed options" class="mb-6">
          <div class="flex flex-wrap items-center gap-x-4 gap-y-2 pb-2">
            <h2 class="text-[1.27rem]">From {proposed.now.of}, most different first</h2>
            <span class="text-small">Every text on them passes. Press those to keep.</span>
            <span class="ml-auto flex items-center gap-4">
              <button class="link" onclick={() => proposed.clear()}>throw away</button>
              <button
                class="btn btn-primary"
                disabled={changing.busy || taken.length === 0}
                onclick={() => create(taken, `${proposed.now.of}, ${counts[taken.length]}`)}
                >Make a board of {taken.length === 1 ? 'this one' : `these ${taken.length}`}</button
              >
            </span>
          </div>
          <div class="grid grid-cols-3 gap-x-0 gap-y-4 phone:sweep xl:grid-cols-6">
            {#each proposed.now.options as o, i (i)}
              <div class="flex min-w-0 flex-col">
                <OptionCard option={o} {texts} letter={letter(i)} />
                <label class="rule flex cursor-pointer items-center gap-3 border px-3 py-2 font-bold"
                  ><input type="checkbox" class="checkbox" bind:checked={proposed.now.keep[i]} />
                  keep <span class="ml-auto">{letter(i)}</span></label
                >
              </div>
            {/each}
          </div>
        </section>
      {/if}
      {#if boards.data && boards.data.length > 0}
        <table class="w-full">
          <thead
            ><tr class="text-left text-small phone:sr-only"><th>Board</th><th>Sheets</th><th>Answers</th><th>Changed</th></tr
            ></thead
          >
          <tbody>
            {#each boards.data as b (b.id)}
              <tr class="rule border-t phone:flex phone:flex-wrap phone:gap-x-3 phone:py-2">
                <td class="py-2 phone:w-full phone:py-0"
                  ><a class="link font-bold" href={house.path(`proof/boards/${route.params.subject}/${b.id}`)}>{b.title}</a></td
                >
                <td>{b.sheets || 'none yet'}<span class="desk:hidden">{b.sheets === 1 ? ' sheet' : ' sheets'}</span></td>
                <td
                  >{b.answers || ''}<span class="desk:hidden">{b.answers ? (b.answers === 1 ? ' answer' : ' answers') : ''}</span
                  >{b.newest ? `, the last on ${day.format(new Date(b.newest))}` : ''}</td
                >
                <td>{day.format(new Date(b.changed))} by {b.by}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      {:else if boards.data && proposed.now.options.length === 0}
        <p class="max-w-[60ch]">
          A board shows a few options side by side, for somebody to choose from: colors at work as ground, type and button. Press
          “Options from this subject”, keep some, and send them as a link or a PDF.
        </p>
      {/if}
    </div>
  </main>
{/if}
