<script lang="ts">
  import type { Schema } from './api/client';
  import { verdicts } from './engine.gen';

  // The shape code of verdicts, like control patches on a press sheet; always with the word.
  let { verdict, word = true }: { verdict: Schema['FoundColor']['verdict']; word?: boolean } = $props();
  const shape = $derived(verdicts.find((v) => v.word === verdict)?.shape);
</script>

<span class="inline-flex shrink-0 items-center gap-2 whitespace-nowrap">
  <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" stroke="currentColor" stroke-width="1.5" fill="none">
    <rect x="1" y="1" width="14" height="14" />
    {#if shape?.fill}<path d={shape.fill} fill="currentColor" stroke="none" />{/if}
    {#if shape?.line}<path d={shape.line} />{/if}
  </svg>
  {#if word}<b>{verdict}</b>{/if}
</span>
