<script lang="ts">
  import { house } from '../../lib/house.svelte';
  import Places from '../../lib/Places.svelte';

  // The places of the station.
  let { at }: { at: 'sets' | 'recipients' | 'loading' | 'public' | 'programs' | 'outbox' } = $props();
  const list = $derived([
    { key: 'sets', name: 'Swatch sets', path: 'send' },
    { key: 'recipients', name: 'Recipients', path: 'send/recipients' },
    { key: 'loading', name: 'Loading', path: 'send/loading' },
    ...(house.keeper
      ? [
          { key: 'public', name: 'Public', path: 'send/public' },
          { key: 'programs', name: 'Programs', path: 'send/programs' },
          { key: 'outbox', name: 'Mail', path: 'send/outbox' },
        ]
      : []),
  ]);
</script>

<Places label="Places of this station" list={list.map((w) => ({ name: w.name, href: house.path(w.path), here: at === w.key }))} />
