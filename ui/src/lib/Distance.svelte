<script lang="ts">
  let { value, word }: { value: number; word: string } = $props();
</script>

<span class="whitespace-nowrap"><b class="font-mono tabular-nums">{value.toFixed(1)}</b> {word}</span>
