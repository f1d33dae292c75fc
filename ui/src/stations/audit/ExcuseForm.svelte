<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { named, uses, type Found } from './audit.svelte';

  // A recorded exception: why a color is meant to differ, where, and until when.
  let { found, line, place, done }: { found: Found; line: Schema['AuditLine']; place?: string; done?: () => void } = $props();

  type Covers = 'everywhere' | 'project' | 'file' | 'place';
  let reason = $state('');
  let until = $state('');
  let covers = $state<Covers>('project');
  const changing = useChange(['audits']);
  const offered = $derived<[Covers, string][]>([
    ['project', 'in this project'],
    ['file', 'in this file'],
    ...(place ? ([['place', 'here only']] as [Covers, string][]) : []),
    ['everywhere', 'everywhere'],
  ]);

  const save = () =>
    changing.run(async () => {
      const e = await need(
        api.POST('/houses/{house}/excuses', {
          params: { path: { house: house.id } },
          body: {
            color: named(found),
            reason,
            until: until || undefined,
            project: covers === 'everywhere' ? undefined : line.project,
            file: covers === 'file' || covers === 'place' ? (line.path ?? line.file) : undefined,
            where: covers === 'place' ? place : undefined,
          },
        }),
      );
      reason = '';
      done?.();
      return {
        said: `${named(found)} is excused; the next run counts it so`,
        undo: [way('delete', '/houses/{house}/excuses/{excuse}', { params: { path: { house: house.id, excuse: e.id } } })],
      };
    });
</script>

<form
  class="grid gap-2"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <label class="grid gap-1 text-small"
    ><b>Reason</b><textarea
      class="textarea w-full"
      rows="2"
      required
      maxlength="500"
      placeholder="why it is meant to differ"
      bind:value={reason}></textarea></label
  >
  <fieldset class="text-small">
    <legend class="font-bold">Covers</legend>
    <div class="mt-1 flex flex-wrap gap-1">
      {#each offered as [value, label] (value)}
        <label
          class="cursor-pointer border px-2.5 py-1"
          class:border-current={covers === value}
          class:border-transparent={covers !== value}
          class:font-bold={covers === value}
          ><input class="sr-only" type="radio" name="covers" {value} bind:group={covers} />{label}</label
        >
      {/each}
    </div>
  </fieldset>
  <div class="flex items-end gap-4">
    <label class="grid gap-1 text-small"
      ><b>Until</b><input class="input w-[10.67rem]" type="date" bind:value={until} aria-label="Last day of the excuse" /></label
    >
    <button class="btn btn-primary" disabled={changing.busy}>Excuse {uses(found.count, line.kind)}</button>
  </div>
  {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
</form>
