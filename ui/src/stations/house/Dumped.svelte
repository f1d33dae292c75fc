<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';

  // Whether the whole server, and this house with it, is dumped in every night.
  const settings = createQuery(() => ({
    queryKey: ['house', house.id, 'settings'],
    queryFn: () => need(api.GET('/houses/{house}/settings', { params: { path: { house: house.id } } })),
  }));
  const moment = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const dumped = $derived(settings.data?.dumped);
  const last = $derived(dumped?.at ? moment.format(new Date(dumped.at)) : '');
</script>

{#if dumped}
  {#if !dumped.nightly}
    The server does not back itself up{last ? ` any more; the last time was ${last}` : ''}. Take the house along now and then.
  {:else if dumped.failed}
    The backup of the last night failed and is tried again every hour; {last
      ? `the last one that is whole is of ${last}`
      : 'there is none yet'}.
  {:else if last}
    The whole server is backed up every night; last on {last}, opened and counted.
  {:else}
    The whole server is backed up every night; the first one is on its way.
  {/if}
{/if}
