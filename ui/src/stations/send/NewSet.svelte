<script lang="ts">
  import { opened } from '../../lib/focus';
  import { way } from '../../lib/back';
  import { api, need } from '../../lib/api/client';
  import type { Change } from '../../lib/change.svelte';
  import { house, useLedger, useRoles, useSets, useLimits } from '../../lib/house.svelte';
  import { table } from '../library/table.svelte';

  // A new swatch set: its name, and what it begins with.
  let { changing, go }: { changing: Change; go: (set: number) => unknown } = $props();

  const limits = useLimits();
  const sets = useSets();
  const ledger = useLedger();
  let naming = $state(false);
  let newName = $state('');

  // What a new set begins with.
  const marked = $derived((ledger.data?.colors ?? []).filter((c) => table.marked[c.id] && c.status === 'approved'));
  let begin = $state('empty');
  const roles = useRoles();
  const tags = $derived([...new Set((ledger.data?.colors ?? []).flatMap((c) => c.tags))].sort());
  const create = () =>
    changing.run(async () => {
      const [what, which] = begin.split('-', 2);
      const other = sets.data?.find((s) => String(s.id) === which);
      const colors = what === 'marked' ? marked.map((c) => c.id) : what === 'set' ? (other?.colors.map((c) => c.id) ?? []) : [];
      const follows = what === 'role' ? { role: begin.slice(5) } : what === 'tag' ? { tag: begin.slice(4) } : {};
      const body = { name: newName, colors, follows };
      const s = await need(api.POST('/houses/{house}/sets', { params: { path: { house: house.id } }, body }));
      await changing.refresh();
      [naming, newName, begin] = [false, '', 'empty'];
      void go(s.id);
      const path = { house: house.id, set: s.id };
      return { said: `${s.name} is a set now`, undo: [way('delete', '/houses/{house}/sets/{set}', { params: { path } })] };
    });
</script>

{#if naming}
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <form
    class="ml-auto flex flex-wrap gap-2"
    onkeydown={(e) => e.key === 'Escape' && (naming = false)}
    onsubmit={(e) => {
      e.preventDefault();
      void create();
    }}
  >
    <input
      class="input w-[14.67rem]"
      aria-label="Name of the new set"
      placeholder="name of the set"
      required
      maxlength={limits.data?.nameRunes}
      {@attach opened}
      bind:value={newName}
    />
    <select class="select w-[12.67rem]" aria-label="What it begins with" bind:value={begin}
      ><option value="empty">empty</option>
      {#if marked.length > 0}<option value="marked">the {marked.length} marked colors</option>{/if}
      {#each roles.list as r (r)}<option value={`role-${r}`}>all approved: {r}</option>{/each}
      {#each tags as t (t)}<option value={`tag-${t}`}>all tagged: {t}</option>{/each}
      {#each sets.data ?? [] as s (s.id)}<option value={`set-${s.id}`}>as {s.name}</option>{/each}</select
    >
    <button class="btn btn-primary">Make</button>
    <button type="button" class="btn btn-plain" onclick={() => (naming = false)}>Cancel</button>
  </form>
{:else}
  <button class="btn btn-plain ml-auto" onclick={() => (naming = true)}>New set</button>
{/if}
