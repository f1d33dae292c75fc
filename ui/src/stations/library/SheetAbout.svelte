<script lang="ts">
  import { untrack } from 'svelte';
  import type { Schema } from '../../lib/api/client';
  import { opened } from '../../lib/focus';
  import { house, useLimits } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import RoleField from '../../lib/RoleField.svelte';
  import type { SheetActs } from './sheet.svelte';

  // The rules for the use of a color, and the form for them and for all else that is said about it.
  let { s, acts, colors, groups }: { s: Schema['ColorSheet']; acts: SheetActs; colors: Schema['ColorRow'][]; groups: string[] } =
    $props();

  const limits = useLimits();
  const c = $derived(s.row);
  let about = $state({ name: '', role: '', group: '', rule: '', aliases: '', tags: '', ground: 0, ratio: 4.5 });
  let opening = $state(0);

  // What was typed stays until it is used or thrown away, whatever one looks at meanwhile.
  const typed = kept<{ about: typeof about; version: number } | null>(`about-${house.id}-${untrack(() => s.row.id)}`, null);
  if (typed.now) {
    restore(typed.now);
    untrack(() => acts.edit('about'));
  }
  $effect(() => {
    const now = $state.snapshot(about);
    if (acts.editing === 'about') typed.now = { about: now, version: opening };
  });
  function restore(to: { about: typeof about; version: number }) {
    about = to.about;
    opening = to.version;
  }

  function edit() {
    const opens = acts.editing !== 'about';
    if (!opens) typed.clear();
    else if (typed.now) restore(typed.now);
    else {
      opening = s.version;
      about = {
        name: c.name,
        role: c.role,
        group: c.group,
        rule: c.rule,
        aliases: c.aliases.join(', '),
        tags: c.tags.join(', '),
        ground: s.ground?.color.id ?? 0,
        ratio: s.ground?.want ?? 4.5,
      };
    }
    acts.edit('about');
  }
  function leave() {
    acts.close();
    typed.clear();
  }

  const words = (text: string) =>
    text
      .split(',')
      .map((w) => w.trim())
      .filter(Boolean);
  // The version is that which the form was opened on: what somebody else changed meanwhile is said before it is written over.
  async function keep() {
    const { aliases, tags, ground, ratio, ...rest } = about;
    const version = opening;
    const body = { ...rest, version, aliases: words(aliases), tags: words(tags), ground, ratio: ground ? ratio : undefined };
    if (!(await acts.change('Changed', body, () => typed.clear()))) opening = s.version;
  }
</script>

<h3>
  Rules for use {#if acts.may}<button class="ml-2 font-normal link" aria-expanded={acts.editing === 'about'} onclick={edit}
      >change</button
    >{/if}
</h3>
{#if acts.editing === 'about'}
  <form
    {@attach opened}
    class="grid gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void keep();
    }}
  >
    <label class="grid gap-1 text-small"
      >Name <input class="input w-full" required maxlength={limits.data?.nameRunes} bind:value={about.name} /></label
    >
    <div class="grid grid-cols-2 gap-2">
      <label class="grid gap-1 text-small"
        >Group <input class="input w-full" list="sheet-groups" maxlength={limits.data?.nameRunes} bind:value={about.group} /></label
      >
      <datalist id="sheet-groups"
        >{#each groups as g (g)}<option value={g}></option>{/each}</datalist
      >
      <label class="grid gap-1 text-small">Role <RoleField label="Role" bind:value={about.role} /> </label>
    </div>
    <label class="grid gap-1 text-small"
      >Where to use it, and where not <textarea
        class="textarea w-full"
        rows="3"
        maxlength={limits.data?.ruleRunes}
        bind:value={about.rule}></textarea></label
    >
    <div class="grid grid-cols-2 gap-2">
      <label class="grid gap-1 text-small"
        >Also called <input class="input w-full" placeholder="parted by commas" bind:value={about.aliases} /></label
      >
      <label class="grid gap-1 text-small"
        >Tags <input class="input w-full" placeholder="parted by commas" bind:value={about.tags} /></label
      >
      <label class="grid gap-1 text-small"
        >Must stay legible on
        <select class="select w-full" bind:value={about.ground}
          ><option value={0}>nothing in particular</option
          >{#each colors.filter((o) => o.id !== c.id && o.status !== 'retired') as o (o.id)}<option value={o.id}>{o.name}</option
            >{/each}</select
        >
      </label>
      {#if about.ground}<label class="grid gap-1 text-small"
          >at a contrast of <input class="input w-full" type="number" min="1" max="21" step="0.1" bind:value={about.ratio} /></label
        >{/if}
    </div>
    <div class="flex gap-3">
      <button class="btn btn-primary" disabled={acts.busy}>Keep changes</button><button
        type="button"
        class="btn btn-plain"
        onclick={leave}>Cancel</button
      >
    </div>
  </form>
{:else}
  <p>{c.rule || 'None yet.'}</p>
{/if}
