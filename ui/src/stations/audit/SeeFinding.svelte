<script lang="ts">
  import Verdict from '../../lib/Verdict.svelte';
  import { named, type Found } from './audit.svelte';

  // A found color in the list beside what is seen, with where it stands if it has no mark there.
  let {
    c,
    number,
    chosen,
    elsewhere,
    choose,
  }: { c: Found; number: number | undefined; chosen: boolean; elsewhere: string; choose: () => void } = $props();
</script>

<button class="finding" class:chosen aria-pressed={chosen} onclick={choose}>
  <span class="grid h-[3rem] grid-cols-2" aria-hidden="true"
    ><span style:background={c.hex}></span><span style:background={c.nearest?.hex ?? c.hex}></span></span
  >
  <span class="min-w-0">
    <span class="flex items-center gap-2"
      >{#if number}<b>{number}</b>{/if}<Verdict verdict={c.verdict} />
      <span class="truncate font-mono text-small">{named(c)}</span></span
    >
    <span class="block truncate text-small"
      >{c.nearest ? `${c.nearest.name}, ${c.nearest.deltaE.toFixed(1)} ${c.nearest.word}` : ''}{elsewhere}</span
    >
  </span>
</button>

<style>
  .finding {
    display: grid;
    grid-template-columns: 5.5rem minmax(0, 1fr);
    gap: 0.8rem;
    align-items: center;
    width: 100%;
    height: 3.6rem;
    padding-right: 1rem;
    text-align: left;
  }
  .finding.chosen {
    background: var(--color-base-100);
  }
</style>
