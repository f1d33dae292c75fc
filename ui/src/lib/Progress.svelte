<script lang="ts">
  // Work that takes time: what is being done, how much of it is done, and the way to give it up.
  let { what, share, cancel }: { what: string; share?: number; cancel?: () => void } = $props();
</script>

<p class="flex items-center gap-4" role="status">
  <progress class="progress w-48" value={share} max="1"></progress>
  {what}
  {#if cancel}<button type="button" class="link" onclick={cancel}>give up</button>{/if}
</p>
