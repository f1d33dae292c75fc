<script lang="ts">
  import RoleField from '../../lib/RoleField.svelte';
  import { setsBack, way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useSets } from '../../lib/house.svelte';
  import { navigate } from '../../lib/router';
  import { engine, type Scale } from '../../lib/engine';
  import { notations, type NotationKind } from '../../lib/notations';
  import { copy, session } from '../../lib/state.svelte';
  import { comparison } from '../../lib/comparison.svelte';
  import { backwards } from './backwards';
  import { table } from './table.svelte';

  // What can be done to the marked colors together.
  let {
    marked,
    hidden,
    groups,
  }: { marked: Schema['ColorRow'][]; hidden: number /* by what the list is narrowed to */; groups: string[] } = $props();

  const sets = useSets();
  const changing = useChange(['ledger', 'sheet', 'sets']);
  let what = $state<'group' | 'tag' | 'role' | 'set' | 'retire' | 'house' | 'export'>('group');
  let value = $state('');
  let move = $state(false);

  const ids = $derived(marked.map((c) => c.id));
  const here = $derived({ params: { path: { house: house.id } } });
  const others = $derived(session.now?.houses.filter((h) => h.id !== house.id && h.role === 'keeper') ?? []);
  const labels = $derived({
    group: 'Move',
    tag: 'Tag',
    role: 'Change',
    set: 'Put on',
    retire: 'Retire',
    house: move ? 'Move' : 'Copy',
    export: '',
  });
  const clear = () => (table.marked = {});

  const go = () =>
    changing.run(async () => {
      const n = ids.length === 1 ? '1 color' : `${ids.length} colors`;
      if (what === 'house') {
        const to = Number(value);
        await need(api.POST('/houses/{house}/colors/copy', { ...here, body: { colors: ids, house: to, move } }));
        done();
        return `${n} ${move ? 'moved' : 'copied'} to ${others.find((h) => h.id === to)?.name}`;
      }
      const was = marked.map((c) => ({ id: c.id, group: c.group, role: c.role, status: c.status }));
      const part = ({ group: 'group', role: 'role', retire: 'status' } as const)[what as 'group' | 'role' | 'retire'];
      const body: Schema['BulkChange'] = { colors: ids };
      if (what === 'group') body.group = value.trim();
      if (what === 'tag') body.tag = value.trim();
      if (what === 'role') body.role = value.trim();
      if (what === 'set') body.set = value.trim();
      if (what === 'retire') body.status = 'retired';
      const path = here;
      const there = sets.data;
      await need(api.POST('/houses/{house}/colors/bulk', { ...path, body }));
      done();
      // Each color gets back what it had; those that had the same go together. A set that they joined gets its colors back.
      const undo = part
        ? backwards(part, was).map((body) => way('post', '/houses/{house}/colors/bulk', { ...path, body }))
        : what === 'set'
          ? await setsBack(there)
          : undefined;
      return { said: `${n} changed`, undo };
    });

  function done() {
    value = '';
    clear();
  }

  let lines = $state('values');
  // Their values, or what is lighter and darker of each, in one go: a line a value, its name in front. Steps and tints are of screens.
  const shares = [80, 60, 40, 20];
  const copies: Record<string, { name: string; of: (c: Schema['ColorRow']) => Promise<[string, number[]][]> }> = {
    values: { name: 'their values', of: async (c) => [[c.name, c.rgb]] },
    tints: { name: 'tints 80 to 20 %', of: (c) => scaleOf(c, (s) => s.tints.map((hex, i) => [`${c.name} ${shares[i]} %`, hex])) },
    shades: {
      name: 'shades 80 to 20 %',
      of: (c) => scaleOf(c, (s) => s.shades.map((hex, i) => [`${c.name} shade ${shares[i]} %`, hex])),
    },
    steps: { name: 'steps 50 to 950', of: (c) => scaleOf(c, (s) => s.steps.map((p) => [`${c.name} ${p.name}`, p.hex])) },
  };
  async function scaleOf(c: Schema['ColorRow'], pick: (s: Scale) => [string, string][]): Promise<[string, number[]][]> {
    const list = pick(await engine.ask('scale', { value: c.hex, percents: shares }));
    return list.map(([name, hex]) => [name, [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16))]);
  }
  const kinds = $derived<NotationKind[]>(lines === 'values' ? ['hex', 'rgb', 'cmyk'] : ['hex', 'rgb']);
  const ways = $derived(
    kinds.flatMap((kind) => notations[kind].map((n, i) => ({ key: `${kind} ${i}`, name: n.name, kind, write: n.write }))),
  );
  let how = $state(localStorage.getItem('many-notation') ?? 'hex 0');
  let copying = $state(false);
  async function copyAll() {
    const way = ways.find((w) => w.key === how) ?? ways[0]!;
    localStorage.setItem('many-notation', way.key);
    copying = true;
    try {
      const parts = await Promise.all(
        way.kind === 'cmyk'
          ? marked.map((c): [string, number[]][] => [[c.name, c.press.value]])
          : marked.map((c) => copies[lines]!.of(c)),
      );
      const text = parts.flat().map(([name, v]) => `${name}\t${way.write(v)}`);
      await copy(text.join('\n'), text.length === 1 ? '1 line' : `${text.length} lines`);
    } finally {
      copying = false;
    }
  }

  function compare() {
    comparison.set(marked.map((c) => ({ label: c.name, hex: c.hex })));
    clear();
    void navigate('/h/:house/library/view/:view', { params: { house: String(house.id), view: 'compare' } });
  }
</script>

<form
  class="mr-5 mt-2 flex flex-wrap items-center gap-3 border border-current px-3 py-2"
  aria-label="With the marked colors"
  onsubmit={(e) => {
    e.preventDefault();
    if (what !== 'export') void go();
  }}
>
  <b>{marked.length} marked{hidden > 0 ? `, ${hidden} not shown` : ''}</b>
  {#if house.keeper}
    <select class="select w-[10rem]" aria-label="What to do" bind:value={what} onchange={() => (value = '')}>
      <option value="group">move to group</option>
      <option value="tag">tag</option>
      <option value="role">give the role</option>
      <option value="set">put on a set</option>
      <option value="retire">retire</option>
      {#if others.length}<option value="house">bring to a house</option>{/if}
      <option value="export">write as a file</option>
    </select>
    {#if what === 'group'}
      <input class="input w-[10rem]" list="many-groups" aria-label="Group" placeholder="none" bind:value /><datalist
        id="many-groups"
        >{#each groups as g (g)}<option value={g}></option>{/each}</datalist
      >
    {:else if what === 'tag'}<input class="input w-[10rem]" aria-label="Tag" required bind:value />
    {:else if what === 'role'}
      <span class="w-[10rem]"><RoleField label="Role" bind:value /></span>
    {:else if what === 'set'}
      <input class="input w-[10rem]" list="many-sets" aria-label="Swatch set" required bind:value /><datalist id="many-sets"
        >{#each sets.data ?? [] as s (s.id)}<option value={s.name}></option>{/each}</datalist
      >
    {:else if what === 'house'}
      <select class="select w-[11.33rem]" aria-label="House" required bind:value
        ><option value="">which?</option>{#each others as h (h.id)}<option value={String(h.id)}>{h.name}</option>{/each}</select
      >
      <label class="flex items-center gap-2 text-small"
        ><input type="checkbox" class="checkbox" bind:checked={move} /> and take them away here</label
      >
    {/if}
    {#if what === 'export'}
      {#each ['tokens', 'css', 'gpl', 'cxf', 'csv', 'xlsx'] as f (f)}<a
          class="link"
          href={`/api/houses/${house.id}/library?format=${f}&colors=${ids.join(',')}`}
          download>{f}</a
        >{/each}
    {:else}<button class="btn btn-primary" disabled={changing.busy}
        >{labels[what]} {ids.length === 1 ? '1 color' : `${ids.length} colors`}</button
      >{/if}
  {/if}
  <span class="flex items-center gap-2">
    <select class="select w-[11.47rem]" aria-label="What to copy" bind:value={lines}>
      {#each Object.entries(copies) as [key, c] (key)}<option value={key}>{c.name}</option>{/each}
    </select>
    <select class="select w-[10rem] font-mono" aria-label="Notation to copy in" bind:value={how}>
      {#each ways as w (w.key)}<option value={w.key}>{w.name}</option>{/each}
    </select>
    <button type="button" class="btn btn-plain" disabled={copying} onclick={copyAll}
      >Copy {marked.length === 1 ? '1' : marked.length}</button
    >
  </span>
  {#if marked.length > 1}<button type="button" class="link" onclick={compare}>compare</button>{/if}
  <button type="button" class="ml-auto link" onclick={clear}>unmark</button>
  {#if changing.problem}<p role="alert" class="w-full border-l-4 border-current pl-3">{changing.problem}</p>{/if}
</form>
