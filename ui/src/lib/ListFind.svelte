<script lang="ts">
  // A field over a list that is longer than one sees at once.
  let { words = $bindable(''), of, label }: { words: string; of: number; label: string } = $props();
</script>

{#if of > 7 || words}
  <input
    class="w-full max-w-[20rem] border-b border-current bg-transparent py-1"
    type="search"
    placeholder={`find in ${of}`}
    aria-label={label}
    autocomplete="off"
    bind:value={words}
    onkeydown={(e) => {
      if (e.key === 'Escape' && words) {
        e.preventDefault();
        words = '';
      }
    }}
  />
{/if}
