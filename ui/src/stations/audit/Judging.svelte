<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { still, way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';

  // What the house judges by, in a line; a keeper changes it here.
  const judging = createQuery(() => ({
    queryKey: ['audits', 'judging', house.id],
    queryFn: () => need(api.GET('/houses/{house}/judging', { params: { path: { house: house.id } } })),
  }));
  const changing = useChange(['audits']);
  let draft = $state<Schema['Judging']>();

  const save = () =>
    changing.run(async () => {
      const was = judging.data!;
      const params = { path: { house: house.id } };
      const body = $state.snapshot(draft!);
      await need(api.PUT('/houses/{house}/judging', { params, body }));
      draft = undefined;
      return {
        said: 'The next runs are judged by this',
        undo: [still('/houses/{house}/judging', { params }, body), way('put', '/houses/{house}/judging', { params, body: was })],
      };
    });
</script>

{#if judging.data}
  {@const j = judging.data}
  <h2 class="mt-6 text-[1.13rem]">Judged by</h2>
  {#if draft}
    <form
      class="mt-2 grid gap-2 text-small"
      onsubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div class="grid grid-cols-2 gap-3">
        <label class="grid gap-1"
          ><b>Tolerance (ΔE00)</b><input
            class="input w-full"
            type="number"
            min="0.1"
            max="20"
            step="0.1"
            required
            bind:value={draft.tolerance}
          /></label
        >
        <label class="grid gap-1"
          ><b>in pictures and video</b><input
            class="input w-full"
            type="number"
            min="0.1"
            max="20"
            step="0.1"
            required
            bind:value={draft.pictures}
          /></label
        >
      </div>
      <label class="flex items-center gap-2"
        ><input class="checkbox" type="checkbox" bind:checked={draft.neutrals} />pure grays, black and white are on-brand</label
      >
      <label class="flex items-center gap-2"
        ><input class="checkbox" type="checkbox" bind:checked={draft.again} />projects are judged again when the library moved</label
      >
      <label class="grid gap-1"
        ><b>Days that runs are kept (0: for good)</b><input
          class="input w-full"
          type="number"
          min="0"
          max="3650"
          step="1"
          required
          bind:value={draft.keepDays}
        /></label
      >
      <p>The last run of a project always stays.</p>
      {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
      <span class="flex gap-4"
        ><button class="btn btn-primary" disabled={changing.busy}>Judge by this</button><button
          class="link"
          type="button"
          onclick={() => (draft = undefined)}>leave it</button
        ></span
      >
    </form>
  {:else}
    <p class="mt-1 text-small">
      Tolerance {j.tolerance.toFixed(1)}, in pictures and video {j.pictures.toFixed(1)}; grays
      {j.neutrals ? 'are on-brand' : 'are judged like any color'}; runs are kept {j.keepDays > 0
        ? `for ${j.keepDays} days`
        : 'for good'}; projects are {j.again ? '' : 'not '}judged again by themselves when the library moved.
      {#if house.keeper}<button class="link" onclick={() => (draft = { ...j })}>change</button>{/if}
    </p>
  {/if}
{/if}
