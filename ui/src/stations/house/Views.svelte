<script lang="ts">
  import { house } from '../../lib/house.svelte';
  import Places from '../../lib/Places.svelte';

  // The views of the house itself.
  let { now }: { now: 'house' | 'people' | 'trail' } = $props();
  const views = $derived([
    { path: 'house', name: 'Settings', key: 'house' },
    { path: 'house/people', name: 'People', key: 'people' },
    ...(house.keeper ? [{ path: 'house/trail', name: 'Trail', key: 'trail' }] : []),
  ]);
</script>

<Places label="Views of the house" list={views.map((v) => ({ name: v.name, href: house.path(v.path), here: now === v.key }))} />
