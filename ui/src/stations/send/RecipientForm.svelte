<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { recipientKinds } from '../../lib/engine.gen';
  import { house, useLimits, useSets } from '../../lib/house.svelte';
  import { copy } from '../../lib/state.svelte';
  import { untrack } from 'svelte';
  import { called, usePackings } from './packings';
  import { kinds, ways } from './send';

  // A recipient, new or known: its kind, what it takes, and how it gets there.
  let { known, sets: given, done }: { known?: Schema['Recipient']; sets?: number[]; done: (id?: number) => void } = $props();

  const limits = useLimits();
  const packings = usePackings();
  const sets = useSets();
  const changing = useChange(['sets', 'recipients', 'sheet']);
  // What each kind takes unless it is told otherwise.
  const usual = (kind: string) => (packings.data ?? []).filter((p) => p.usual.includes(kind)).map((p) => p.name);
  const first = untrack(() => ({
    name: known?.name ?? '',
    kind: (known?.kind ?? recipientKinds[0].name) as string,
    note: known?.note ?? '',
    packings: known?.packings ?? usual(recipientKinds[0].name),
    ways: (known?.ways ?? ['pickup']) as string[],
    email: known?.email ?? '',
    sets: known ? known.holdings.map((h) => h.set) : (given ?? []),
  }));
  let form = $state(first);
  let more = $state(untrack(() => known !== undefined));
  $effect(() => {
    if (!known && packings.data && !more && form.packings.length === 0) form.packings = usual(form.kind); // they have just come
  });
  // Those for the kind and those that are taken already; any other by what people call it.
  let words = $state('');
  const offered = $derived(
    (packings.data ?? []).filter(
      (p) =>
        form.packings.includes(p.name) ||
        (words.trim() ? called(p, words) : p.for === form.kind || p.for === 'any' || p.usual.includes(form.kind)),
    ),
  );

  const save = () =>
    changing.run(async () => {
      const { name, kind, note, email } = form;
      const body = {
        name,
        kind,
        note,
        email,
        packings: form.packings.length > 0 ? [...form.packings] : undefined,
        ways: [...form.ways],
        sets: [...form.sets],
      };
      if (known) {
        const path = { house: house.id, recipient: known.id };
        const was = known;
        const now = await need(
          api.PUT('/houses/{house}/recipients/{recipient}', { params: { path }, body: { ...body, version: was.version } }),
        );
        done(was.id);
        const before = {
          name: was.name,
          kind: was.kind,
          note: was.note,
          email: was.email,
          packings: was.packings,
          ways: was.ways,
          sets: was.holdings.map((h) => h.set),
          version: now.version,
        };
        return {
          said: `${name} is changed`,
          undo: [way('put', '/houses/{house}/recipients/{recipient}', { params: { path }, body: before })],
        };
      }
      const r = await need(api.POST('/houses/{house}/recipients', { params: { path: { house: house.id } }, body }));
      if (r.path) await copy(location.origin + r.path, `The address of ${name}`);
      done(r.id);
      const path = { house: house.id, recipient: r.id };
      return {
        said: r.path ? `The address of ${name} copied` : `${name} is a recipient now`,
        undo: [way('delete', '/houses/{house}/recipients/{recipient}', { params: { path } })],
      };
    });
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<form
  class="my-2 grid gap-2 border border-current p-3"
  onkeydown={(e) => e.key === 'Escape' && done()}
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <div class="grid grid-cols-[1fr_10rem] gap-2">
    <input
      class="input w-full"
      placeholder="team or person"
      aria-label="Name of the recipient"
      required
      maxlength={limits.data?.nameRunes}
      {@attach opened}
      bind:value={form.name}
    />
    <select
      class="select w-full"
      aria-label="Kind of recipient"
      value={form.kind}
      onchange={(e) => {
        form.kind = e.currentTarget.value;
        form.packings = usual(form.kind);
      }}
      >{#each Object.entries(kinds) as [key, name] (key)}<option value={key}>{name}</option>{/each}</select
    >
  </div>
  <p class="text-small">
    Takes {form.packings.map((n) => packings.data?.find((p) => p.name === n)?.label ?? n).join(', ')};
    {form.ways.map((w) => ways[w]).join(', ')}.
    <button type="button" class="link" aria-expanded={more} onclick={() => (more = !more)}>{more ? 'less' : 'change that'}</button>
  </p>
  {#if more}
    <fieldset>
      <legend class="text-small font-bold">How it gets there</legend>
      {#each Object.entries(ways) as [key, name] (key)}<label class="mr-4 inline-flex items-center gap-2"
          ><input type="checkbox" class="checkbox" value={key} bind:group={form.ways} />{name}</label
        >{/each}
    </fieldset>
    {#if form.ways.includes('mail')}<input
        class="input w-full"
        type="email"
        placeholder="mail address"
        aria-label="Mail address"
        required
        bind:value={form.email}
      />{/if}
    <fieldset>
      <legend class="text-small font-bold">What it takes</legend>
      <input
        class="input my-1 w-full"
        type="search"
        placeholder="what they use: slides, captions, drawing program, website"
        aria-label="Find a form by what it is for"
        autocomplete="off"
        bind:value={words}
        onkeydown={(e) => e.key === 'Enter' && e.preventDefault()}
      />
      <div class="grid grid-cols-2 gap-x-3">
        {#each offered as p (p.name)}<label class="flex items-center gap-2"
            ><input type="checkbox" class="checkbox" value={p.name} bind:group={form.packings} /><span class="truncate"
              >{p.label}</span
            ></label
          >{/each}
      </div>
    </fieldset>
    <fieldset>
      <legend class="text-small font-bold">Which sets it gets</legend>
      {#each sets.data ?? [] as s (s.id)}<label class="mr-4 inline-flex items-center gap-2"
          ><input type="checkbox" class="checkbox" value={s.id} bind:group={form.sets} />{s.name}</label
        >{/each}
    </fieldset>
    <input class="input w-full" placeholder="note" aria-label="Note" bind:value={form.note} />
  {/if}
  {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
  <p class="flex gap-3">
    <button class="btn btn-primary" disabled={changing.busy || form.ways.length === 0 || (more && form.packings.length === 0)}
      >{known ? 'Keep it so' : form.ways.includes('pickup') ? 'Add, and copy its address' : 'Add'}</button
    >
    <button type="button" class="btn btn-plain" onclick={() => done()}>Cancel</button>
  </p>
</form>
