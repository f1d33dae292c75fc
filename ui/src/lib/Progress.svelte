<script lang="ts">
  // Work that takes time: how much of it is done, the way to give it up, and what is being done. The words come last, since
  // they change while one reaches for the button.
  let { what, share, cancel }: { what: string; share?: number; cancel?: () => void } = $props();
</script>

<p class="flex items-center gap-4" role="status">
  <progress class="progress w-48" value={share} max="1"></progress>
  {#if cancel}<button type="button" class="link" onclick={cancel}>give up</button>{/if}
  <span>{what}</span>
</p>
