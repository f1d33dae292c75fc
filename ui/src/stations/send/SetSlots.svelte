<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { slotNames } from './send';

  // What a set is given by hand for applications: slots of an office theme, boxes of a video application.
  let { set }: { set: Schema['SwatchSet'] } = $props();

  const changing = useChange(['sets']);
  const path = $derived({ house: house.id, set: set.id });
  const slots = $derived(set.slots.filter((s) => s.given && s.color).map((s) => ({ slot: s.slot, color: s.color ?? 0 })));
  const put = (part: Partial<Schema['SetContent']>, said: string) => {
    const before = { slots, boxes: set.boxes };
    const content = (version: number, more: Partial<Schema['SetContent']>) => ({
      params: { path },
      body: { name: set.name, version, colors: set.colors.map((c) => c.id), ...more },
    });
    return changing.run(async () => {
      const now = await need(api.PUT('/houses/{house}/sets/{set}', content(set.version, part)));
      return { said, undo: [way('put', '/houses/{house}/sets/{set}', content(now.version, before))] };
    });
  };

  let chosen = $state('');
  const at = $derived(set.slots.find((s) => s.slot === chosen));
  async function give(color: number) {
    const rest = slots.filter((s) => s.slot !== chosen);
    const name = set.colors.find((c) => c.id === color)?.name;
    const slot = slotNames[chosen] ?? chosen;
    const now = color ? [...rest, { slot: chosen, color }] : rest;
    const ok = await put({ slots: now }, color ? `${name} is ${slot} from now on` : `${slot} is filled by the rules again`);
    if (ok) chosen = '';
  }

  // The boxes: those that were placed by hand first, then the rest of the set.
  const boxes = $derived.by(() => {
    const ids = [...set.boxes.order, ...set.colors.map((c) => c.id).filter((id) => !set.boxes.order.includes(id))];
    const list = ids.flatMap((id) => set.colors.find((c) => c.id === id) ?? []);
    return set.boxes.count > 0 ? list.slice(0, set.boxes.count) : list;
  });
  const left = $derived(set.colors.filter((c) => !boxes.some((b) => b.id === c.id)).length);
  const often = (id: number) => boxes.filter((b) => b.id === id).length;
  function again(i: number, on: boolean) {
    const order = boxes.map((c) => c.id);
    const name = boxes[i]!.name;
    order.splice(on ? i + 1 : i, on ? 0 : 1, ...(on ? [order[i]!] : []));
    void put({ boxes: { ...set.boxes, order } }, on ? `${name} is in one box more` : `${name} is in one box less`);
  }
  function count(text: string) {
    const n = Number(text);
    if (!Number.isInteger(n) || n < 0) changing.problem = `An application has 1 to 64 boxes, and not ${text}.`;
    else void put({ boxes: { ...set.boxes, count: n } }, n ? `The application has ${n} boxes` : 'As many boxes as colors');
  }
  function place(i: number, by: number) {
    const order = boxes.map((c) => c.id);
    const [a, b] = [order[i], order[i + by]];
    if (a === undefined || b === undefined) return;
    [order[i], order[i + by]] = [b, a];
    void put({ boxes: { ...set.boxes, order } }, `${set.colors.find((c) => c.id === a)?.name} is in box ${i + by + 1}`);
  }
</script>

{#if set.colors.length > 0}
  <section class="mt-6" aria-label="Slots of the office theme">
    <h2>Slots of the office theme</h2>
    <p class="text-small">
      {house.keeper
        ? 'The rules fill them, so that text reads and charts take the accents in order. Press a slot to give it a color by hand.'
        : 'Text reads on its ground, and charts take the accents in order.'}
    </p>
    <div class="mt-2 grid grid-cols-6 gap-y-2">
      {#each set.slots as s (s.slot)}
        {#snippet face()}
          <span class="block h-12" style:background={s.hex}></span>
          <span class="block truncate text-small"><b>{slotNames[s.slot]}</b> {s.name}</span>
          <span class="block truncate text-small" title={s.why}>{s.why}</span>
        {/snippet}
        {#if house.keeper}<button
            class="min-w-0 pr-2 text-left"
            aria-expanded={chosen === s.slot}
            disabled={changing.busy}
            onclick={() => (chosen = chosen === s.slot ? '' : s.slot)}>{@render face()}</button
          >{:else}<span class="min-w-0 pr-2">{@render face()}</span>{/if}
      {/each}
    </div>
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#if at}
      <div class="mt-3 border border-current p-3" role="group" aria-label={`Color for ${slotNames[at.slot]}`}>
        <p class="flex flex-wrap items-baseline gap-x-4">
          <span><b>{slotNames[at.slot]}</b>, {at.slot} in the standard</span>
          {#if at.given}<button class="link" disabled={changing.busy} onclick={() => give(0)}>let the rules fill it</button>{/if}
          <button class="link" onclick={() => (chosen = '')}>close</button>
        </p>
        <div class="mt-2 grid grid-cols-[repeat(auto-fill,minmax(7.33rem,1fr))]">
          {#each set.colors as c (c.id)}
            <button class="text-left" disabled={changing.busy} onclick={() => give(c.id)}>
              <span class="block h-10" style:background={c.hex}></span><span class="block truncate pr-2 text-small">{c.name}</span>
            </button>
          {/each}
        </div>
      </div>
    {/if}
  </section>

  <section class="mt-6" aria-label="Boxes of a video application">
    <h2 class="flex flex-wrap items-baseline gap-x-4">
      Boxes of a video application
      {#if house.keeper}<label class="text-small font-normal"
          >boxes it has <input
            class="input ml-1 w-[4.27rem]"
            type="number"
            min="0"
            max="64"
            placeholder="all"
            value={set.boxes.count || ''}
            onchange={(e) => count(e.currentTarget.value || '0')}
          /></label
        >{/if}
    </h2>
    <p class="text-small">
      {left > 0
        ? `${left} of ${set.colors.length} colors do not fit.`
        : 'In this order they are keyed in, and stand on the swatch card.'}
    </p>
    <ol class="mt-2 grid grid-cols-8 gap-y-2">
      {#each boxes as c, i (i)}
        <li class="min-w-0">
          <span class="block h-9" style:background={c.hex}></span>
          <span class="block truncate pr-1 text-small"><b>{i + 1}</b> {c.name}</span>
          {#if house.keeper}<span class="flex text-small"
              ><button
                class="mover"
                aria-label={`Move ${c.name} to the box before`}
                disabled={i === 0 || changing.busy}
                onclick={() => place(i, -1)}>◂</button
              ><button
                class="mover"
                aria-label={`Move ${c.name} to the box behind`}
                disabled={i === boxes.length - 1 || changing.busy}
                onclick={() => place(i, 1)}>▸</button
              ><button class="mover link" aria-label={`${c.name} once more`} disabled={changing.busy} onclick={() => again(i, true)}
                >+</button
              >{#if often(c.id) > 1}<button
                  class="mover link"
                  aria-label={`${c.name} out of box ${i + 1}`}
                  disabled={changing.busy}
                  onclick={() => again(i, false)}>out</button
                >{/if}</span
            >{/if}
        </li>
      {/each}
    </ol>
  </section>
{/if}

<style>
  .mover {
    min-width: 2rem;
    min-height: 1.73rem;
  }
  .mover:disabled {
    opacity: 0.35;
  }
</style>
