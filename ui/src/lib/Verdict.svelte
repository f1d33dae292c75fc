<script lang="ts">
  import type { Schema } from './api/client';

  // The shape code of verdicts, like control patches on a press sheet; always with the word.
  let { verdict, word = true }: { verdict: Schema['FoundColor']['verdict']; word?: boolean } = $props();
</script>

<span class="inline-flex items-center gap-2">
  <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" stroke="currentColor" stroke-width="1.5" fill="none">
    <rect x="1" y="1" width="14" height="14" fill={verdict === 'on-brand' ? 'currentColor' : 'none'} />
    {#if verdict === 'drifted'}<path d="M1 15L15 1H1Z" fill="currentColor" />{/if}
    {#if verdict === 'retired'}<path d="M1 1l14 14M15 1L1 15" />{/if}
    {#if verdict === 'unjudged'}{#each [4.5, 8, 11.5] as y (y)}{#each [4.5, 8, 11.5] as x (x)}<circle
            cx={x}
            cy={y}
            r="1"
            fill="currentColor"
            stroke="none"
          />{/each}{/each}{/if}
    {#if verdict === 'excused'}<circle cx="8" cy="8" r="2.5" fill="currentColor" />{/if}
  </svg>
  {#if word}<b>{verdict}</b>{/if}
</span>
