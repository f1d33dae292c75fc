<script lang="ts">
  import { house } from '../../lib/house.svelte';

  // The views of the house itself.
  let { now }: { now: 'house' | 'people' | 'trail' } = $props();
  const views = $derived([
    { path: 'house', name: 'Settings', key: 'house' },
    { path: 'house/people', name: 'People', key: 'people' },
    ...(house.keeper ? [{ path: 'house/trail', name: 'Trail', key: 'trail' }] : []),
  ]);
</script>

<nav class="flex flex-wrap gap-x-4 whitespace-nowrap" aria-label="Views of the house">
  {#each views as v (v.key)}<a class="way" href={house.path(v.path)} aria-current={now === v.key ? 'page' : undefined}>{v.name}</a
    >{/each}
</nav>
