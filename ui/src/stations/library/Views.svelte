<script lang="ts">
  import { house } from '../../lib/house.svelte';

  // The views of the Library beside the ledger.
  let { now }: { now: string } = $props();
  const views = [
    { path: 'library', name: 'Ledger', key: '' },
    { path: 'library/view/gradients', name: 'Gradients', key: 'gradients' },
    { path: 'library/view/compare', name: 'Comparison', key: 'compare' },
    { path: 'library/view/inks', name: 'Ink book', key: 'inks' },
    { path: 'library/view/presses', name: 'Presses and inks', key: 'presses' },
    { path: 'library/view/backup', name: 'Backup', key: 'backup' },
  ];
</script>

<nav class="flex flex-wrap gap-x-4 whitespace-nowrap" aria-label="Views of the library">
  {#each views as v (v.key)}<a class="way" href={house.path(v.path)} aria-current={now === v.key ? 'page' : undefined}>{v.name}</a
    >{/each}
</nav>
