<script lang="ts">
  import { navigate } from './router';
  import { rem } from './rem.svelte';

  // The places of a station, as words in a line; on a phone, where many would take three lines, as one choice.
  let { label, list }: { label: string; list: { name: string; href: string; here: boolean }[] } = $props();
</script>

{#if rem.phone && list.length > 3}
  <select
    class="select w-auto font-bold"
    aria-label={label}
    value={list.find((l) => l.here)?.href}
    onchange={(e) => navigate(e.currentTarget.value as '/')}
  >
    {#each list as l (l.href)}<option value={l.href}>{l.name}</option>{/each}
  </select>
{:else}
  <nav class="flex flex-wrap gap-x-4 whitespace-nowrap" aria-label={label}>
    {#each list as l (l.href)}<a class="way" href={l.href} aria-current={l.here ? 'page' : undefined}>{l.name}</a>{/each}
  </nav>
{/if}
