<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from './api/client';
  import { house } from './house.svelte';

  // Which class of inks the nearest ones are taken from: those that the house takes inks from, or one of the book's.
  let {
    near,
    stock,
    found = $bindable(),
  }: { near: string; stock: string; found?: Schema['FoundInk'][] /* of the class, once one is chosen */ } = $props();

  let only = $state('');
  const book = createQuery(() => ({
    queryKey: ['ink-book', house.id],
    queryFn: () => need(api.GET('/houses/{house}/ink-book', { params: { path: { house: house.id } } })),
  }));
  const inks = createQuery(() => ({
    queryKey: ['inks', house.id, only, near, stock],
    queryFn: () => {
      const query = { class: only, near, stock: stock as 'coated' };
      return need(api.GET('/houses/{house}/inks', { params: { path: { house: house.id }, query } }));
    },
    enabled: only !== '',
  }));
  $effect(() => {
    found = only && inks.data ? inks.data.slice(0, 5) : undefined;
  });
</script>

{#if (book.data?.classes.length ?? 0) > 1}
  <label class="text-small"
    >of class
    <select class="select w-auto" aria-label="of class: the inks to choose from" bind:value={only}
      ><option value="">{book.data!.meant.join(', ') || 'any'}</option>
      {#each book.data!.classes.filter((k) => book.data!.meant.length !== 1 || k !== book.data!.meant[0]) as k (k)}<option
          >{k}</option
        >{/each}</select
    ></label
  >
{/if}
