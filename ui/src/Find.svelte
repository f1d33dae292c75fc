<script lang="ts">
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { api, need, type Schema } from './lib/api/client';
  import { house } from './lib/house.svelte';
  import { goTo, opened } from './lib/focus';
  import { follow } from './lib/router';

  // One field for everything of the house; what fits is decided by the core, in the server.
  let { close }: { close: () => void } = $props();
  let words = $state('');
  let at = $state(0);

  // Asked for when one pauses in typing, not at every key.
  let asked = $state('');
  $effect(() => {
    const now = words.trim();
    const timer = setTimeout(() => (asked = now), now === '' ? 0 : 120);
    return () => clearTimeout(timer);
  });
  const found = createQuery(() => ({
    queryKey: ['find', house.id, asked],
    queryFn: () => need(api.GET('/houses/{house}/find', { params: { path: { house: house.id }, query: { words: asked } } })),
    enabled: asked !== '',
    placeholderData: keepPreviousData,
  }));

  type Hit = Schema['FoundHit'] & { key: string };
  const groups = $derived(
    (asked ? (found.data ?? []) : []).map((g) => ({ ...g, hits: g.hits.map((h, i): Hit => ({ ...h, key: `${g.of} ${i}` })) })),
  );
  const flat = $derived(groups.flatMap((g) => g.hits));
  const current = $derived(flat[Math.min(at, flat.length - 1)]);
  const settled = $derived(asked !== '' && asked === words.trim() && !found.isFetching);

  let entering = $state(false);
  $effect(() => {
    if (entering && settled) {
      entering = false;
      go(flat[0]);
    }
  });

  function go(hit: Hit | undefined) {
    if (!hit) return;
    close();
    // The keyboard goes on at what was found.
    void follow(house.path(hit.path)).then(() => setTimeout(() => goTo('.work > aside') || goTo('main'), 50));
  }
  function press(e: KeyboardEvent) {
    if (e.key === 'Escape') close();
    else if (e.key === 'Enter') {
      if (settled) go(current);
      else [entering, asked] = [true, words.trim()]; // what was found before is not what is meant now
    } else if (e.key === 'ArrowDown') at = Math.min(flat.length - 1, at + 1);
    else if (e.key === 'ArrowUp') at = Math.max(0, at - 1);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  const name = (key: string) => `hit-${key.replaceAll(/[^a-z0-9]+/gi, '-')}`;
</script>

<div
  class="finding absolute right-0 top-[3.47rem] z-40 flex flex-col bg-[#111] p-4 text-white outline outline-1 outline-[#888]"
  role="search"
>
  <input
    class="w-full border-b border-white bg-transparent py-1 text-[1.13rem] text-white"
    type="search"
    role="combobox"
    aria-expanded={flat.length > 0}
    aria-controls="hits"
    aria-activedescendant={current ? name(current.key) : undefined}
    aria-label="Find anything"
    placeholder="a name, a value, a code, a rule"
    autocomplete="off"
    bind:value={words}
    oninput={() => (at = 0)}
    onkeydown={press}
    {@attach opened}
  />
  <div id="hits" class="mt-2 min-h-0 overflow-y-auto" role="listbox" aria-label="Found">
    {#each groups as group (group.of)}
      <div role="group" aria-label={group.of}>
        <p class="mt-2 text-small" aria-hidden="true">{group.of}{group.more > 0 ? `, ${group.more} more` : ''}</p>
        {#each group.hits as hit (hit.key)}
          <div id={name(hit.key)} role="option" aria-selected={hit === current} tabindex="-1">
            <a class="hit" class:at={hit === current} href={house.path(hit.path)} tabindex="-1" onclick={close}>
              {#if hit.hex}<span class="h-[1.73rem] w-[2.93rem] shrink-0" style:background={hit.hex}></span>{/if}
              <b class="max-w-[70%] shrink-0 truncate">{hit.name}</b><span class="truncate text-small">{hit.says}</span>
            </a>
          </div>
        {/each}
      </div>
    {/each}
    {#if found.isError}<p class="mt-2" role="alert">{found.error.message}</p>{/if}
    {#if settled && !found.isError && flat.length === 0}<p class="mt-2">Nothing in {house.member?.name} goes by that.</p>{/if}
    {#if words.trim() === ''}<p class="mt-2 text-small">
        Names, values in any notation, words for a look (“dark blue”), rules, inks, sets, recipients, boards, files, people, and the
        places of the program.
      </p>{/if}
  </div>
</div>

<style>
  .finding {
    width: min(37.33rem, 100vw);
    max-height: calc(100vh - 4.67rem);
  }
  input::-webkit-search-cancel-button {
    display: none;
  }
  .hit {
    display: flex;
    align-items: center;
    gap: 0.8rem;
    min-height: 2.27rem;
    padding: 2px 0.53rem;
  }
  .hit.at,
  .hit:hover {
    background: #444;
  }
</style>
