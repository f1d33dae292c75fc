<script lang="ts">
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest } from '../../lib/engine';
  import { useLedger, useTray } from '../../lib/house.svelte';
  import { booth, booths } from '../../lib/state.svelte';
  import { comparison, type Compared } from '../../lib/comparison.svelte';

  const ledger = useLedger();
  const tray = useTray();
  let value = $state('');
  let problem = $state('');
  let apart = $state<{ deltaE: number; word: string }[][]>([]);

  const show = newest(
    (hexes: string[]) => engine.ask('apart', { values: hexes, among: hexes }),
    (r) => (apart = r),
    () => (apart = []),
  );
  $effect(() => show(comparison.items.map((c) => c.hex)));

  async function add() {
    const typed = value.trim();
    const c = ledger.data?.colors.find((x) => x.name.toLowerCase() === typed.toLowerCase());
    try {
      const hex = c?.hex ?? (await engine.ask('look', { value: typed })).hex;
      comparison.add([{ label: c?.name ?? typed, hex }]);
      [value, problem] = ['', ''];
    } catch (e) {
      problem = `${(e as Error).message}.`;
    }
  }

  const faces = $derived<Compared[]>(
    (ledger.data?.colors ?? []).flatMap((c) => [
      { label: `${c.name}, press`, hex: c.press.hex },
      { label: `${c.name}, ink ${c.ink.code}`, hex: c.ink.hex },
    ]),
  );
</script>

<form
  class="flex flex-wrap items-end gap-3"
  onsubmit={(e) => {
    e.preventDefault();
    if (value.trim()) void add();
  }}
>
  <label class="grid gap-1 text-small"
    >A library color or any value
    <input class="input w-[14rem]" list="compare-colors" spellcheck="false" bind:value />
  </label>
  <datalist id="compare-colors"
    >{#each ledger.data?.colors ?? [] as c (c.id)}<option value={c.name}></option>{/each}</datalist
  >
  <button class="btn btn-primary" disabled={value.trim() === ''}>Add</button>
  <label class="grid gap-1 text-small"
    >or a face
    <select
      class="select w-[14.67rem]"
      value=""
      onchange={(e) => {
        const f = faces[Number(e.currentTarget.value)];
        if (f) comparison.add([f]);
        e.currentTarget.value = '';
      }}
    >
      <option value="">press and ink faces</option>
      {#each faces as f, i (f.label)}<option value={i}>{f.label}</option>{/each}
    </select>
  </label>
  {#if tray.data?.length}<button
      type="button"
      class="btn btn-plain"
      onclick={() => comparison.add((tray.data ?? []).map((c) => ({ label: c.name || c.hex, hex: c.hex })))}>Add the tray</button
    >{/if}
  {#if comparison.items.length}<button type="button" class="ml-auto link" onclick={() => comparison.set([])}>start over</button
    >{/if}
</form>
<p class="mt-2 text-small">
  Distances here are between the colors as the screen shows them. The ledger and the sheet measure to the ink itself, by its Lab,
  which a screen can’t always show.
</p>
{#if problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{problem}</p>{/if}
{#if comparison.items.length < 2}
  <p class="mt-6 max-w-[37.33rem]">
    Two to six things edge to edge: colors of the library, their press and ink faces, candidates, values. Add them here, or choose
    rows in the ledger and press “compare”.
  </p>
{/if}
{#if comparison.items.length > 0}
  <div class="mt-4 flex h-56" role="img" aria-label={comparison.items.map((c) => `${c.label} ${c.hex}`).join(', ')}>
    {#each comparison.items as c, i (i)}<span class="flex-1" style:background={c.hex}></span>{/each}
  </div>
  <ul class="flex">
    {#each comparison.items as c, i (i)}
      <li class="min-w-0 flex-1 pr-2 pt-1 text-small">
        <b class="block truncate" title={c.label}>{c.label}</b><span class="font-mono">{c.hex}</span>
        <span class="flex gap-2">
          {#if i > 0}<button
              class="link"
              aria-label={`Move ${c.label} to the left`}
              onclick={() => {
                const l = [...comparison.items];
                [l[i - 1], l[i]] = [l[i]!, l[i - 1]!];
                comparison.set(l);
              }}>left</button
            >{/if}
          <button
            class="link"
            aria-label={`Take ${c.label} away`}
            onclick={() => comparison.set(comparison.items.filter((_, k) => k !== i))}>away</button
          >
        </span>
      </li>
    {/each}
  </ul>
  {#if apart.length === comparison.items.length && apart.length > 1}
    <h2 class="mt-5">Distance of each pair</h2>
    <table class="mt-1 border-collapse">
      <tbody>
        {#each comparison.items as a, i (i)}
          {#each comparison.items.slice(i + 1) as b, k (k)}
            {@const d = apart[i]?.[i + 1 + k]}
            <tr class="rule border-b">
              <td class="py-1 pr-3"
                ><span class="grid h-7 w-20 grid-cols-2" aria-hidden="true"
                  ><span style:background={a.hex}></span><span style:background={b.hex}></span></span
                ></td
              >
              <td class="pr-8">{a.label} and {b.label}</td>
              <td
                >{#if d}<Distance value={d.deltaE} word={d.word} />{/if}</td
              >
            </tr>
          {/each}
        {/each}
      </tbody>
    </table>
  {/if}
  <p class="mt-4 flex items-center gap-3 text-small">
    Seen in the {booth.now} booth;
    {#each booths.filter((b) => b !== booth.now) as b (b)}<button class="link" onclick={() => booth.set(b)}>{b}</button>{/each}
  </p>
{/if}
