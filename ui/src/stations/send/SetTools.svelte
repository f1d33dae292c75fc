<script lang="ts">
  import { setsBack, way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { house, useLedger, useLimits, useSets, useRoles } from '../../lib/house.svelte';
  import { navigate } from '../../lib/router';
  import { copy } from '../../lib/state.svelte';
  import { untils } from './packings';
  import SetBeside from './SetBeside.svelte';

  // What can be done to a set as a whole.
  let { set, go }: { set: Schema['SwatchSet']; go: (id: number) => unknown } = $props();

  const limits = useLimits();
  const sets = useSets();
  const ledger = useLedger();
  const changing = useChange(['sets', 'public']);
  const path = $derived({ house: house.id, set: set.id });
  const roles = useRoles();
  const tags = $derived([...new Set((ledger.data?.colors ?? []).flatMap((c) => c.tags))].sort());

  let open = $state<'' | 'name' | 'follow' | 'move' | 'beside' | 'public'>('');
  let until = $state(0);
  const makePublic = () =>
    changing.run(async () => {
      const body = { set: set.id, until: untils[until]!.at() };
      const l = await need(api.POST('/houses/{house}/public', { params: { path: { house: house.id } }, body }));
      open = '';
      await copy(location.origin + l.path, `The public link to ${set.name}`);
    });
  let name = $state('');
  let role = $state('');
  let tag = $state('');
  const start = (what: typeof open) => {
    open = open === what ? '' : what;
    [name, role, tag] = [set.name, set.follows.role ?? '', set.follows.tag ?? ''];
    [picked, from] = [[], 0];
  };
  const content = (version: number, part: Partial<Schema['SetContent']>) => ({
    params: { path },
    body: { name: set.name, version, colors: set.colors.map((c) => c.id), ...part },
  });
  const write = (version: number, part: Partial<Schema['SetContent']>) =>
    need(api.PUT('/houses/{house}/sets/{set}', content(version, part)));
  const writing = (version: number, part: Partial<Schema['SetContent']>) =>
    way('put', '/houses/{house}/sets/{set}', content(version, part));
  const rename = () =>
    changing.run(async () => {
      const old = set.name;
      const now = await write(set.version, { name });
      open = '';
      return { said: `${old} is ${now.name} now`, undo: [writing(now.version, { name: old })] };
    });
  const follow = (f: Schema['Follows']) =>
    changing.run(async () => {
      const before = { follows: { ...set.follows }, colors: set.colors.map((c) => c.id) };
      const now = await write(set.version, { follows: f });
      open = '';
      const said = f.role || f.tag ? `${set.name} keeps itself current from now on` : `${set.name} is made by hand from now on`;
      return { said, undo: [writing(now.version, before)] };
    });
  const duplicate = () =>
    changing.run(async () => {
      const taken = new Set(sets.data?.map((s) => s.name.toLowerCase()));
      let copy = `${set.name}, copy`;
      for (let n = 2; taken.has(copy.toLowerCase()); n++) copy = `${set.name}, copy ${n}`;
      const slots = set.slots.filter((s) => s.given && s.color).map((s) => ({ slot: s.slot, color: s.color ?? 0 }));
      const body = { name: copy, colors: set.colors.map((c) => c.id), slots, boxes: set.boxes };
      const made = await need(api.POST('/houses/{house}/sets', { params: { path: { house: house.id } }, body }));
      await changing.refresh();
      void go(made.id);
      return {
        said: `${copy} is made`,
        undo: [way('delete', '/houses/{house}/sets/{set}', { params: { path: { house: house.id, set: made.id } } })],
      };
    });
  const drop = () =>
    changing.run(async () => {
      const old = set;
      const where = { params: { path: { house: house.id, set: old.id } } };
      await need(api.DELETE('/houses/{house}/sets/{set}', where));
      await navigate('/h/:house/send', { params: { house: String(house.id) }, replace: true });
      return {
        said: `${old.name} deleted${old.editions.length ? '; its editions stay' : ''}`,
        undo: [way('post', '/houses/{house}/sets/{set}/restore', where)],
        back: `${old.name} is back`,
        goes: house.path(`send/${old.id}`),
      };
    });

  // Colors of another set.
  let from = $state(0);
  let picked = $state<number[]>([]);
  const other = $derived(sets.data?.find((s) => s.id === from));
  const take = (copy: boolean) =>
    changing.run(async () => {
      const body = { from, colors: picked, copy };
      const n = picked.length;
      const there = other?.name;
      const before = sets.data;
      await need(api.POST('/houses/{house}/sets/{set}/take', { params: { path }, body }));
      open = '';
      const undo = await setsBack(before);
      return { said: `${n === 1 ? '1 color' : `${n} colors`} ${copy ? 'copied' : 'moved'} from ${there}`, undo };
    });
  // Two become one: what the other has more comes here, behind, and the other is deleted; its editions stay.
  const merge = () =>
    changing.run(async () => {
      const there = other!;
      const mine = { colors: set.colors.map((c) => c.id), follows: { ...set.follows } };
      const more = there.colors.map((c) => c.id).filter((id) => !mine.colors.includes(id));
      const where = { params: { path: { house: house.id, set: there.id } } };
      const now = await write(set.version, { colors: [...mine.colors, ...more] });
      await need(api.DELETE('/houses/{house}/sets/{set}', where));
      open = '';
      return {
        said: `${there.name} is merged into ${set.name}: ${more.length === 1 ? '1 color more' : `${more.length} colors more`}`,
        undo: [way('post', '/houses/{house}/sets/{set}/restore', where), writing(now.version, mine)],
        back: `${there.name} and ${set.name} are two sets again`,
      };
    });
</script>

<p class="mt-1 flex flex-wrap gap-x-4 text-small">
  <button class="link" aria-expanded={open === 'name'} onclick={() => start('name')}>rename</button>
  <button class="link" disabled={changing.busy} onclick={duplicate}>duplicate</button>
  <button class="link" aria-expanded={open === 'move'} onclick={() => start('move')}>take colors of another set</button>
  <button class="link" aria-expanded={open === 'beside'} onclick={() => start('beside')}>hold beside another set</button>
  <button class="link" aria-expanded={open === 'follow'} onclick={() => start('follow')}
    >{set.follows.role || set.follows.tag ? 'what keeps it current' : 'keep it current by role or tag'}</button
  >
  {#if set.current}<button class="link" aria-expanded={open === 'public'} onclick={() => start('public')}>make it public</button
    >{/if}
  <button class="link" disabled={changing.busy} onclick={drop}>delete the set</button>
</p>
{#if set.follows.role || set.follows.tag}<p class="mt-1 text-small">
    Follows the library: every approved color
    {#if set.follows.role}with the role <b>{set.follows.role}</b>{/if}
    {#if set.follows.role && set.follows.tag}
      and{/if}
    {#if set.follows.tag}tagged <b>{set.follows.tag}</b>{/if}. The order is yours.
  </p>{/if}
{#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
{#if open === 'name'}
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <form
    class="mt-2 flex gap-2"
    onkeydown={(e) => e.key === 'Escape' && (open = '')}
    onsubmit={(e) => {
      e.preventDefault();
      void rename();
    }}
  >
    <input
      class="input w-[16rem]"
      aria-label="New name of the set"
      required
      maxlength={limits.data?.nameRunes}
      {@attach opened}
      bind:value={name}
    />
    <button class="btn btn-primary" disabled={changing.busy}>Rename</button>
  </form>
{:else if open === 'public'}
  <form
    class="mt-2 flex flex-wrap items-center gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void makePublic();
    }}
  >
    <button class="btn btn-primary" disabled={changing.busy} {@attach opened}>Copy a public link</button>
    <select class="select w-[10rem]" aria-label="Until when" bind:value={until}
      >{#each untils as u, i (u.name)}<option value={i}>{u.name}</option>{/each}</select
    >
    <span class="text-small"
      >Anybody who has it sees the current edition. <a class="link" href={house.path('send/public')}>What is public</a></span
    >
  </form>
{:else if open === 'follow'}
  <form
    class="mt-2 flex flex-wrap items-center gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void follow({ role, tag });
    }}
  >
    <span>Every approved color with</span>
    <select class="select w-[10rem]" aria-label="Role" bind:value={role} {@attach opened}
      ><option value="">any role</option>{#each roles.list as r (r)}<option value={r}>the role {r}</option>{/each}</select
    >
    <input class="input w-[10rem]" aria-label="Tag" placeholder="any tag" list={`tags-${set.id}`} bind:value={tag} />
    <datalist id={`tags-${set.id}`}
      >{#each tags as t (t)}<option value={t}></option>{/each}</datalist
    >
    <button class="btn btn-primary" disabled={changing.busy || (!role && !tag)}>Keep current</button>
    {#if set.follows.role || set.follows.tag}<button
        type="button"
        class="btn btn-plain"
        disabled={changing.busy}
        onclick={() => follow({})}>By hand again</button
      >{/if}
  </form>
{:else if open === 'move'}
  <div class="mt-2 border border-current p-3">
    <label
      >From <select class="select ml-1 w-[13.33rem]" bind:value={from} onchange={() => (picked = [])} {@attach opened}
        ><option value={0}>choose a set</option>{#each (sets.data ?? []).filter((s) => s.id !== set.id) as s (s.id)}<option
            value={s.id}>{s.name}</option
          >{/each}</select
      ></label
    >
    {#if other}
      <ul class="mt-2 grid grid-cols-3 gap-x-3 gap-y-1">
        {#each other.colors as c (c.id)}
          <li>
            <label class="flex items-center gap-2"
              ><input type="checkbox" class="checkbox" value={c.id} bind:group={picked} /><span
                class="h-7 w-12 shrink-0"
                style:background={c.hex}
              ></span><span class="truncate">{c.name}</span></label
            >
          </li>
        {/each}
      </ul>
      <p class="mt-2 flex gap-3">
        <button class="btn btn-primary" disabled={changing.busy || picked.length === 0} onclick={() => take(false)}
          >Move here</button
        >
        <button class="btn btn-plain" disabled={changing.busy || picked.length === 0} onclick={() => take(true)}>Copy here</button>
        {#if !set.follows.role && !set.follows.tag}<button class="link" disabled={changing.busy} onclick={merge}
            >merge all of {other.name} into this set, and delete it</button
          >{/if}
      </p>
    {/if}
  </div>
{:else if open === 'beside'}
  <div class="mt-2 border border-current p-3">
    <label
      >Beside <select class="select ml-1 w-[13.33rem]" bind:value={from} {@attach opened}
        ><option value={0}>choose a set</option>{#each (sets.data ?? []).filter((s) => s.id !== set.id) as s (s.id)}<option
            value={s.id}>{s.name}</option
          >{/each}</select
      ></label
    >
    {#if other}<SetBeside {set} {other} />{/if}
  </div>
{/if}
