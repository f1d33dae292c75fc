<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { house } from '../../lib/house.svelte';
  import InkClass from '../../lib/InkClass.svelte';
  import Value from '../../lib/Value.svelte';
  import type { SheetActs } from './sheet.svelte';

  // The inks that come nearest, those of the other stocks, and any other looked up in the book.
  let { s, may, acts }: { s: Schema['ColorSheet']; may: boolean; acts: SheetActs } = $props();

  const c = $derived(s.row);
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  let ofClass = $state<Schema['FoundInk'][]>();
  let otherInk = $state('');
  const looked = createQuery(() => ({
    queryKey: ['inks', house.id, otherInk.trim(), c.name, c.hex, c.ink.stock],
    queryFn: () => {
      const query = { query: otherInk.trim(), near: c.name, stock: c.ink.stock as 'coated' | undefined };
      return need(api.GET('/houses/{house}/inks', { params: { path: { house: house.id }, query } }));
    },
    enabled: otherInk.trim() !== '',
  }));
</script>

<div class="flex items-baseline justify-between">
  <h3>Nearest inks, {c.ink.stock}</h3>
  <InkClass near={c.name} stock={c.ink.stock} bind:found={ofClass} />
</div>
<ul class="near">
  {#each ofClass ?? s.inks as ink (ink.code)}
    <li class="rule flex items-center gap-3 border-b">
      <span class="grid h-9 w-[4.8rem] grid-cols-2" aria-hidden="true"
        ><span style:background={c.hex}></span><span style:background={ink.hex}></span></span
      >
      <Value text={ink.code} label="ink" />
      <span class="min-w-0 flex-1 text-small leading-tight"
        ><span class="block truncate">{ink.name}</span><span class="block">{ink.class}</span></span
      >
      <span class="text-small"><Distance value={ink.deltaE ?? 0} word={ink.word ?? ''} /></span>
      {#if house.keeper}
        {#if c.ink.origin !== 'derived' && c.ink.origin !== 'given' && c.ink.code === ink.code}<span class="w-[3.87rem] text-small"
            >{c.ink.origin}</span
          >
        {:else if c.ink.origin === 'master'}<button
            class="w-[3.87rem] text-left text-small link"
            aria-label={`let it decide: ${ink.code}`}
            onclick={() => acts.letDecide(`${ink.code} on ${c.ink.stock}`)}>let it decide</button
          >
        {:else}<button
            class="w-[3.87rem] text-left text-small link"
            disabled={acts.busy}
            aria-label={`Approve ${ink.code}`}
            onclick={() => acts.approveInk(ink.code)}>approve</button
          >{/if}
      {/if}
    </li>
  {/each}
</ul>
<div class="text-small">
  {#each s.spots.filter((i) => i.stock !== c.ink.stock) as i (i.stock)}
    <span class="rule mt-1 grid grid-cols-[4.93rem_minmax(0,1fr)_auto] items-baseline gap-x-2 border-t pt-1">
      <b>{i.stock}</b><span
        ><Value text={i.code} label={`spot ink on ${i.stock} stock`} /> &nbsp;<Distance
          value={i.deltaE}
          word={i.word}
        />{`, ${i.class}`}</span
      ><span>{i.origin}</span>
      {#if i.by}<span class="col-span-3">by {i.by}{i.at ? `, ${day.format(new Date(i.at))}` : ''}</span>{/if}
      {#if house.keeper && i.origin !== 'master'}
        <span class="col-span-3"
          >{#if i.origin !== 'approved'}<button
              class="link"
              disabled={acts.busy}
              aria-label={`Approve ${i.code} on ${i.stock} stock`}
              onclick={() => acts.approveInk(i.code, i.stock)}>approve</button
            >{:else}<button
              class="link"
              disabled={acts.busy}
              aria-label={`Take back the ink on ${i.stock} stock`}
              onclick={() => acts.dropInk(i.stock)}>take back</button
            >{/if}</span
        >
      {/if}
    </span>
  {/each}
</div>
<label class="mt-2 grid gap-1 text-small"
  >Look up another ink, by part of its number or its name
  <input class="input w-full" type="search" placeholder="0120 or heath" spellcheck="false" bind:value={otherInk} />
</label>
{#if looked.data}
  <ul class="mt-1" aria-label="Inks looked up">
    {#each looked.data as ink (ink.code)}
      <li class="rule flex items-center gap-3 border-b">
        <span class="grid h-8 w-[2.93rem] shrink-0 grid-cols-2" aria-hidden="true"
          ><span style:background={c.hex}></span><span style:background={ink.hex}></span></span
        >
        <Value text={ink.code} label="ink" />
        <span class="min-w-0 flex-1 text-small leading-tight"
          ><span class="block truncate">{ink.name}</span><span class="block">{ink.class}</span></span
        >
        <span class="text-small"
          >{#if ink.deltaE !== undefined && ink.word}<Distance value={ink.deltaE} word={ink.word} />{/if}</span
        >
        {#if c.ink.origin === 'master' && may}<button
            class="w-[3.87rem] text-left text-small link"
            aria-label={`let it decide: ${ink.code}, looked up`}
            onclick={() => acts.letDecide(`${ink.code} on ${c.ink.stock}`)}>let it decide</button
          >
        {:else if house.keeper}<button
            class="w-[3.87rem] text-left text-small link"
            disabled={acts.busy}
            aria-label={`Approve ${ink.code} looked up`}
            onclick={() => acts.approveInk(ink.code)}>approve</button
          >{/if}
      </li>
    {:else}<li class="py-1">No ink has that in its number or name.</li>{/each}
  </ul>
{/if}
