<script lang="ts">
  import { navigate, route } from './lib/router';
  import { session } from './lib/state.svelte';

  // The library of the house last worked in; only "/" and unknown addresses come here.
  $effect(() => {
    const houses = session.now?.houses ?? [];
    const kept = Number(route.params.house ?? localStorage.getItem('house'));
    const house = houses.find((h) => h.id === kept) ?? houses[0];
    if (house) void navigate('/h/:house/library', { params: { house: String(house.id) }, replace: true });
  });
</script>

{#if session.now?.houses.length === 0}
  <p class="p-8">You do not belong to a house yet. Ask a keeper to add you.</p>
{/if}
