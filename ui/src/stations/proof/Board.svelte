<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query';
  import type { Snippet } from 'svelte';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useLimits, usePairs } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import type { Part } from '../../lib/subject.svelte';
  import BoardOption from './BoardOption.svelte';
  import BoardSheets from './BoardSheets.svelte';
  import OptionCard from './OptionCard.svelte';
  import { exchanged, letter, ruled, type Content, type Option, type Role } from './option';

  // One board: its options are changed by pressing a part and a color; every change is kept at once, with a way back.
  let {
    id,
    library,
    colors,
    typefaces,
    empty,
    head,
    ways,
  }: {
    id: number;
    library: Schema['ColorRow'][];
    colors: Part[];
    typefaces: Schema['Typeface'][];
    empty: () => Option;
    head: Snippet<[string, Snippet?]>;
    ways: Snippet;
  } = $props();

  const client = useQueryClient();
  const path = $derived({ house: house.id, board: id });
  const query = createQuery(() => ({
    queryKey: ['boards', house.id, id],
    queryFn: () => need(api.GET('/houses/{house}/boards/{board}', { params: { path } })),
  }));
  const board = $derived(query.data);
  const limits = useLimits();
  const changing = useChange(['boards']);

  // What was changed and is not kept yet shows at once.
  let draft = $state.raw<Content | undefined>();
  const content = $derived(draft ?? board?.content);
  const take = (b: Schema['Board']) => client.setQueryData(['boards', house.id, id], b);
  const current = () => client.getQueryData<Schema['Board']>(['boards', house.id, id]);

  let line: Promise<unknown> = Promise.resolve(); // one change after the other, each on what the one before made
  const put = (to: Content) =>
    need(api.PUT('/houses/{house}/boards/{board}', { params: { path }, body: { ...to, version: current()!.version } }));
  function keep(to: Content, said: string) {
    const was = content!;
    draft = to;
    line = line.then(() =>
      changing.run(async () => {
        let now: Schema['Board'];
        try {
          take((now = await put(to)));
        } finally {
          if (draft === to) draft = undefined;
        }
        const body = { ...was, version: now.version };
        return { said, undo: [way('put', '/houses/{house}/boards/{board}', { params: { path }, body })] };
      }),
    );
  }

  let at = $state(0); // the option that is worked on
  let role = $state<Role>('ground');
  const chosen = $derived(content?.options[at]);
  const change = (to: Option, said: string) =>
    keep({ ...content!, options: content!.options.map((o, i) => (i === at ? to : o)) }, said);
  const options = (list: Option[], said: string, to = at) => {
    at = Math.max(0, Math.min(to, list.length - 1));
    keep({ ...content!, options: list }, said);
  };
  const add = (o: Option, said: string) => options([...content!.options, o], said, content!.options.length);
  const most = $derived(limits.data?.boardOptions ?? 1);
  const moved = (by: number) => {
    const list = [...content!.options];
    const to = at + by;
    if (to < 0 || to >= list.length) return;
    list.splice(to, 0, ...list.splice(at, 1));
    options(list, `${letter(at)} is ${letter(to)} now`, to);
  };
  $effect(() =>
    keys.add([
      {
        key: 'x',
        alt: true,
        does: 'exchange ground and type of the option',
        run: () => chosen && change(exchanged(chosen), `Ground and type of ${letter(at)} exchanged`),
      },
      {
        key: 'u',
        alt: true,
        does: 'duplicate the option',
        run: () => chosen && content!.options.length < most && add({ ...chosen }, `${letter(at)} duplicated`),
      },
    ]),
  );
  const pairs = usePairs();
  // What is kept is what is said, so that nothing jumps while a change is on its way; unless the options are others.
  const said = $derived(board && content?.options.length === board.content.options.length ? board : undefined);
  const rulesOf = (i: number) => (said ? ruled(said.content.options[i]!, said.parts[i] ?? [], pairs.data ?? []) : []);
  const notesOf = (i: number) => said?.notes[i] ?? [];
  const logo = $derived(content?.logo ? `/api/houses/${house.id}/boards/logos/${content.logo}` : '');
  const columns = $derived(
    Math.max(1, content && content.options.length > 4 ? Math.ceil(content.options.length / 2) : (content?.options.length ?? 1)),
  );
</script>

<div class="work">
  <main class="flex min-h-0 flex-col">
    {@render head('', ways)}
    {#if query.error}<p role="alert" class="mx-5 border-l-4 border-current pl-3">{query.error.message}</p>{/if}
    {#if changing.problem}<p role="alert" class="mx-5 mb-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#if board && content}
      <div class="min-h-0 flex-1 overflow-y-auto px-5 pb-5">
        <div class="flex flex-wrap items-baseline gap-x-4 pb-2">
          <input
            class="said min-w-0 flex-1 text-[1.4rem] font-bold"
            aria-label="Title of the board"
            maxlength={limits.data?.nameRunes}
            value={content.title}
            onchange={(e) => keep({ ...content, title: e.currentTarget.value }, 'The title is changed')}
          />
          <button
            class="link text-small"
            disabled={content.options.length >= most}
            onclick={() => add(empty(), 'An empty option added')}>one more option</button
          >
        </div>
        <input
          class="said mb-3 w-full"
          aria-label="What is said to whoever chooses"
          placeholder="A sentence to whoever chooses"
          value={content.intro}
          onchange={(e) => keep({ ...content, intro: e.currentTarget.value }, 'The sentence is changed')}
        />
        <div class="grid gap-y-5 phone:sweep" style:grid-template-columns={`repeat(${columns}, minmax(0, 1fr))`}>
          {#each content.options as o, i (i)}
            <section class="flex min-w-0 flex-col" aria-label={`Option ${letter(i)}`}>
              <OptionCard
                option={o}
                texts={o.texts ?? content.texts}
                letter={letter(i)}
                parts={draft ? [] : board.parts[i]}
                {logo}
                chosen={i === at ? role : undefined}
                pick={(r) => ([at, role] = [i, r])}
              />
              {#each rulesOf(i).filter((r) => !r.may || !r.holds) as r (r.says)}<p
                  class="border-l-4 border-current bg-base-200 px-2 py-1 text-small"
                >
                  Rule: {r.color.name}
                  {r.says}.
                </p>{/each}
              {#each notesOf(i) as n (n)}<p class="border-l-4 border-current bg-base-200 px-2 py-1 text-small">
                  {n}
                </p>{/each}
            </section>
          {/each}
        </div>
        {#if content.options.length === 0}<p>There is no option on the board yet.</p>{/if}
        <BoardSheets {board} {changing} {take} saved={() => line} />
      </div>
    {/if}
  </main>
  {#if board && content && chosen}
    <BoardOption
      option={chosen}
      texts={chosen.texts ?? content.texts}
      letter={letter(at)}
      {role}
      {library}
      {colors}
      {typefaces}
      rules={rulesOf(at)}
      {logo}
      notes={notesOf(at)}
      pick={(r) => (role = r)}
      {change}
      full={content.options.length >= most}
      first={at === 0}
      last={at === content.options.length - 1}
      {moved}
      duplicate={() => add({ ...chosen }, `${letter(at)} duplicated`)}
      remove={() =>
        options(
          content.options.filter((_, i) => i !== at),
          `${letter(at)} removed`,
        )}
      write={(t, everywhere) =>
        everywhere
          ? keep(
              { ...content, texts: t, options: content.options.map(({ texts: _, ...o }) => o) },
              'The texts are changed everywhere',
            )
          : change({ ...chosen, texts: t }, `The texts of ${letter(at)} are changed`)}
      setLogo={(key) =>
        keep(
          {
            ...content,
            logo: key,
            options: content.options.map((o, i) => ({ ...o, logo: key === '' ? false : o.logo || i === at })),
          },
          key ? 'The logo is on the board' : 'The logo is off the board',
        )}
    />
  {:else}<aside class="bg-base-200"></aside>{/if}
</div>

<style>
  /* Written on the board as it will be read; a line shows where one can write. */
  .said {
    border-bottom: 1px solid transparent;
    background: transparent;
  }
  .said:hover,
  .said:focus {
    border-color: currentColor;
  }
</style>
