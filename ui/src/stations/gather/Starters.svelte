<script lang="ts">
  import { opened } from '../../lib/focus';
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { house, useTray, useLimits } from '../../lib/house.svelte';
  import { searchParams } from 'sv-router';
  import { copy } from '../../lib/state.svelte';
  import { bring } from './incoming.svelte';

  const limits = useLimits();

  const tray = useTray();
  const changing = useChange(['starters', 'tray', 'ledger', 'sets']);
  let words = $state('');
  let close = $state('');
  let order = $state<'newest' | 'used' | 'liked'>('newest');
  let asked = $state({ words: '', near: '' });
  let own = $state(false);
  let mine = $state({ name: '', keywords: '', private: false });

  $effect(() => {
    const next = { words, near: close };
    const timer = setTimeout(() => (asked = next), 150);
    return () => clearTimeout(timer);
  });

  // A link inside the house shows one of them.
  const only = $derived(String(searchParams.get('show') ?? ''));

  const starters = createQuery(() => ({
    queryKey: ['starters', house.id, asked.words, asked.near, order, only],
    queryFn: () =>
      need(
        api.GET('/houses/{house}/starters', {
          params: {
            path: { house: house.id },
            query: { words: asked.words || undefined, near: asked.near || undefined, order, key: only || undefined },
          },
        }),
      ),
    placeholderData: (before: Schema['Starter'][] | undefined) => before,
    retry: false,
  }));
  // In an order that nobody chose, until one asks for another.
  let shuffled = $state<Record<string, number>>();
  const shuffle = () => (shuffled = Object.fromEntries((starters.data ?? []).map((s) => [s.key, Math.random()])));
  let most = $state(60);
  $effect(() => {
    void [asked, order];
    [most, shuffled] = [60, undefined];
  });
  const all = $derived.by(() => {
    const list = starters.data ?? [];
    const by = shuffled;
    return by ? [...list].sort((a, b) => (by[a.key] ?? 0) - (by[b.key] ?? 0)) : list;
  });
  const missed = $derived([...new Set(all.flatMap((s) => s.missed ?? []))]);

  const at = (starter: string) => ({ params: { path: { house: house.id, starter } } });

  // What a palette is most often taken along as.
  const files = [
    { packing: 'gpl', name: 'plain text palette' },
    { packing: 'soc', name: 'open document palette' },
    { packing: 'css', name: 'CSS' },
    { packing: 'png', name: 'picture' },
  ];
  const link = (s: Schema['Starter']) => `${location.origin}${house.path(`gather/starters?show=${s.key}`)}`;

  const asSet = (s: Schema['Starter']) => take(s, s.name);
  const take = (s: Schema['Starter'], set = '') =>
    changing.run(async () => {
      const source = `starter ${s.name}`;
      const said = await bring(
        s.colors.map((value, i) => ({ value, name: `${s.name} ${i + 1}`, origin: 'starter', source })),
        set,
        false,
      );
      await need(api.PATCH('/houses/{house}/starters/{starter}', { ...at(s.key), body: { used: true } }));
      return said;
    });
  const like = (s: Schema['Starter']) =>
    changing.run(
      async () => void (await need(api.PATCH('/houses/{house}/starters/{starter}', { ...at(s.key), body: { liked: !s.liked } }))),
    );
  const remove = (s: Schema['Starter']) =>
    changing.run(async () => {
      const path = { house: house.id };
      await need(api.DELETE('/houses/{house}/starters/{starter}', at(s.key)));
      const body = { name: s.name, keywords: s.keywords.join(' '), colors: s.colors, private: s.private };
      return { said: `${s.name} is deleted`, undo: [way('post', '/houses/{house}/starters', { params: { path }, body })] };
    });
  const keep = () =>
    changing.run(async () => {
      const body = { ...mine, colors: (tray.data ?? []).map((c) => c.hex) };
      await need(api.POST('/houses/{house}/starters', { params: { path: { house: house.id } }, body }));
      [own, mine] = [false, { name: '', keywords: '', private: false }];
      return `${body.name} is a starter now`;
    });
</script>

<div class="flex flex-wrap items-end gap-4">
  <label class="grid gap-1 text-small"
    >Words
    <input class="input w-[13.33rem]" type="search" placeholder="sea calm" bind:value={words} />
  </label>
  <label class="grid gap-1 text-small"
    >Close to a color
    <input class="input w-[14rem] font-mono" spellcheck="false" placeholder="#1D6F6A or a name" bind:value={close} />
  </label>
  <label class="grid gap-1 text-small"
    >Order
    <select class="select w-[10rem]" bind:value={order} disabled={asked.near !== ''}
      ><option value="newest">{asked.words.trim() ? 'closest first' : 'newest first'}</option><option value="used"
        >most used first</option
      ><option value="liked">liked by you</option></select
    >
  </label>
  {#if house.contributor && (tray.data?.length ?? 0) >= 2 && (tray.data?.length ?? 0) <= 12}
    <button class="btn btn-plain ml-auto" aria-expanded={own} onclick={() => (own = !own)}>Keep the tray as a starter</button>
  {/if}
</div>
{#if own}
  <form
    class="mt-3 flex flex-wrap items-end gap-3 border border-current p-3"
    onsubmit={(e) => {
      e.preventDefault();
      void keep();
    }}
  >
    <label class="grid gap-1 text-small"
      >Name <input
        class="input w-[12rem]"
        required
        maxlength={limits.data?.nameRunes}
        {@attach opened}
        bind:value={mine.name}
      /></label
    >
    <label class="grid gap-1 text-small"
      >Keywords <input
        class="input w-[16rem]"
        placeholder="parted by spaces"
        maxlength={limits.data?.keywordBytes}
        bind:value={mine.keywords}
      /></label
    >
    <label class="flex h-8 items-center gap-2 text-small"
      ><input type="checkbox" class="checkbox" bind:checked={mine.private} /> for me only</label
    >
    <button class="btn btn-primary">Keep it</button>
  </form>
{/if}
{#if changing.problem || starters.isError}<p role="alert" class="mt-3 border-l-4 border-current pl-3">
    {changing.problem || starters.error?.message}
  </p>{/if}
{#if starters.data}
  {#if starters.data.length === 0}<p class="mt-6">
      No starter has {asked.words.trim().includes(' ') ? 'any of these words' : 'this word'}. A mood, a season, a place, a thing or
      a color finds some.
    </p>
  {:else if !only}<p class="mt-3 flex flex-wrap gap-x-4 text-small">
      <span
        >{all.length === 1 ? '1 starter' : `${all.length} starters`}{missed.length > 0
          ? `; none has all of the words, these lack ${missed.join(' or ')}`
          : ''}</span
      >
      {#if all.length > 1}<button class="link" onclick={shuffle}>at random</button>{/if}
    </p>{/if}
  {#if only}<p class="mt-4 flex gap-4">
      One starter, from a link. <a class="link" href={house.path('gather/starters')}>Show all</a>
    </p>{/if}
  <ul class="mt-4 grid grid-cols-[repeat(auto-fill,minmax(20rem,1fr))] gap-x-5 gap-y-6" aria-label="Starters">
    {#each all.slice(0, most) as s (s.key)}
      {@const ground = s.colors[s.ground]}
      {@const accents = s.colors.filter((_, i) => i !== s.ground && i !== s.type && i !== s.main)}
      <li class="min-w-0">
        <!-- A specimen: each color in the proportion in which one would use it, with type on its ground. -->
        <div class="specimen" style:background={ground} style:color={s.legible ? s.colors[s.type] : '#111'}>
          <span class="body">
            <b class="block truncate text-[1.4rem] leading-7">{s.name}</b>
            <span class="block truncate text-small">{s.keywords.join(' ')}</span>
            <span class="mt-auto flex items-end gap-1.5" aria-hidden="true">
              {#each accents as c, i (i)}<span class="h-5 w-9" style:background={c}></span>{/each}
              {#if !s.legible}<span class="h-5 w-9" style:background={s.colors[s.type]}></span>{/if}
            </span>
          </span>
          <span class="main" style:background={s.colors[s.main]} aria-hidden="true"
            ><span style:background={s.colors[s.type]}></span></span
          >
        </div>
        <div class="mt-1 flex flex-wrap items-baseline gap-x-3 text-small">
          {#if house.contributor}<button class="link" aria-label={`put on the tray: ${s.name}`} onclick={() => take(s)}
              >put on the tray</button
            >{/if}
          {#if house.keeper}<button class="link" aria-label={`as a set: ${s.name}`} onclick={() => asSet(s)}>as a set</button>{/if}
          <a
            class="link"
            aria-label={`on the wheel: ${s.name}`}
            href={`${house.path('gather/harmony')}?from=${encodeURIComponent(s.colors[s.main] ?? '')}`}>on the wheel</a
          >
          <details class="relative">
            <summary class="cursor-pointer underline" aria-label={`take along: ${s.name} as a file or a link`}>take along</summary>
            <span class="absolute left-0 z-20 grid w-[11.33rem] gap-1 border border-current bg-base-200 p-3">
              {#each files as f (f.packing)}<a
                  class="link"
                  href={`/api/houses/${house.id}/starters/${s.key}/files/${f.packing}`}
                  download>{f.name}</a
                >{/each}
              <button class="link text-left" onclick={() => copy(link(s), `The link to ${s.name}`)}>copy a link to it</button>
            </span>
          </details>
          {#if house.contributor}<button
              class="link"
              aria-pressed={s.liked}
              aria-label={`${s.liked ? 'No longer like' : 'Like'} ${s.name}`}
              onclick={() => like(s)}>{s.liked ? 'liked' : 'like'}</button
            >{/if}
          {#if s.mine}<button class="link" aria-label={`Delete ${s.name}`} onclick={() => remove(s)}>delete</button>{/if}
          <span class="ml-auto"
            >{#if s.deltaE !== undefined && s.word}<Distance value={s.deltaE} word={s.word} />{/if}{s.uses > 0
              ? ` taken ${s.uses} ×`
              : ''}{s.private ? ' yours only' : ''}</span
          >
        </div>
      </li>
    {/each}
  </ul>
  {#if all.length > most}<p class="mt-5">
      <button class="btn btn-plain" onclick={() => (most += 60)}
        >Show {Math.min(60, all.length - most)} more of {all.length - most}</button
      >
    </p>{/if}
{:else}<p class="mt-6">Looking for starters…</p>{/if}

<style>
  .specimen {
    display: grid;
    height: 7.87rem;
    grid-template-columns: minmax(0, 1fr) 5.6rem;
    outline: 1px solid color-mix(in srgb, var(--color-base-content) 25%, transparent);
  }
  .body {
    display: flex;
    min-width: 0;
    flex-direction: column;
    padding: 0.67rem 0.93rem 0.8rem;
  }
  .main {
    display: flex;
    align-items: flex-end;
  }
  .main > span {
    width: 100%;
    height: 1.73rem;
  }
</style>
