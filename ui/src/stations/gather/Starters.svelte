<script lang="ts">
  import { opened } from '../../lib/focus';
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { house, useTray, useLimits } from '../../lib/house.svelte';
  import { bring } from './incoming.svelte';

  const limits = useLimits();

  const tray = useTray();
  const changing = useChange(['starters', 'tray']);
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

  const starters = createQuery(() => ({
    queryKey: ['starters', house.id, asked.words, asked.near, order],
    queryFn: () =>
      need(
        api.GET('/houses/{house}/starters', {
          params: { path: { house: house.id }, query: { words: asked.words || undefined, near: asked.near || undefined, order } },
        }),
      ),
    placeholderData: (before: Schema['Starter'][] | undefined) => before,
    retry: false,
  }));
  const at = (starter: string) => ({ params: { path: { house: house.id, starter } } });

  const take = (s: Schema['Starter']) =>
    changing.run(async () => {
      const source = `starter ${s.name}`;
      const said = await bring(
        s.colors.map((value, i) => ({ value, name: `${s.name} ${i + 1}`, origin: 'starter', source })),
        '',
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
    changing.run(async () => void (await need(api.DELETE('/houses/{house}/starters/{starter}', at(s.key)))));
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
    <input class="input w-[200px]" type="search" placeholder="sea calm" bind:value={words} />
  </label>
  <label class="grid gap-1 text-small"
    >Close to a color
    <input class="input w-[170px] font-mono" spellcheck="false" placeholder="#1D6F6A" bind:value={close} />
  </label>
  <label class="grid gap-1 text-small"
    >Order
    <select class="select w-[150px]" bind:value={order} disabled={asked.near !== ''}
      ><option value="newest">newest first</option><option value="used">most used first</option><option value="liked"
        >liked by you</option
      ></select
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
        class="input w-[180px]"
        required
        maxlength={limits.data?.nameRunes}
        {@attach opened}
        bind:value={mine.name}
      /></label
    >
    <label class="grid gap-1 text-small"
      >Keywords <input
        class="input w-[240px]"
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
  {#if starters.data.length === 0}<p class="mt-6">No starter has all of these words. Fewer words find more.</p>{/if}
  <ul class="mt-4 grid grid-cols-3 gap-x-5 gap-y-5" aria-label="Starters">
    {#each starters.data as s (s.key)}
      <li class="min-w-0">
        <button
          class="flex h-16 w-full"
          disabled={!house.contributor}
          aria-label={`Put ${s.name} on the tray`}
          title="Put it on the tray"
          onclick={() => take(s)}
        >
          {#each s.colors as c, i (i)}<span class="flex-1" class:closest={s.closest === i} style:background={c}></span>{/each}
        </button>
        <div class="mt-1 flex items-baseline gap-2">
          <b class="min-w-0 flex-1 truncate">{s.name}</b>
          {#if s.deltaE !== undefined && s.word}<span class="text-small"><Distance value={s.deltaE} word={s.word} /></span>{/if}
        </div>
        <p class="flex gap-3 text-small">
          <span class="min-w-0 flex-1 truncate" title={s.keywords.join(' ')}>{s.keywords.join(' ')}</span>
          {#if s.uses > 0}<span>taken {s.uses} ×</span>{/if}
          {#if s.private}<span>yours only</span>{/if}
          {#if house.contributor}<button
              class="link"
              aria-pressed={s.liked}
              aria-label={`${s.liked ? 'No longer like' : 'Like'} ${s.name}`}
              onclick={() => like(s)}>{s.liked ? 'liked' : 'like'}</button
            >{/if}
          {#if s.mine}<button class="link" aria-label={`Delete ${s.name}`} onclick={() => remove(s)}>delete</button>{/if}
        </p>
      </li>
    {/each}
  </ul>
{:else}<p class="mt-6">Looking for starters…</p>{/if}

<style>
  .closest {
    flex: 2;
  }
</style>
