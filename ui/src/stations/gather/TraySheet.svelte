<script lang="ts">
  import { screen } from '../../lib/screen.svelte';
  import { admitted, takeBack } from '../../lib/admission';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { Dragging, moved } from '../../lib/drag';
  import { house, useSets, useLimits } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { tick } from 'svelte';

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
  });
  const f = $derived(form.now);

  // A color that the library has is meant, until somebody wants another name for its value.
  const stands = (c: Schema['Candidate']) =>
    f.stands[c.id] ?? (f.own?.[c.id] ? undefined : c.notes.find((n) => n.kind === 'same-value')?.color?.id);
  const keepOwn = (c: Schema['Candidate']) => {
    delete f.stands[c.id];
    f.own = { ...f.own, [c.id]: true };
  };

  let typing = $state<Record<number, string>>({}); // names that are on their way
  const chosen = $derived(candidates.filter((c) => !f.left[c.id]));
  const ready = $derived(
    chosen.filter(
      (c) => stands(c) === undefined && !c.notes.some((n) => n.blocks && !(n.kind === 'unnamed' && typing[c.id]?.trim())),
    ),
  );
  const standing = $derived(chosen.filter((c) => stands(c) !== undefined));
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

  // What was given and could decide: the kinds of value, in words.
  type Kind = NonNullable<Schema['CandidateChange']['decides']>;
  const kinds = (c: Schema['Candidate']): [Kind, string][] => {
    const all: [Kind, string | undefined][] = [
      ['screen', c.screen],
      ['build', c.cmyk && `CMYK ${c.cmyk}`],
      ['ink', c.spot],
    ];
    return c.lab ? [] : all.filter((k): k is [Kind, string] => !!k[1]);
  };
  const decides = (c: Schema['Candidate']) => (c.master?.kind === 'build' || c.master?.kind === 'ink' ? c.master.kind : 'screen');
  const decide = (c: Schema['Candidate'], kind: Kind) =>
    changing.run(async () => void (await need(api.PATCH('/houses/{house}/tray/{item}', { ...at(c.id), body: { decides: kind } }))));
  const values = (c: Schema['Candidate']) => {
    const printed = c.master?.press ?? c.master?.stock;
    return [
      printed && !c.cmyk && !c.spot ? `${c.master!.text} on ${printed}` : '',
      c.screen || (printed ? '' : c.hex),
      c.cmyk && `CMYK ${c.cmyk}`,
      c.spot,
      c.lab && `Lab ${c.lab}`,
      printed && !c.screen && `${c.hex} on screens`,
    ].filter(Boolean);
  };

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
      const use = standing.map((c) => ({ item: c.id, color: stands(c)! }));
      const body = {
        items: taken.map((c) => c.id),
        use,
        group: f.group.trim() || undefined,
        role: f.role || undefined,
        set: onSet || undefined,
      };
      const done = await need(api.POST('/houses/{house}/tray/admit', { ...path, body }));
      [f.stands, f.own, f.left, f.set] = [{}, {}, {}, ''];
      return {
        ...admitted(done.colors, use.length, onSet, [...takeBack(done.colors), ...again(path, taken)]),
        back:
          done.colors.length === 1
            ? `${done.colors[0]?.name} is on the tray again`
            : `${done.colors.length} colors are on the tray again`,
      };
    });
</script>

<aside class="flex min-h-0 flex-col bg-base-200" aria-label="Tray, in detail">
  <div class="flex items-baseline justify-between px-5 pt-5">
    <h2 class="text-[19px]">Tray</h2>
    <span>{candidates.length === 0 ? 'empty' : candidates.length === 1 ? '1 candidate' : `${candidates.length} candidates`}</span>
  </div>
  {#if candidates.length === 0}
    <p class="px-5 pt-3">Candidates wait here to be named and admitted.</p>
  {:else}
    <ul class="mt-3 min-h-0 flex-1 overflow-y-auto px-5">
      {#each candidates as c, i (c.id)}
        {@const near = c.notes.find((n) => n.color)}
        {@const twin = candidates.find((o) => o.id === c.notes.find((n) => n.other)?.other)}
        <li
          class="rule grid grid-cols-[18px_64px_minmax(0,1fr)_66px] gap-3 border-b py-2"
          {@attach dragging.item(c.id, !changing.busy)}
        >
          <input
            type="checkbox"
            class="checkbox mt-1"
            aria-label={`Take ${c.name || c.hex} along`}
            checked={!f.left[c.id]}
            onchange={(e) => (f.left[c.id] = !e.currentTarget.checked)}
          />
          <span class="flex min-h-12" aria-hidden="true">
            <span class="flex-1" style:background={screen.face(c)}></span>
            {#each c.notes.filter((n) => n.look) as n (n.text)}<span class="flex-1" style:background={n.look}></span>{/each}
            {#if near?.color ?? twin}<span class="flex-1" style:background={near?.color?.hex ?? twin?.hex}></span>{/if}
          </span>
          <span class="min-w-0">
            <input
              class="input w-full font-bold"
              aria-label={`Name of ${c.hex}`}
              placeholder="name it"
              maxlength={limits.data?.nameRunes}
              value={c.name}
              disabled={stands(c) !== undefined}
              onkeydown={(e) => e.key === 'Enter' && next(e.currentTarget)}
              oninput={(e) => (typing[c.id] = e.currentTarget.value)}
              onchange={(e) => rename(c, e.currentTarget.value)}
            />
            <span class="mt-1 block font-mono text-small">{values(c).join(', ')}</span>
            {#if kinds(c).length > 1}<label class="mt-1 flex items-center gap-2 text-small"
                >decides
                <select
                  class="select min-w-0 flex-1"
                  aria-label={`What decides ${c.name || c.hex}`}
                  value={decides(c)}
                  disabled={changing.busy}
                  onchange={(e) => decide(c, e.currentTarget.value as Kind)}
                  >{#each kinds(c) as [kind, text] (kind)}<option value={kind}>{text}</option>{/each}</select
                ></label
              >{/if}
            {#each c.notes as n (n.text)}
              <span class="block text-small"
                >{#if n.blocks && stands(c) === undefined}<b>{n.text}</b>{:else}{n.text}{/if}</span
              >
            {/each}
            {#if near?.color}
              {#if stands(c) !== undefined}
                <span class="block text-small"
                  ><b>{near.color.name} is used instead</b>
                  <button class="ml-2 link" onclick={() => keepOwn(c)}>no, keep this one</button></span
                >
              {:else}<button class="block text-small link" onclick={() => (f.stands[c.id] = near.color!.id)}
                  >use {near.color.name} instead</button
                >{/if}
            {/if}
            {#if changing.blamed[c.id]}<span class="block text-small font-bold" role="alert">{changing.blamed[c.id]}</span>{/if}
          </span>
          <span class="flex flex-col items-end text-small">
            <button
              class="px-1 link"
              aria-label={`Remove ${c.name || c.hex} from the tray`}
              disabled={changing.busy}
              onclick={() => remove(c)}>remove</button
            >
            <span class="flex gap-2 px-1">
              {#if i > 0}<button
                  class="link"
                  aria-label={`Move ${c.name || c.hex} up`}
                  disabled={changing.busy}
                  onclick={() => shift(i, -1)}>up</button
                >{/if}
              {#if i < candidates.length - 1}<button
                  class="link"
                  aria-label={`Move ${c.name || c.hex} down`}
                  disabled={changing.busy}
                  onclick={() => shift(i, 1)}>down</button
                >{/if}
            </span>
          </span>
        </li>
      {/each}
    </ul>
    <div class="rule grid gap-3 border-t p-5">
      <div class="grid grid-cols-3 gap-3">
        <label class="grid gap-1 text-small"
          >Group
          <input class="input w-full" list="groups" placeholder="none" maxlength={limits.data?.nameRunes} bind:value={f.group} />
          <datalist id="groups"
            >{#each groups as g (g)}<option value={g}></option>{/each}</datalist
          >
        </label>
        <label class="grid gap-1 text-small"
          >Role
          <select class="select w-full" bind:value={f.role}>
            <option value="">none</option>
            {#each ['primary', 'secondary', 'accent', 'neutral'] as r (r)}<option>{r}</option>{/each}
          </select>
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
        <button class="btn btn-primary" disabled={changing.busy || ready.length + standing.length === 0} onclick={admit}>
          {#if ready.length === 0 && standing.length > 0}Use {standing.length === 1
              ? 'the existing color'
              : `${standing.length} existing colors`}
          {:else}{house.keeper ? 'Admit' : 'Propose'} {ready.length === 1 ? '1 color' : `${ready.length} colors`}{/if}
        </button>
        {#if ready.length + standing.length < chosen.length}<span class="text-small"
            >{chosen.length - ready.length - standing.length === 1
              ? '1 more needs a name'
              : `${chosen.length - ready.length - standing.length} more need a name`}</span
          >{/if}
        <button class="ml-auto link" disabled={changing.busy} onclick={clear}>clear the tray</button>
      </div>
    </div>
  {/if}
</aside>
