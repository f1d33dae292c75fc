<script lang="ts">
  import { house } from '../../lib/house.svelte';
  import Places from '../../lib/Places.svelte';

  // The views of the Library beside the ledger.
  let { now }: { now: string } = $props();
  const views = [
    { path: 'library', name: 'Ledger', key: '' },
    { path: 'library/view/gradients', name: 'Gradients', key: 'gradients' },
    { path: 'library/view/plane', name: 'As a picture', key: 'plane' },
    { path: 'library/view/compare', name: 'Comparison', key: 'compare' },
    { path: 'library/view/inks', name: 'Ink book', key: 'inks' },
    { path: 'library/view/presses', name: 'Presses and inks', key: 'presses' },
    { path: 'library/view/backup', name: 'Backup', key: 'backup' },
  ];
</script>

<Places label="Views of the library" list={views.map((v) => ({ name: v.name, href: house.path(v.path), here: now === v.key }))} />
