<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import type { Change } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { opened } from '../../lib/focus';

  // Names for all candidates at once: one a line, in the order of the tray; or numbered.
  let {
    candidates,
    named,
    changing,
    close,
  }: {
    candidates: Schema['Candidate'][];
    named: () => Promise<unknown>; // what is named one by one
    changing: Change;
    close: () => void;
  } = $props();

  let list = $state('');
  const nameAll = (names: string[]) =>
    changing.run(async () => {
      await named();
      const to = candidates.flatMap((c, i) => {
        const name = names[i]?.trim();
        return name && name !== c.name ? [{ item: c.id, name, was: c.name }] : [];
      });
      const naming = (names: Schema['CandidateName'][]) => ({ params: { path: { house: house.id } }, body: { names } });
      if (to.length > 0) await need(api.PATCH('/houses/{house}/tray', naming(to.map(({ item, name }) => ({ item, name })))));
      close();
      const undo = [way('patch', '/houses/{house}/tray', naming(to.map(({ item, was }) => ({ item, name: was }))))];
      return { said: to.length === 1 ? '1 candidate renamed' : `${to.length} candidates renamed`, undo: to.length ? undo : [] };
    });
  const lines = $derived(list.split('\n').map((l) => l.trim()));
  const given = $derived(lines.slice(0, candidates.length).filter(Boolean).length);
  const over = $derived(lines.slice(candidates.length).filter(Boolean).length);
  const numbered = () => {
    const base = lines[0] || 'Color';
    return candidates.map((_, i) => `${base} ${i + 1}`);
  };
</script>

<form
  class="mx-5 mt-2 grid gap-2 border border-current p-3"
  onsubmit={(e) => {
    e.preventDefault();
    void nameAll(lines);
  }}
>
  <label class="grid gap-1 text-small"
    >One name a line, in the order of the tray; an empty line leaves one as it is
    <textarea class="textarea w-full" rows="5" {@attach opened} bind:value={list}></textarea></label
  >
  <p class="flex flex-wrap items-center gap-4">
    <button class="btn btn-primary" disabled={changing.busy || given === 0}>Name {given} of {candidates.length}</button>
    <button type="button" class="link text-small" disabled={changing.busy} onclick={() => nameAll(numbered())}
      >number all {candidates.length}: {lines[0] || 'Color'} 1, {lines[0] || 'Color'} 2 …</button
    >
  </p>
  {#if over > 0}<p class="text-small" role="alert">
      There are {over} more names than candidates.
    </p>{/if}
</form>
