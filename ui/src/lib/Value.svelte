<script lang="ts">
  import { notations, type NotationKind } from './notations';
  import { copy, notation } from './state.svelte';

  // A value that one click copies; with a kind, the notation to copy it in can be chosen beside it.
  let {
    text,
    kind,
    parts,
    large = false,
    label,
  }: { text?: string; kind?: NotationKind; parts?: number[]; large?: boolean; label: string } = $props();

  const written = $derived(kind && parts ? notation.write(kind, parts) : (text ?? ''));
</script>

<span class="inline-flex items-center gap-1">
  <button
    class="value"
    class:text-[1.13rem]={large}
    class:font-bold={large}
    aria-label={`Copy ${label} ${written}`}
    onclick={() => copy(written)}>{written}</button
  >
  {#if kind && large}
    <select
      class="pick"
      aria-label={`Notation for ${label}`}
      value={notation.now[kind]}
      onchange={(e) => notation.choose(kind, Number(e.currentTarget.value))}
    >
      {#each notations[kind] as n, i (n.name)}<option value={i}>{parts ? n.write(parts) : n.name}</option>{/each}
    </select>
  {/if}
</span>

<style>
  /* Only the arrow shows: the value itself is the example of its notation. */
  .pick {
    width: 1.47rem;
    height: 1.47rem;
    border: 1px solid transparent;
    background: transparent;
    color: transparent;
    background-image:
      linear-gradient(45deg, transparent 50%, var(--color-base-content) 50%),
      linear-gradient(135deg, var(--color-base-content) 50%, transparent 50%);
    background-position:
      6px 9px,
      11px 9px;
    background-size: 5px 5px;
    background-repeat: no-repeat;
    appearance: none;
    cursor: pointer;
  }
  .pick:hover {
    border-color: var(--color-base-content);
  }
  .pick option {
    color: #111;
    background: #fff;
  }
</style>
