<script lang="ts">
  let { size = 24 }: { size?: number } = $props();
</script>

<svg width={size} height={size} viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="1.8" aria-hidden="true">
  <circle cx="12" cy="12" r="6" /><circle cx="12" cy="12" r="2.4" /><path d="M12 1v22M1 12h22" />
</svg>
