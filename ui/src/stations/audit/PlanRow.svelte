<script lang="ts">
  import { type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import Verdict from '../../lib/Verdict.svelte';
  import { writable, type Choice, type Found } from './audit.svelte';

  // A found color in a repaint plan: what it may become, and what was chosen.
  let {
    c,
    index,
    height,
    chosen,
    choice,
    becomes,
    target,
    offers,
    hex,
    library,
    select,
    take,
    choose,
  }: {
    c: Found;
    index: number;
    height: number; // in rem
    chosen: boolean;
    choice: Choice;
    becomes: string; // the name of the color that is written in its place, empty if none is
    target: string;
    offers: { name: string; hex: string; far: { deltaE: number; word: string } | undefined }[];
    hex: string | undefined; // of the target
    library: Schema['ColorRow'][];
    select: () => void;
    take: (name: string) => void;
    choose: (what: Choice) => void;
  } = $props();

  let picking = $state(false); // the color is chosen from the whole library
</script>

<!-- svelte-ignore a11y_click_events_have_key_events -->
<div
  class="plan items-center pr-5"
  class:chosen
  style:height={`${height - 0.4}rem`}
  role="row"
  aria-rowindex={index + 2}
  tabindex={chosen ? 0 : -1}
  onclick={select}
>
  <span class="grid h-full grid-cols-2" role="gridcell" aria-label={`${c.hex} becomes ${target || 'nothing else'}`}
    ><span style:background={c.hex}></span>
    <span class="grid">
      {#if becomes}<span style:background={hex}></span>
      {:else if offers.length > 1}{#each offers as o (o.name)}<span style:background={o.hex}></span>{/each}
      {:else}<span style:background={c.hex}></span>{/if}
    </span></span
  >
  <span class="min-w-0 pl-3" role="gridcell">
    <b class="block font-mono {c.wide ? 'text-small leading-tight' : 'truncate'}">{c.spot ?? c.cmyk ?? c.wide ?? c.hex}</b><Verdict
      verdict={c.verdict}
    />
  </span>
  <span class="min-w-0" role="gridcell">
    {#if picking}
      <!-- svelte-ignore a11y_autofocus -->
      <select
        class="select w-full"
        autofocus
        aria-label={`What ${c.hex} becomes`}
        value={target}
        onchange={(e) => {
          picking = false;
          take(e.currentTarget.value);
        }}
      >
        <option value="" disabled>any library color</option>
        {#each library as l (l.id)}<option value={l.name}>{l.name} {l.hex}</option>{/each}
      </select>
    {:else}
      {#each offers as { name } (name)}
        <button
          class="block min-h-[1.6rem] max-w-full truncate px-2 text-left"
          class:picked={becomes === name}
          onclick={() => take(name)}>{name}</button
        >
      {/each}
      <button class="link px-2 text-small" onclick={() => (picking = true)}>another</button>
    {/if}
  </span>
  <span class="min-w-0 text-small" role="gridcell">
    {#each offers as { name, far: n } (name)}<span class="block h-[1.6rem] whitespace-nowrap leading-[1.6rem]"
        >{#if n}<Distance value={n.deltaE} word={n.word} />{:else}&nbsp;{/if}</span
      >{/each}<span class="block h-[1.6rem]">&nbsp;</span>
  </span>
  <span class="text-right font-mono font-bold" role="gridcell">{c.count.toLocaleString('en-US')}</span>
  <span class="flex gap-1 pl-5" role="gridcell">
    {#each ['repaint', 'leave', 'excuse'] as const as what (what)}
      <button
        class="px-2 py-1 disabled:line-through"
        class:picked={choice === what}
        aria-pressed={choice === what}
        disabled={what === 'repaint' && (writable(c) === 0 || (target === '' && offers.length === 0))}
        title={what === 'repaint' && writable(c) === 0 ? c.places[0]?.fixed : undefined}
        onclick={() => choose(what)}>{what}</button
      >
    {/each}
  </span>
</div>

<style>
  .chosen {
    background: var(--color-base-200);
  }
  .picked {
    outline: 1px solid currentColor;
    font-weight: 700;
  }
</style>
