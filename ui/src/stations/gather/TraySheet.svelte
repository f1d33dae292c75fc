<script lang="ts">
  import RoleField from '../../lib/RoleField.svelte';
  import { admitted, renewedBack, takeBack } from '../../lib/admission';
  import { setsBack, way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { Dragging, moved } from '../../lib/drag';
  import { house, useLedger, useSets, useLimits } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { tick } from 'svelte';
  import Renewed, { renewals } from './Renewed.svelte';
  import TrayItem from './TrayItem.svelte';
  import NameAll from './NameAll.svelte';

  let { candidates, groups }: { candidates: Schema['Candidate'][]; groups: string[] } = $props();

  const limits = useLimits();

  const changing = useChange(['tray', 'ledger', 'sets']);
  const sets = useSets();
  const form = kept(`tray-${house.id}`, {
    group: '',
    role: '',
    set: '',
    stands: {} as Record<number, number>, // candidate: the library color that is used instead
    own: {} as Record<number, boolean>, // candidates that have the value of one and are wanted beside it
    left: {} as Record<number, boolean>,
    each: {} as Record<number, { group?: string; role?: string }>, // what one gets instead of the rest
  });
  const f = $derived(form.now);
  const renewed = renewals();

  // A color that the library has is meant, until somebody wants another name for its value; and one that it has with another value is
  // to change, until somebody says otherwise.
  const ledger = useLedger();
  const retired = (id?: number) => ledger.data?.colors.find((k) => k.id === id)?.status === 'retired';
  const isSame = (c: Schema['Candidate'], n: Schema['CandidateNote']) =>
    n.kind === 'same-value' || (n.kind === 'name-taken' && !n.change && n.color?.hex === c.hex && !retired(n.color.id));
  const stands = (c: Schema['Candidate']) =>
    f.stands[c.id] ?? (f.own?.[c.id] || amends(c) ? undefined : c.notes.find((n) => isSame(c, n))?.color?.id);
  const amends = (c: Schema['Candidate']) =>
    f.own?.[c.id] || f.stands[c.id] !== undefined ? undefined : c.notes.find((n) => n.change);
  const keepOwn = (c: Schema['Candidate']) => {
    delete f.stands[c.id];
    f.own = { ...f.own, [c.id]: true };
  };

  let typing = $state<Record<number, string>>({}); // names that are on their way
  const chosen = $derived(candidates.filter((c) => !f.left[c.id]));
  const ready = $derived(
    chosen.filter(
      (c) =>
        stands(c) === undefined && !amends(c) && !c.notes.some((n) => n.blocks && !(n.kind === 'unnamed' && typing[c.id]?.trim())),
    ),
  );
  const standing = $derived(chosen.filter((c) => stands(c) !== undefined));
  const amending = $derived(chosen.filter(amends));
  const done = $derived(ready.length + standing.length + amending.length);
  const here = $derived({ params: { path: { house: house.id } } });
  const at = (item: number) => ({ params: { path: { house: house.id, item } } });

  // Names are kept one after the other while one goes on typing; what was typed last is admitted.
  const naming = useChange(['tray']);
  let named: Promise<unknown> = Promise.resolve();
  const rename = (c: Schema['Candidate'], name: string) => {
    const where = at(c.id);
    if (name.trim() !== c.name)
      named = named.then(() =>
        naming.run(async () => void (await need(api.PATCH('/houses/{house}/tray/{item}', { ...where, body: { name } })))),
      );
  };
  function next(field: HTMLInputElement) {
    const fields = [...(field.closest('ul')?.querySelectorAll<HTMLInputElement>('input.input:not(:disabled)') ?? [])];
    const to = fields[fields.indexOf(field) + 1];
    if (to) to.select();
    else field.blur();
  }

  // What was taken off comes back as it was, and where it was.
  const again = (path: typeof here, list: Schema['Candidate'][]) => {
    const colors = list.map((c) => {
      const { name, hex, master, cmyk, spot, lab, source, origin = 'paste', position } = c;
      const [value, printed] = [master?.value ?? hex, master?.kind === 'build' || master?.kind === 'ink'];
      const decides = lab || printed ? undefined : ('screen' as const);
      const screen = printed ? c.screen : undefined;
      return { name, value, cmyk, spot, screen, decides, lab, source, origin, position } satisfies Schema['NewCandidate'];
    });
    return [way('post', '/houses/{house}/tray/colors', { ...path, body: { colors } })];
  };

  type Kind = NonNullable<Schema['CandidateChange']['decides']>;
  const decide = (c: Schema['Candidate'], kind: Kind) =>
    changing.run(async () => void (await need(api.PATCH('/houses/{house}/tray/{item}', { ...at(c.id), body: { decides: kind } }))));
  // What the button does.
  const colors = (n: number) => (n === 1 ? '1 color' : `${n} colors`);
  const all = $derived.by(() => {
    const [news, changes] = [ready.length, amending.length];
    if (changes > 0 && house.keeper) return news > 0 ? `Change ${changes}, admit ${colors(news)}` : `Change ${colors(changes)}`;
    if (changes > 0)
      return news > 0
        ? `Suggest ${changes}, propose ${colors(news)}`
        : `Suggest ${changes === 1 ? '1 value' : `${changes} values`}`;
    if (news > 0 || standing.length === 0) return `${house.keeper ? 'Admit' : 'Propose'} ${colors(news)}`;
    return standing.length === 1 ? 'Use the existing color' : `Use ${standing.length} existing colors`;
  });

  let writing = $state(false); // names for all at once

  const remove = (c: Schema['Candidate']) =>
    changing.run(async () => {
      const path = here;
      await need(api.DELETE('/houses/{house}/tray/{item}', at(c.id)));
      return { said: `${c.name || c.hex} taken off the tray`, undo: again(path, [c]) };
    });

  const clear = () =>
    changing.run(async () => {
      const [path, list] = [here, candidates];
      await need(api.DELETE('/houses/{house}/tray', path));
      return { said: 'The tray is empty', undo: again(path, list) };
    });

  // By hand: a candidate changes places with its neighbor, or takes the place of another one.
  const order = (items: number[]) =>
    changing.run(async () => void (await need(api.PUT('/houses/{house}/tray/order', { ...here, body: { items } }))));
  // Names that are paths say their group: "Primary/500".
  const paths = $derived(
    candidates.flatMap((c) => {
      const group = c.name.includes('/') ? c.name.split('/')[0]!.trim() : '';
      return group && f.each?.[c.id]?.group === undefined && group !== f.group.trim() ? [{ id: c.id, group }] : [];
    }),
  );
  const byPath = () => {
    f.each = { ...f.each, ...Object.fromEntries(paths.map((p) => [p.id, { ...f.each?.[p.id], group: p.group }])) };
  };
  const ids = $derived(candidates.map((c) => c.id));
  const dragging = new Dragging<number>((carried, onto) => void order(moved(ids, carried, onto)));
  function shift(i: number, by: number) {
    const [carried, onto] = [ids[i], ids[i + by]];
    if (carried !== undefined && onto !== undefined) void order(moved(ids, carried, onto));
  }

  const admit = () =>
    changing.run(async () => {
      await named; // and what is said of the names then
      await tick();
      const onSet = f.set.trim();
      const path = here;
      const taken = ready;
      const changed = amending;
      const use = standing.map((c) => ({ item: c.id, color: stands(c)! }));
      const amend = changed
        .map((c) => ({ c, n: amends(c)! }))
        .map(({ c, n }) => ({ item: c.id, color: n.color!.id, version: n.change!.version }));
      const before = onSet ? sets.data : undefined;
      const body = {
        items: taken.map((c) => c.id),
        use,
        amend,
        group: f.group.trim() || undefined,
        role: f.role || undefined,
        each: taken.flatMap((c) => (f.each?.[c.id] ? [{ item: c.id, ...f.each[c.id] }] : [])),
        set: onSet || undefined,
      };
      const done = await need(api.POST('/houses/{house}/tray/admit', { ...path, body }));
      [f.stands, f.own, f.left, f.each, f.set] = [{}, {}, {}, {}, ''];
      const on = [...taken, ...changed];
      if (done.renewed?.length) renewed.now = { at: done.at!, colors: done.renewed };
      const off = onSet ? await setsBack(before).catch(() => []) : []; // it is admitted, whatever comes of that
      return {
        ...admitted(done, use.length, onSet, [...renewedBack(done.renewed), ...off, ...takeBack(done.colors), ...again(path, on)]),
        back: on.length === 1 ? `${on[0]?.name} is on the tray again` : `${on.length} colors are on the tray again`,
      };
    });
</script>

<aside class="flex min-h-0 flex-col bg-base-200" aria-label="Tray, in detail">
  <div class="flex items-baseline justify-between px-5 pt-5">
    <h2 class="text-[1.27rem]">Tray</h2>
    <span>{candidates.length === 0 ? 'empty' : candidates.length === 1 ? '1 candidate' : `${candidates.length} candidates`}</span>
  </div>
  <Renewed />
  {#if candidates.length > 1}
    <p class="px-5 text-small">
      <button class="link" aria-expanded={writing} onclick={() => (writing = !writing)}>name them all</button>
    </p>
  {/if}
  {#if paths.length > 0}
    <p class="px-5 text-small">
      <button class="link" onclick={byPath}
        >group {paths.length === 1 ? 'it' : 'them'} as {paths.length === 1 ? 'its name says' : 'their names say'}: {[
          ...new Set(paths.map((p) => p.group)),
        ]
          .slice(0, 4)
          .join(', ')}</button
      >
    </p>
  {/if}
  {#if writing && candidates.length > 1}
    <NameAll {candidates} named={() => named} {changing} close={() => (writing = false)} />
  {/if}
  {#if candidates.length === 0}
    <p class="px-5 pt-3">Candidates wait here to be named and admitted.</p>
  {:else}
    <ul class="mt-3 min-h-0 flex-1 overflow-y-auto px-5">
      {#each candidates as c, i (c.id)}
        <TrayItem
          {c}
          twin={candidates.find((o) => o.id === c.notes.find((n) => n.other)?.other)}
          taken={!f.left[c.id]}
          take={(on) => (f.left[c.id] = !on)}
          amends={amends(c)}
          stands={stands(c) !== undefined}
          use={(color) => (f.stands[c.id] = color)}
          keepOwn={() => keepOwn(c)}
          typed={(text) => (typing[c.id] = text)}
          rename={(name) => rename(c, name)}
          {next}
          group={f.each?.[c.id]?.group}
          role={f.each?.[c.id]?.role}
          rest={{ group: f.group.trim(), role: f.role }}
          place={(to) => (f.each = { ...f.each, [c.id]: { ...f.each?.[c.id], ...to } })}
          decide={(kind) => decide(c, kind)}
          busy={changing.busy}
          blamed={changing.blamed[c.id]}
          remove={() => remove(c)}
          up={i > 0 ? () => shift(i, -1) : undefined}
          down={i < candidates.length - 1 ? () => shift(i, 1) : undefined}
          drag={dragging.item(c.id, !changing.busy)}
        />
      {/each}
    </ul>
    <div class="rule grid gap-3 border-t p-5">
      <div class="grid grid-cols-3 gap-3">
        <label class="grid gap-1 text-small"
          >Group of all
          <input class="input w-full" list="groups" placeholder="none" maxlength={limits.data?.nameRunes} bind:value={f.group} />
          <datalist id="groups"
            >{#each groups as g (g)}<option value={g}></option>{/each}</datalist
          >
        </label>
        <label class="grid gap-1 text-small"
          >Role of all
          <RoleField label="Role of all" bind:value={f.role} />
        </label>
        {#if house.keeper}
          <label class="grid gap-1 text-small"
            >Swatch set
            <input class="input w-full" list="tray-sets" placeholder="none" maxlength={limits.data?.nameRunes} bind:value={f.set} />
            <datalist id="tray-sets"
              >{#each sets.data ?? [] as s (s.id)}<option value={s.name}></option>{/each}</datalist
            >
          </label>
        {/if}
      </div>
      {#if changing.problem || naming.problem}<p role="alert" class="border-l-4 border-current pl-3">
          {changing.problem || naming.problem}
        </p>{/if}
      <div class="flex items-center gap-4">
        <button class="btn btn-primary" disabled={changing.busy || done === 0} onclick={admit}>{all}</button>
        {#if done < chosen.length}<span class="text-small"
            >{chosen.length - done === 1 ? '1 more needs a name' : `${chosen.length - done} more need a name`}</span
          >{/if}
        <button class="ml-auto link" disabled={changing.busy} onclick={clear}>clear the tray</button>
      </div>
    </div>
  {/if}
</aside>
