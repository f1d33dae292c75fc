<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { fits } from '../../lib/fits';
  import { house, useSets } from '../../lib/house.svelte';
  import ListFind from '../../lib/ListFind.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { copy } from '../../lib/state.svelte';
  import { untils, usePublic } from './packings';
  import { day, moment, of } from './send';
  import Ways from './Ways.svelte';

  // What anybody sees who has a link: sets, and the library as a page of its own.
  const links = usePublic();
  const sets = useSets();
  const changing = useChange(['public']);
  let words = $state('');
  let what = $state(0);
  let until = $state(0);
  const list = $derived((links.data ?? []).filter((l) => fits(words, l.name, l.by)));
  const address = (l: Schema['PublicLink']) => location.origin + l.path;
  const open = () =>
    changing.run(async () => {
      const body = { set: what || undefined, until: untils[until]!.at() };
      const l = await need(api.POST('/houses/{house}/public', { params: { path: { house: house.id } }, body }));
      await copy(address(l), `The link to ${l.name}`);
    });
  const close = (l: Schema['PublicLink']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/public/{link}', { params: { path: { house: house.id, link: l.id } } }));
      return `The link to ${l.name} is closed; whoever opens it is told so`;
    });
</script>

<div class="work" data-at="list">
  <main class="whole flex min-h-0 flex-col overflow-y-auto p-5 pt-4 phone:px-4">
    {#if rem.phone}<h1 class="keep sr-only">Send</h1>{/if}
    <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
      {#if !rem.phone}<h1>Send</h1>{/if}
      <Ways at="public" />
    </div>
    {#if house.keeper}
      <form
        class="mt-4 flex flex-wrap items-center gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void open();
        }}
      >
        <select class="select w-[20rem]" aria-label="What is made public" bind:value={what}
          ><option value={0}>the library, as a page of its own</option
          >{#each (sets.data ?? []).filter((s) => s.current) as s (s.id)}<option value={s.id}>{s.name}</option>{/each}</select
        >
        <select class="select w-[12rem]" aria-label="Until when" bind:value={until}
          >{#each untils as u, i (u.name)}<option value={i}>{u.name}</option>{/each}</select
        >
        <button class="btn btn-primary" disabled={changing.busy}>Make it public, and copy the link</button>
      </form>
    {/if}
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#if links.data?.length === 0}
      <div class="pt-6">
        <h2>Nothing is public</h2>
        <p class="mt-2 max-w-[42rem]">
          A public link shows the current edition of a set, or the library with its rules, pairs and gradients, to anybody who has
          the link: values to copy, files, and the colors beside the work. Nobody is asked who they are.
        </p>
      </div>
    {/if}
    <div class="mt-3"><ListFind bind:words of={links.data?.length ?? 0} label="Find in the public links" /></div>
    <ul class="mt-2">
      {#each list as l (l.id)}
        <li class="rule seldom grid grid-cols-[1fr_1.4fr_auto] items-center gap-4 border-b py-2.5 phone:grid-cols-1 phone:gap-1">
          <span
            ><b>{l.name}</b><span class="block text-small"
              >{l.until ? `until ${day.format(new Date(l.until))}` : 'for good'}; by {l.by}, {day.format(new Date(l.at))}</span
            ></span
          >
          <span class="text-small"
            >opened {of(l.opened, 'time')}, {of(l.fetched, 'file')} fetched{l.last
              ? `, last ${moment.format(new Date(l.last))}`
              : ''}</span
          >
          <span class="flex flex-wrap gap-x-4">
            <button class="btn btn-plain" onclick={() => copy(address(l), `The link to ${l.name}`)}
              >Copy the link<span class="sr-only"> to {l.name}</span></button
            >
            <a class="link self-center" href={l.path} target="_blank" rel="noreferrer"
              >look at it<span class="sr-only">: {l.name}</span></a
            >
            <button class="link self-center" disabled={changing.busy} onclick={() => close(l)}
              >close it<span class="sr-only">: {l.name}</span></button
            >
          </span>
        </li>
      {/each}
    </ul>
  </main>
  <aside class="bg-base-200 p-5 phone:hidden">
    <h2 class="text-[1.13rem]">What it shows</h2>
    <p class="mt-2">
      A set: its current edition, always the newest in force. The library: its approved colors as they are now, with what a person
      approved for print. Drafts, histories and recipients are never shown.
    </p>
    <p class="mt-2">
      On top stand the mark of the house and its sentence, which are in the <a class="link" href={house.path('house')}>settings</a>.
    </p>
    <p class="mt-2">
      A build takes files from there with <span class="font-mono text-small">huekeep pull</span>, and writes what changed.
    </p>
  </aside>
</div>
