<script lang="ts">
  import type { Snippet } from 'svelte';
  import { terms, type TermName } from './terms';

  // A word of the trade that explains itself in a sentence, where it stands, to whoever presses it.
  let { of, children }: { of: TermName; children: Snippet } = $props();
  let open = $state(false);
  const id = $props.id();
</script>

<button class="term" aria-expanded={open} aria-controls={open ? id : undefined} onclick={() => (open = !open)}
  >{@render children()}</button
>{#if open}<span {id} class="my-1 block border-l-2 border-current pl-2 text-left text-small font-normal" role="note"
    >{terms[of]}</span
  >{/if}

<style>
  .term {
    text-decoration: underline dotted;
    text-underline-offset: 3px;
    min-height: 1.6rem;
    text-align: inherit;
    font-weight: inherit;
  }
</style>
