<script lang="ts">
  import { api, need } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { navigate } from '../../lib/router';
  import { session } from '../../lib/state.svelte';

  // The end of a house, which waits for a week.
  const ending = useChange([]);
  let typed = $state('');
  let giving = $state(false);

  const giveUp = () =>
    ending.run(async () => {
      const of = house.member?.name;
      await need(api.POST('/houses/{house}/end', { params: { path: { house: house.id } }, body: { name: typed } }));
      await session.load();
      void navigate('/');
      return `${of} is deleted in a week. Until then a keeper takes it back in the menu of houses.`;
    });
</script>

{#if giving}
  <form
    class="mt-3 grid gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void giveUp();
    }}
  >
    <p>
      Nobody enters {house.member?.name} any more, and in a week it is deleted with all that is in it. Until then a keeper can take it
      back.
    </p>
    <label class="grid gap-1">Type its name<input class="input w-full" required autocomplete="off" bind:value={typed} /></label>
    {#if ending.problem}<p role="alert" class="border-l-4 border-current pl-3">{ending.problem}</p>{/if}
    <span class="flex gap-4"
      ><button class="btn btn-primary" disabled={ending.busy}>Give up {house.member?.name}</button><button
        type="button"
        class="link"
        onclick={() => (giving = false)}>keep it</button
      ></span
    >
  </form>
{:else}<button class="link mt-2" onclick={() => (giving = true)}>Give this house up</button>{/if}
