<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { called, usePackings, uses } from './packings';
  import { slotNames } from './send';

  // What an edition is packed as: first what the recipients of the set take, then everything, found by what people call it.
  let { edition, at, takes }: { edition: Schema['Edition']; at: string; takes: string[] } = $props();

  const packings = usePackings();
  let words = $state('');
  const ending = (file: string) => file.replace(/^[^.]*/, '');
  const known = $derived(new Map((packings.data ?? []).map((p) => [p.name, p])));
  const taken = $derived(edition.packings.filter((p) => takes.includes(p.name)));
  const found = $derived(
    edition.packings.filter((p) => {
      const of = known.get(p.name);
      return of && called(of, words);
    }),
  );
</script>

{#snippet one(p: Schema['PackingLine'])}
  <div class="py-1.5 pl-4">
    <div class="flex items-baseline justify-between gap-3">
      <span>{p.label}</span>
      <span class="flex flex-wrap justify-end gap-x-4"
        ><a class="link text-small" href={house.path(`send/loading/${known.get(p.name)?.note ?? ''}`)}
          ><span class="sr-only">{p.label}: </span>how it is loaded</a
        ><a class="link" href={`${at}/packings/${p.name}`} download={p.file}
          ><span class="sr-only">{p.label}: </span>download {ending(p.file)}</a
        ></span
      >
    </div>
    {#if p.slots.length > 0}
      <div class="mt-1 grid grid-cols-6" role="img" aria-label={p.slots.map((s) => `${slotNames[s.slot]} ${s.name}`).join(', ')}>
        {#each p.slots as s (s.slot)}<span class="min-w-0 pb-1"
            ><span class="block h-7" style:background={s.hex} title={`${s.name}: ${s.why}`}></span><span
              class="block truncate text-small">{slotNames[s.slot]}</span
            ></span
          >{/each}
      </div>
    {/if}
    {#if p.leaves}<details class="text-small">
        <summary class="cursor-pointer">leaves out {p.leaves}</summary>
        <ul>
          {#each p.loses as l (l)}<li>{l}.</li>{/each}
        </ul>
      </details>{/if}
  </div>
{/snippet}

<h3>Packings of edition {edition.number}</h3>
<p class="text-small">
  <a class="link" href={`${at}/key-in`} target="_blank">key in, one after the other</a>: the values to type, beside an application
  without import
</p>
{#if taken.length > 0}
  <p class="mt-2"><b>What its recipients take</b></p>
  {#each taken as p (p.name)}{@render one(p)}{/each}
{/if}
<label class="mt-3 block"
  ><b>All {edition.packings.length} forms</b>
  <input
    class="input mt-1 w-full"
    type="search"
    placeholder="slides, captions, drawing program, website"
    aria-label="Find a form by what it is for"
    autocomplete="off"
    bind:value={words}
  /></label
>
{#if words.trim()}
  {#each found as p (p.name)}{@render one(p)}{:else}<p class="mt-2">
      Nothing is called that. The kit holds every form, with a page that says what each is for.
    </p>{/each}
{:else}
  {#each uses as u (u.key)}
    {@const list = edition.packings.filter((p) => p.for === u.key)}
    <details class="rule border-b py-1.5" open={u.key === 'any' && taken.length === 0}>
      <summary class="cursor-pointer"
        ><b>{u.name}</b> <span class="text-small">{list.map((p) => ending(p.file)).join(' ')}</span></summary
      >
      {#each list as p (p.name)}{@render one(p)}{/each}
    </details>
  {/each}
{/if}

<style>
  h3 {
    margin: 1.33rem 0 2px;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
