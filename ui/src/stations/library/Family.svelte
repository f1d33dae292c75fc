<script lang="ts">
  import { opened } from '../../lib/focus';
  import { colorBack } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import Value from '../../lib/Value.svelte';

  // Tints, shades, tones, sheers and steps that are kept with a color and follow it; never more than were asked for.
  let { s, colors }: { s: Schema['ColorSheet']; colors: Schema['ColorRow'][] } = $props();

  const changing = useChange(['sheet', 'ledger']);
  let editing = $state(false);
  let tints = $state('');
  let shades = $state('');
  let tones = $state('');
  let steps = $state(false);
  let sheers = $state([{ text: '', ground: 0 }]); // ground 0 is white
  const grounds = $derived(colors.filter((o) => o.id !== s.row.id && o.status !== 'draft'));
  const kinds = ['tint', 'shade', 'tone', 'sheer', 'step'] as const;
  const names = { tint: 'Tints', shade: 'Shades', tone: 'Tones', sheer: 'Sheers', step: 'Steps' };
  const groundOf = (r: Schema['Relative']) => (r.kind === 'sheer' ? (r.ground?.id ?? 0) : undefined);
  const nameOf = (r: Schema['Relative']) =>
    `${r.kind} ${r.amount}${r.kind === 'sheer' ? ` over ${r.ground?.name ?? 'white'}` : ''}`;
  const asKept = (r: Schema['Relative']) => ({ kind: r.kind, amount: r.amount, ground: r.ground?.id, permitted: r.permitted });

  function edit() {
    const of = (k: string) =>
      s.family
        .filter((r) => r.kind === k)
        .map((r) => r.amount)
        .join(', ');
    const below = [...new Set(s.family.map(groundOf))].filter((g) => g !== undefined);
    sheers = (below.length ? below : [0]).map((ground) => ({
      ground,
      text: s.family
        .filter((r) => groundOf(r) === ground)
        .map((r) => r.amount)
        .join(', '),
    }));
    [tints, shades, tones, steps] = [of('tint'), of('shade'), of('tone'), s.family.some((r) => r.kind === 'step')];
    editing = !editing;
    changing.problem = '';
  }

  const keep = (family: Schema['NewRelative'][], said: string) =>
    changing.run(async () => {
      const path = { house: house.id, color: s.row.id };
      const was = s;
      const now = await need(
        api.PUT('/houses/{house}/colors/{color}/family', { params: { path }, body: { version: was.version, family } }),
      );
      editing = false;
      return { said, undo: colorBack(was, now) };
    });

  function fromText() {
    const permitted = (kind: string, amount: number, ground?: number) =>
      s.family.find((r) => r.kind === kind && r.amount === amount && groundOf(r) === ground)?.permitted ?? true;
    const list: Schema['NewRelative'][] = [];
    for (const [kind, text, ground] of [
      ['tint', tints],
      ['shade', shades],
      ['tone', tones],
      ...sheers.map((r) => ['sheer', r.text, r.ground] as const),
    ] as const)
      for (const part of text.split(/[\s,;%]+/).filter(Boolean)) {
        const amount = Number(part);
        if (!Number.isInteger(amount)) return (changing.problem = `“${part}” is not a whole percent.`);
        list.push({ kind, amount, ground: ground || undefined, permitted: permitted(kind, amount, ground) });
      }
    if (steps)
      for (const amount of [50, 100, 200, 300, 400, 500, 600, 700, 800, 900, 950])
        list.push({ kind: 'step', amount, permitted: permitted('step', amount) });
    void keep(list, list.length ? 'Kept with the color' : 'Nothing is kept with the color');
  }

  const toggle = (r: Schema['Relative']) =>
    keep(
      s.family.map((o) => ({ ...asKept(o), permitted: o === r ? !o.permitted : o.permitted })),
      r.permitted ? 'No longer permitted' : 'Permitted: audits count it as on-brand',
    );
</script>

<h3 class="mb-1 mt-5 text-[0.93rem] font-bold">
  Tints, shades and sheers {#if house.keeper}<button class="ml-2 font-normal link" aria-expanded={editing} onclick={edit}
      >{s.family.length ? 'change' : 'keep some'}</button
    >{/if}
</h3>
{#if editing}
  <form
    class="grid gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      fromText();
    }}
  >
    <div class="grid grid-cols-3 gap-2">
      <label class="grid gap-1 text-small"
        >Tints, percent <input class="input w-full" placeholder="80, 60, 40, 20" {@attach opened} bind:value={tints} /></label
      >
      <label class="grid gap-1 text-small">Shades <input class="input w-full" placeholder="80, 60" bind:value={shades} /></label>
      <label class="grid gap-1 text-small">Tones <input class="input w-full" placeholder="50" bind:value={tones} /></label>
    </div>
    {#each sheers as sheer, i (i)}
      <div class="grid grid-cols-3 items-end gap-2">
        <label class="grid gap-1 text-small"
          >Sheers, opacity <input
            class="input w-full"
            placeholder="40, 70"
            aria-label={`Sheers, opacity${i ? `, ${i + 1}` : ''}`}
            bind:value={sheer.text}
          /></label
        >
        <label class="grid gap-1 text-small"
          >over <select class="select w-full" aria-label={`over${i ? `, ${i + 1}` : ''}`} bind:value={sheer.ground}
            ><option value={0}>white</option>{#each grounds as o (o.id)}<option value={o.id}>{o.name}</option>{/each}</select
          ></label
        >
        {#if i === sheers.length - 1}<button
            type="button"
            class="link justify-self-start pb-2 text-left text-small"
            onclick={() => sheers.push({ text: '', ground: 0 })}>over one more ground</button
          >{/if}
      </div>
    {/each}
    <label class="flex items-center gap-2 text-small"
      ><input type="checkbox" class="checkbox" bind:checked={steps} /> the step scale, 50 to 950</label
    >
    <div class="flex gap-3">
      <button class="btn btn-primary">Keep these</button><button
        type="button"
        class="btn btn-plain"
        onclick={() => (editing = false)}>Leave</button
      >
    </div>
  </form>
{:else if s.family.length === 0}<p>None kept.</p>{/if}
{#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
{#each kinds as kind (kind)}
  {@const list = s.family.filter((r) => r.kind === kind)}
  {#if list.length}
    <p class="mt-1 text-small">{names[kind]}</p>
    <div class="flex" aria-hidden="true">
      {#if kind !== 'step'}<span class="h-10 flex-1" style:background={s.row.hex}></span>{/if}{#each list as r (nameOf(r))}<span
          class="flex h-10 flex-1"
          style:background={r.hex}
          >{#if kind === 'sheer'}<span class="h-full w-1/3" style:background={r.ground?.hex ?? '#FFFFFF'}></span>{/if}</span
        >{/each}
    </div>
    <ul class="mt-1 grid gap-0.5 text-small">
      {#each list as r (nameOf(r))}
        <li class="grid grid-cols-[3.47rem_5.07rem_minmax(0,1fr)_auto] items-baseline gap-2">
          <b>{r.amount}{kind === 'step' ? '' : ' %'}</b>
          <Value text={r.hex} label={nameOf(r)} />
          {#if r.css}<span>over {r.ground?.name ?? 'white'} · <Value text={r.css} label={`${nameOf(r)}, see-through`} /></span
            >{:else}<span class="font-mono">{r.cmyk ?? ''}</span>{/if}
          {#if house.keeper}<button class="link" aria-pressed={r.permitted} onclick={() => toggle(r)}
              >{r.permitted ? 'permitted' : 'not permitted'}</button
            >{:else}<span>{r.permitted ? 'permitted' : 'not permitted'}</span>{/if}
        </li>
      {/each}
    </ul>
  {/if}
{/each}
