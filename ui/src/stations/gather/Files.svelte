<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import Bring from './Bring.svelte';
  import { ordered, rowsOf, setName, together, type FoundRow, type Order } from './found';
  import Manual from './Manual.svelte';
  import { house } from '../../lib/house.svelte';
  import { navigate } from '../../lib/router';
  import { draftKey, incoming } from './incoming.svelte';

  let { choose }: { choose: () => void } = $props();

  // What is taken of each file, and under which name; by file and place.
  let ticked = $state<Record<string, boolean>>({});
  let names = $state<Record<string, string>>({});
  // Of a document that gives several values for one name, the one that is meant.
  let chosen = $state<Record<string, string>>({});
  let without = $state<Record<string, boolean>>({}); // builds and inks that are left out, by row and kind
  let order = $state<Order>();
  let apart = $state<boolean>();

  const read = $derived(incoming.files.map((f, n) => (f.found ? rowsOf(f.file, n, f.found) : [])));
  const several = $derived(incoming.files.filter((f) => f.found).length > 1);
  const asOne = $derived(several && !(apart ?? incoming.files.length <= 3));
  const by = $derived<Order>(
    order ?? (read.some((l) => l.some((r) => r.color.uses) && !l.some((r) => r.color.written)) ? 'use' : 'file'),
  );
  const lists = $derived((asOne ? [together(read)] : read).map((l) => ordered(l, by)));

  const isTaken = (r: FoundRow) => ticked[r.key] ?? !r.idle;
  const taken = $derived(
    lists.flat().flatMap(({ color: c, ...r }): Schema['NewCandidate'][] =>
      !isTaken({ color: c, ...r })
        ? []
        : [
            {
              name: names[r.key] ?? (c.generic ? undefined : c.name),
              value: chosen[r.key] ?? c.master?.value ?? c.hex,
              cmyk: without[`${r.key} cmyk`] ? undefined : c.cmyk,
              spot: without[`${r.key} ink`] ? undefined : c.spot,
              screen: c.master?.press || c.master?.stock ? c.screen : undefined,
              lab: c.lab,
              spectrum: c.master?.spectrum,
              origin: 'file',
              source: [r.files.join(', '), c.name, c.where?.[0]].filter(Boolean).join(', '),
            },
          ],
    ),
  );
  // A text that somebody wrote has lines to be put right: where one types.
  function lineByLine(text: string) {
    localStorage.setItem(draftKey(), text);
    void navigate('/h/:house/gather/:way', { params: { house: String(house.id), way: 'paste' } });
  }
  // A set by the name of the only file.
  const proposed = $derived.by(() => {
    const [only, another] = incoming.files;
    if (!only || another) return '';
    return setName((!only.found?.colors.some((c) => c.written) && only.found?.name) || only.file);
  });
  const counted = (n: number) => (n === 1 ? '1 color' : `${n} colors`);
  const idle = $derived(lists.flat().filter((r) => r.idle && !isTaken(r)));
  const whyIdle = $derived(
    [
      idle.some((r) => r.color.picture) && 'only in pictures',
      idle.some((r) => !r.color.picture) &&
        (lists.flat().some((r) => r.color.written) ? 'that nobody wrote down' : 'of themes that nothing uses'),
    ]
      .filter(Boolean)
      .join(', or '),
  );
  const all = (on: boolean) => (ticked = Object.fromEntries(lists.flat().map((r) => [r.key, on])));
  const known = (c: Schema['ColorInFile'], files: string[]) =>
    [
      c.cmyk && `CMYK ${c.cmyk}`,
      c.spot,
      c.written?.disagree.map((d) => d.text).join('; '),
      c.share !== undefined && `${(c.share * 100).toFixed(1)} % of the area`,
      asOne && files.length > 1 && `in ${files.length} files`,
      ...c.notes.filter((n) => !(c.nearest && (n === `same value as ${c.nearest.name}` || n.endsWith(` from ${c.nearest.name}`)))),
    ]
      .filter(Boolean)
      .join('; ');
  const where = (c: Schema['ColorInFile']) =>
    (c.where?.[0] ?? '') + ((c.places ?? 0) > 1 ? `; ${c.places! - 1} more ${c.places === 2 ? 'place' : 'places'}` : '');
</script>

{#snippet table(rows: FoundRow[])}
  <table class="mt-2 w-full border-collapse">
    <thead class="text-left text-small"
      ><tr class="border-b border-current"
        ><th class="w-8"><span class="sr-only">Take</span></th><th class="w-[7.73rem] py-1">Found | nearest</th><th
          class="w-[26%] pl-3">Name</th
        ><th class="w-[6rem]">Hex</th><th class="w-[3.6rem] pr-3 text-right">Uses</th><th>To know</th></tr
      ></thead
    >
    <tbody>
      {#each rows.slice(0, 500) as r (r.key)}
        {@const c = r.color}
        <tr class="rule border-b">
          <td
            ><input
              type="checkbox"
              class="checkbox align-middle"
              aria-label={`Take ${c.name || c.hex}`}
              checked={isTaken(r)}
              onchange={(e) => (ticked[r.key] = e.currentTarget.checked)}
            /></td
          >
          <td class="h-11 p-0"
            ><span class="grid h-11 grid-cols-2" aria-hidden="true"
              ><span style:background={c.hex}></span><span style:background={c.nearest?.hex ?? c.hex}></span></span
            ></td
          >
          <td class="pl-3 pr-2"
            ><input
              class="input w-full"
              aria-label={`Name of ${c.hex}`}
              placeholder={c.generic ? (c.name ? `${c.name}: give it a name` : 'give it a name') : ''}
              value={names[r.key] ?? (c.generic ? '' : c.name)}
              onchange={(e) => (names[r.key] = e.currentTarget.value)}
            /></td
          >
          <td class="font-mono">{c.hex}</td>
          <td class="pr-3 text-right font-mono">{c.uses ?? ''}</td>
          <td class="py-1 text-small"
            >{#if c.nearest}<span class="block">{c.nearest.name}, {c.nearest.deltaE.toFixed(1)} {c.nearest.word}</span>{/if}
            {#if c.where?.length}<span class="block truncate" title={c.where.join('\n')}>{where(c)}</span>{/if}
            {#if known(c, r.files)}<span class="block">{known(c, r.files)}</span>{/if}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  {#if rows.length > 500}<p class="mt-2">
      And {rows.length - 500} more; {rows.slice(500).filter(isTaken).length} of them are taken too.
    </p>{/if}
{/snippet}

{#if incoming.files.length === 0 && incoming.busy === 0}
  <div class="max-w-[41.33rem]">
    <h2>Files with colors in them</h2>
    <p class="mt-2">
      Drop one or several, or a folder, anywhere in this station. What each holds is shown before anything is taken of it.
    </p>
    <dl class="mt-4 grid grid-cols-[11.33rem_1fr] gap-x-4 gap-y-2">
      <dt class="font-bold">Libraries and tokens</dt>
      <dd>.json, .tokens</dd>
      <dt class="font-bold">Tables and lists</dt>
      <dd>.csv, .tsv, .xlsx, .ods, .gpl, .soc</dd>
      <dt class="font-bold">Print</dt>
      <dd>color exchange .cxf, characterization .txt, .it8, .ti3</dd>
      <dt class="font-bold">Finished files</dt>
      <dd>
        presentations, documents, workbooks, themes, PDF, drawings, style sheets, pages, scripts, subtitles, animations, and
        archives of these: each color with how often it is used, and where
      </dd>
      <dt class="font-bold">Pictures</dt>
      <dd>of palettes, and any other</dd>
    </dl>
    <button class="btn btn-primary mt-5" onclick={choose}>Open files</button>
  </div>
{/if}
{#if incoming.busy > 0}<p aria-live="polite">
    Reading {incoming.files.length + 1} of {incoming.files.length + incoming.busy} files…
  </p>{/if}
{#if lists.flat().length > 0}
  <div class="pb-3"><Bring colors={taken} {proposed} done={() => (incoming.files = [])} /></div>
  <p class="flex flex-wrap items-center gap-x-4 gap-y-1 pb-3 text-small">
    <label class="flex items-center gap-2"
      >order
      <select class="select w-auto" value={by} onchange={(e) => (order = e.currentTarget.value as Order)}>
        <option value="use">most used first</option>
        <option value="file">as in the file</option>
        <option value="light">light to dark</option>
      </select></label
    >
    <button class="link" onclick={() => all(true)}>tick all</button>
    <button class="link" onclick={() => all(false)}>none</button>
    {#if several}<button class="link" onclick={() => (apart = asOne)}
        >{asOne ? 'file by file' : `the ${incoming.files.length} files together`}</button
      >{/if}
    {#if lists.some((l) => l.some((r) => r.color.generic && isTaken(r)))}<span
        >Names that say nothing are replaced by a description unless you type one.</span
      >{/if}
    {#if idle.length > 0}<span>{counted(idle.length)} {whyIdle} {idle.length === 1 ? 'is' : 'are'} not ticked</span>{/if}
  </p>
{/if}
{#if incoming.leftOut.length > 0}<p class="pb-2 text-small">
    Left out, as hidden or a program's own: {incoming.leftOut.slice(0, 5).join(', ')}{incoming.leftOut.length > 5
      ? ` and ${incoming.leftOut.length - 5} more`
      : ''}
  </p>{/if}
{#each incoming.files as f, n (n)}
  <section class={asOne ? 'mb-1' : 'mb-6'}>
    <h2 class={asOne ? 'text-[0.93rem]' : ''}>{f.file}</h2>
    {#if f.problem}<p role="alert" class="border-l-4 border-current pl-3">{f.problem}</p>{/if}
    {#if f.found}
      {#if asOne || !f.found.colors.some((c) => c.written)}
        <p class={asOne ? 'text-small' : ''}>
          {f.found.label}{f.found.name ? `, “${f.found.name}”` : ''}: {counted(f.found.colors.length)}
        </p>{/if}
      {#each f.found.notes as note (note)}<p class="text-small">{note}</p>{/each}
      {#if f.found.text}<p class="text-small">
          <button class="link" onclick={() => lineByLine(f.found?.text ?? '')}>put them right line by line</button>
        </p>{/if}
      {#if !asOne}
        {@const written = (lists[n] ?? []).filter((r) => r.color.written)}
        {@const others = (lists[n] ?? []).filter((r) => !r.color.written)}
        {#if written.length > 0}
          <Manual
            found={f.found}
            rows={written}
            {isTaken}
            {names}
            {chosen}
            {without}
            tick={(r, on) => (ticked[r.key] = on)}
            name={(r, text) => (names[r.key] = text)}
            choose={(r, hex) => (chosen[r.key] = hex)}
            leave={(r, kind, on) => (without[`${r.key} ${kind}`] = on)}
          />
          {#if others.length > 0}<h3 class="mt-5">Painted in it, and written nowhere: {counted(others.length)}</h3>{/if}
        {/if}
        {#if others.length > 0}{@render table(others)}{/if}
      {/if}
    {/if}
  </section>
{/each}
{#if asOne}{@render table(lists[0] ?? [])}{/if}
