<script lang="ts">
  import { type Schema, sentence } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { engine, newest } from '../../lib/engine';
  import { house, useLedger, useLimits, useSets, useTray } from '../../lib/house.svelte';
  import { bring } from './incoming.svelte';

  // The way out of every way in: onto the tray, or at once into the library and on a swatch set.
  let { colors, proposed = '', done }: { colors: Schema['NewCandidate'][]; proposed?: string; done?: () => void } = $props();

  const limits = useLimits();

  const sets = useSets();
  const changing = useChange(['tray', 'ledger', 'sets']);
  let set = $state('');
  let replace = $state(false);
  const known = $derived(sets.data?.find((s) => s.name.toLowerCase() === set.trim().toLowerCase()));
  const count = $derived(colors.length === 1 ? '1 color' : `${colors.length} colors`);

  const named = $derived(colors.every((c) => c.name?.trim()));

  // At once into the library means that nobody sees the tray in between: colors without a name show theirs here.
  const ledger = useLedger();
  const tray = useTray();
  const nameless = $derived(set.trim() ? colors.filter((c) => !c.name?.trim()) : []);
  let names = $state.raw<string[]>([]);
  const call = newest(
    (args: { values: string[]; taken: string[] }) => engine.ask('names', args),
    (n) => (names = n),
    () => (names = []),
  );
  $effect(() => {
    const taken = [...(ledger.data?.colors ?? []), ...(tray.data ?? []), ...colors].map((c) => c.name ?? '');
    if (nameless.length > 0) call({ values: nameless.map((c) => c.value), taken });
    else names = [];
  });

  const go = () =>
    changing.run(async () => {
      try {
        const all = colors.map((c) => ({ ...c, name: c.name?.trim() || names[nameless.indexOf(c)] }));
        const said = await bring(all, set, replace);
        set = '';
        done?.();
        return said;
      } catch (e) {
        if (set.trim()) throw new Error(`${sentence(e)} The colors wait on the tray.`, { cause: e });
        throw e;
      }
    });
</script>

<form
  class="flex flex-wrap items-center gap-3"
  onsubmit={(e) => {
    e.preventDefault();
    if (colors.length > 0) void go();
  }}
>
  <button class="btn btn-primary" disabled={changing.busy || colors.length === 0 || !house.contributor}>
    {#if set.trim()}Admit {count} as {known ? known.name : set.trim()}{:else}Put {count} on the tray{/if}
  </button>
  {#if house.keeper}
    <label class="flex items-center gap-2"
      >as a swatch set
      <input
        class="input w-[12rem]"
        list="bring-sets"
        placeholder="name, or leave empty"
        maxlength={limits.data?.nameRunes}
        bind:value={set}
      />
    </label>
    <datalist id="bring-sets"
      >{#each sets.data ?? [] as s (s.id)}<option value={s.name}></option>{/each}</datalist
    >
    {#if proposed && !set.trim()}
      <button
        class="btn btn-plain"
        type="button"
        disabled={changing.busy || colors.length === 0}
        onclick={() => {
          set = proposed;
          if (named) void go(); // else one looks at the names first
        }}>{named ? `Admit ${count} as ${proposed}` : `as a set: ${proposed}`}</button
      >
    {/if}
    {#if known}
      <select class="select w-auto" aria-label="Into the set that is there" bind:value={replace}>
        <option value={false}>add to its {known.colors.length}</option>
        <option value={true}>replace its {known.colors.length}</option>
      </select>
    {/if}
  {/if}
  {#if nameless.length > 0 && names.length > 0}
    <p class="w-full">
      Without a name of {names.length === 1 ? 'its' : 'their'} own: {names.slice(0, 8).join(', ')}{names.length > 8
        ? ` and ${names.length - 8} more`
        : ''}. Put on the tray, {names.length === 1 ? 'it is' : 'they are'} named first.
    </p>
  {/if}
  {#if changing.problem}<p role="alert" class="w-full border-l-4 border-current pl-3">{changing.problem}</p>{/if}
</form>
