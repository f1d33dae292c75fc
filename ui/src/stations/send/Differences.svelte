<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';

  // What is different between two states of a set, before and after edge to edge.
  let { list }: { list: Schema['Difference'][] } = $props();
</script>

<ul class="mt-2 text-small">
  {#each list as d, i (i)}
    <li class="rule grid grid-cols-[6.93rem_1fr] items-center gap-3 border-b py-1.5">
      <span class="grid h-9 grid-cols-2" aria-hidden="true">
        {#if d.before}<span style:background={d.before}></span>{:else}<span class="none"></span>{/if}
        {#if d.after}<span style:background={d.after}></span>{:else}<span class="none"></span>{/if}
      </span>
      <span
        >{#each d.what as w (w)}<span class="block">{w}</span>{/each}{#if d.before !== d.after && d.deltaE !== undefined}<Distance
            value={d.deltaE}
            word={d.word ?? ''}
          />{/if}</span
      >
    </li>
  {/each}
</ul>

<style>
  /* Nothing stands there: a hollow field. */
  .none {
    border: 1px dashed currentColor;
  }
</style>
