<script lang="ts">
  import { Left } from './left';

  // Work that takes time: how much of it is done, the way to give it up, and what is being done. The words come last, since
  // they change while one reaches for the button.
  let { what, share, cancel, stop = 'give up' }: { what: string; share?: number; cancel?: () => void; stop?: string } = $props();

  const left = new Left();
  const soon = $derived(left.words(share, performance.now()));
</script>

<p class="flex items-center gap-4" role="status">
  <progress class="progress w-48" value={share} max="1"></progress>
  {#if cancel}<button type="button" class="link" onclick={cancel}>{stop}</button>{/if}
  <span>{what}{soon ? `, ${soon}` : ''}</span>
</p>
