<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { comparison } from '../../lib/comparison.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { house, useLedger } from '../../lib/house.svelte';
  import Bring from './Bring.svelte';

  const ledger = useLedger();
  const presses = createQuery(() => ({
    queryKey: ['presses', house.id],
    queryFn: () => need(api.GET('/houses/{house}/presses', { params: { path: { house: house.id } } })),
  }));
  const library = $derived(ledger.data?.colors ?? []);
  let color = $state(0);
  let medium = $state('coated');
  let run = $state<'true' | 'light' | 'heavy'>('true');
  let r = $state<Schema['Readings'] | null>(null);
  const changing = useChange([]);

  $effect(() => {
    if (color === 0 && library[0]) color = library[0].id;
  });
  const again = () => (r = null);

  const read = () =>
    changing.run(async () => {
      const body = { color, medium, run: medium === 'screen' ? undefined : run, before: r?.readings ?? [] };
      r = await need(api.POST('/houses/{house}/readings', { params: { path: { house: house.id } }, body }));
    });

  const colors = $derived<Schema['NewCandidate'][]>(
    r
      ? [
          {
            value: `lab(${r.mean})`,
            lab: r.mean,
            name: `${r.target.name} as read`,
            origin: 'reading',
            source: `${r.readings.length} readings of ${r.target.name}, ${medium}`,
          },
        ]
      : [],
  );
</script>

<p class="max-w-[42.67rem]">
  The instrument that comes with the program is simulated: place it on a color of the library, on the screen or as a press prints
  it, and read. Several readings are averaged.
</p>
<div class="mt-4 flex flex-wrap items-end gap-4">
  <label class="grid gap-1 text-small"
    >Place it on
    <select class="select w-[14rem]" bind:value={color} onchange={again}
      >{#each library as c (c.id)}<option value={c.id}>{c.name}</option>{/each}</select
    >
  </label>
  <label class="grid gap-1 text-small"
    >shown by
    <select class="select w-[12.67rem]" bind:value={medium} onchange={again}
      ><option value="screen">the screen</option>{#each presses.data ?? [] as p (p.name)}<option value={p.name}>{p.label}</option
        >{/each}</select
    >
  </label>
  {#if medium !== 'screen'}
    <label class="grid gap-1 text-small"
      >from a press that runs
      <select class="select w-[12.67rem]" bind:value={run} onchange={again}
        ><option value="true">as it should</option><option value="light">with too little ink</option><option value="heavy"
          >with too much ink</option
        ></select
      >
    </label>
  {/if}
  <button class="btn btn-primary" disabled={changing.busy || !house.contributor || color === 0} onclick={read}
    >{r ? 'Read again' : 'Read'}</button
  >
</div>
{#if changing.problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
{#if r}
  <div class="mt-5 grid h-36 grid-cols-2" role="img" aria-label={`${r.target.name} beside its reading`}>
    <span style:background={r.target.hex}></span><span style:background={r.hex}></span>
  </div>
  <p class="mt-1 grid grid-cols-2">
    <span>{r.target.name}, {r.target.hex}</span><span>read: Lab <span class="font-mono">{r.mean}</span></span>
  </p>
  <p class="mt-2">
    <Distance value={r.deltaE} word={r.word} /> from the target, {r.within ? 'within' : 'outside'} the tolerance of {r.tolerance.toFixed(
      1,
    )}. {r.readings.length === 1
      ? 'One reading so far.'
      : `${r.readings.length} readings; the farthest is ${r.spread.toFixed(2)} from their mean.`}
  </p>
  <ol class="mt-2 flex flex-wrap gap-x-6 font-mono text-small" aria-label="Readings">
    {#each r.readings as x, i (i)}<li>{i + 1}: {x}</li>{/each}
  </ol>
  <div class="mt-4"><Bring {colors} done={again} /></div>
  <p class="mt-3">
    <a
      class="link"
      href={house.path('library/view/compare')}
      onclick={() =>
        r &&
        comparison.add([
          { label: r.target.name, hex: r.target.hex },
          { label: `${r.target.name} as read`, hex: r.hex },
        ])}>compare it with others</a
    >
  </p>
{/if}
