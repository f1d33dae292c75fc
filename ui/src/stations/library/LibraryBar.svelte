<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { house, usePairs, useRoles, useSuggestions } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { openSlip } from '../../lib/slips';
  import type { Narrowing } from './narrowing.svelte';
  import { columns, table } from './table.svelte';

  // What is in the library, what waits in it, and what of it the ledger shows and how.
  let { all, narrowing }: { all: Schema['ColorRow'][]; narrowing: Narrowing } = $props();

  const roles = useRoles();
  const summary = $derived.by(() => {
    const parts = [all.length === 1 ? '1 color' : `${all.length} colors`];
    const retired = all.filter((c) => c.status === 'retired').length;
    const drafts = all.filter((c) => c.status === 'draft').length;
    const moved = all.filter((c) => c.press.moved !== undefined || c.ink.moved !== undefined).length;
    if (retired) parts.push(`${retired} retired`);
    if (drafts) parts.push(`${drafts} proposed`);
    if (moved) parts.push(moved === 1 ? '1 older approval' : `${moved} older approvals`);
    return parts.join(', ');
  });
  const suggestions = useSuggestions();
  const waiting = $derived(suggestions.data ?? []);
  const pairs = usePairs();
  const broken = $derived((pairs.data ?? []).filter((p) => !p.holds || (p.may && p.retired)));
</script>

<div class="mt-1 flex flex-wrap items-center gap-x-5 gap-y-1 pr-5 text-small phone:mt-2 phone:px-4 print:hidden">
  <span>{summary}</span>
  {#if waiting.length > 0 && !rem.phone}<a class="link" href={house.path(`library/${waiting[0]?.color.id}`)}
      >{waiting.length === 1 ? '1 suggestion' : `${waiting.length} suggestions`}</a
    >{/if}
  {#each rem.phone ? [] : broken.slice(0, 1) as p (p.color.id)}<a class="link font-bold" href={house.path(`library/${p.color.id}`)}
      >{broken.length === 1
        ? `${p.color.name} on ${p.ground.name} no longer keeps its rule`
        : `${broken.length} pairs no longer keep their rule`}</a
    >{/each}
  <details class="relative ml-auto">
    <summary class="cursor-pointer underline">{narrowing.said}</summary>
    <div class="absolute right-0 z-20 grid w-[16.67rem] gap-2 border border-current bg-base-200 p-3">
      <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
        >Order
        <select class="select" bind:value={table.sort}
          ><option value="hand">by hand</option><option value="hue">hue</option><option value="lightness">lightness</option><option
            value="name">name</option
          ><option value="newest">newest</option></select
        >
      </label>
      <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
        >Role
        <select class="select" bind:value={table.role}
          ><option value="">all</option>{#each roles.list as r (r)}<option>{r}</option>{/each}</select
        >
      </label>
      <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
        >Status
        <select class="select" bind:value={table.status}
          ><option value="">all</option><option>approved</option><option value="draft">proposed</option><option>retired</option
          ></select
        >
      </label>
      <label class="grid grid-cols-[4.67rem_1fr] items-center gap-2"
        >Close to <input
          class="input w-full font-mono"
          spellcheck="false"
          placeholder="#1D6F6A or a name"
          title={narrowing.problem}
          bind:value={table.close}
        /></label
      >
      {#if narrowing.said !== 'order and choice'}<button class="link justify-self-start" onclick={narrowing.showAll}
          >all, by hand</button
        >{/if}
    </div>
  </details>
  <details class="relative phone:hidden">
    <summary class="cursor-pointer underline">columns</summary>
    <div class="absolute right-0 z-20 grid w-[12.67rem] gap-1 border border-current bg-base-200 p-3">
      {#each columns as c (c.key)}<label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="checkbox"
            checked={table.columns[c.key]}
            onchange={(e) => table.show(c.key, e.currentTarget.checked)}
          />
          {c.name}</label
        >{/each}
    </div>
  </details>
  {#if !rem.phone}
    <button class="link" title="As a small window of its own, to copy from" onclick={() => openSlip(house.id)}
      >beside the work</button
    >
    <button class="link" onclick={() => window.print()}>print</button>
  {/if}
</div>
