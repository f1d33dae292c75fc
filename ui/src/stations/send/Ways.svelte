<script lang="ts">
  import { house } from '../../lib/house.svelte';

  // The three places of the station.
  let { at }: { at: 'sets' | 'recipients' | 'outbox' } = $props();
  const list = $derived([
    { key: 'sets', name: 'Swatch sets', path: 'send' },
    { key: 'recipients', name: 'Recipients', path: 'send/recipients' },
    ...(house.keeper ? [{ key: 'outbox', name: 'Mail', path: 'send/outbox' }] : []),
  ]);
</script>

<nav class="flex gap-5" aria-label="Places of this station">
  {#each list as w (w.key)}<a class="way" href={house.path(w.path)} aria-current={at === w.key ? 'page' : undefined}>{w.name}</a
    >{/each}
</nav>
