<script lang="ts">
  import { api, need, upload } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { asPicture } from '../proof/option';
  import { session } from '../../lib/state.svelte';

  // The mark of a house, beside its name on the frame.
  const marking = useChange(['house']);
  let chooser = $state<HTMLInputElement>();

  const setMark = (file: File) =>
    marking.run(async () => {
      const drawn = await asPicture(file, 512);
      await marking.send(`/houses/${house.id}/mark`, drawn, 'mark.png', 'PUT');
      await session.load();
      return 'The mark is on the frame';
    });
  const dropMark = () =>
    marking.run(async () => {
      const was = await (await fetch(`/api/houses/${house.id}/mark`)).blob();
      const back = async (id: number) => {
        await upload(`/houses/${id}/mark`, was, 'mark.png', { method: 'PUT' });
        await session.load();
      };
      const id = house.id;
      await need(api.DELETE('/houses/{house}/mark', { params: { path: { house: house.id } } }));
      await session.load();
      return { said: 'The mark is gone', undo: () => back(id) };
    });
</script>

<h2 class="text-[1.13rem]">Mark</h2>
<div class="mt-2 grid min-h-[5.87rem] place-items-center bg-[#111] p-4">
  {#if house.member?.marked}<img
      class="max-h-[3.73rem] max-w-full"
      src={`/api/houses/${house.id}/mark?${house.member.marked}`}
      alt={`Mark of ${house.member.name}`}
    />{:else}<span class="text-white">{house.member?.name}</span>{/if}
</div>
{#if house.keeper}
  <input
    class="hidden"
    type="file"
    accept=".png,.svg"
    aria-label="Mark of the house"
    bind:this={chooser}
    onchange={(e) => {
      const f = e.currentTarget.files?.[0];
      e.currentTarget.value = '';
      if (f) void setMark(f);
    }}
  />
  <span class="mt-2 flex gap-4"
    ><button class="btn btn-plain" disabled={marking.busy} onclick={() => chooser?.click()}
      >{house.member?.marked ? 'Another mark' : 'Choose a mark'}</button
    >{#if house.member?.marked}<button class="link" disabled={marking.busy} onclick={dropMark}>without a mark</button>{/if}</span
  >
  <p class="mt-1 text-small">PNG or SVG; it stands on black, beside the name.</p>
  {#if marking.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{marking.problem}</p>{/if}
{/if}
