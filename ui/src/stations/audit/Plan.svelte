<script lang="ts">
  import { api, need } from '../../lib/api/client';
  import { house, useLedger, useSets } from '../../lib/house.svelte';
  import { engine } from '../../lib/engine';
  import { kept } from '../../lib/kept.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { route } from '../../lib/router';
  import Virtual from '../../lib/Virtual.svelte';
  import {
    excusedSince,
    named,
    percent,
    pagesOf,
    pictured,
    proposed,
    reportPath,
    scoreOf,
    triedPlan,
    useAudit,
    useExcuses,
    uses,
    usesHead,
    useWork,
    writable,
    type Choice,
    type Found,
  } from './audit.svelte';
  import Bar from './Bar.svelte';
  import FoundSheet from './FoundSheet.svelte';
  import Working from './Working.svelte';
  import PlanRow from './PlanRow.svelte';
  import KeepPlan from './KeepPlan.svelte';

  // The repaint plan of one file: what becomes of each found color, with what that makes of the score before anything is written.
  const id = $derived(Number(route.params.audit));
  const audit = useAudit(() => id);
  const colors = useLedger();
  const work = useWork();

  // What was chosen stays while one looks at the verdicts again: choices and, by the key of what is found, the name of what it becomes;
  // and the set whose office theme is put into the file.
  const draft = $derived(
    kept(`plan-${house.id}-${id}`, {
      choices: {} as Record<string, Choice>,
      targets: {} as Record<string, string>,
      link: false,
      theme: undefined as number | undefined,
    }),
  );
  const choices = $derived(draft.now.choices);
  const targets = $derived(draft.now.targets);
  const sets = useSets();
  const themed = $derived(['pptx', 'docx', 'xlsx'].includes(audit.data?.line.kind ?? ''));
  let key = $state('');

  // What is right needs no row; why a color cannot be repainted is told in its sheet.
  const rows = $derived((audit.data?.colors ?? []).filter((c) => c.verdict !== 'on-brand'));
  const found = $derived(rows.find((c) => c.key === key) ?? rows[0]);
  const library = $derived((colors.data?.colors ?? []).filter((c) => c.status !== 'retired' && c.status !== 'draft'));

  const target = (c: Found) => targets[c.key] ?? proposed(c);
  const excuses = useExcuses(() => audit.data?.line.project);
  const excused = (c: Found) => {
    const e = audit.data && excusedSince(c, audit.data.line, excuses.data);
    return e !== undefined && !e.where;
  };
  const choice = (c: Found): Choice =>
    choices[c.key] ?? (c.verdict === 'excused' || excused(c) ? 'excuse' : target(c) && writable(c) > 0 ? 'repaint' : 'leave');
  const written = (c: Found) => choice(c) === 'repaint' && target(c) !== '' && writable(c) > 0;
  const hexOf = (name: string, c: Found) =>
    library.find((l) => l.name === name)?.hex ?? [c.nearest, ...(c.others ?? [])].find((n) => n?.name === name)?.hex;

  const planned = $derived(rows.filter(written));
  const changed = $derived(planned.reduce((n, c) => n + writable(c), 0));
  const staying = $derived(rows.reduce((n, c) => n + c.count, 0) - changed);
  const totals = $derived(audit.data?.totals ?? []);
  // What the judgment would be if all that is planned can be written.
  const after = $derived.by(() => {
    const out = new Map(totals.map((t) => [t.verdict, t.uses]));
    for (const c of planned) {
      out.set(c.verdict, (out.get(c.verdict) ?? 0) - writable(c));
      out.set('on-brand', (out.get('on-brand') ?? 0) + writable(c));
    }
    return [...out].map(([verdict, n]) => ({ verdict, uses: n }));
  });
  // In rem: a line for each offer and one for another. On a phone what it becomes and the choice stand below what was found.
  const rowHeight = (c: Found) => {
    const lines = 1.6 * Math.max(2, offers(c).length + 1);
    return rem.phone ? 6 + lines : Math.max(4.13, lines + 0.9);
  };

  // What an off-brand color may become: the three nearest that are in use.
  const offers = (c: Found) => {
    if (c.verdict === 'drifted' || c.verdict === 'retired') return [target(c) || ''].filter(Boolean);
    const near = [c.nearest, ...(c.others ?? [])].flatMap((n) => (n && n.name !== 'neutral' ? [n.successor ?? n.name] : []));
    const own = targets[c.key];
    return [...new Set(own ? [own, ...near] : near)].slice(0, 3);
  };
  // How far a color is from what it may become; the core answers, for what a report holds not all of.
  let apart = $state<Record<string, { deltaE: number; word: string }>>({});
  const distance = (name: string, c: Found) => apart[`${c.hex} ${hexOf(name, c)}`];
  const wanted = $derived.by(() => {
    const some = rows.slice(0, 400);
    const values = [...new Set(some.map((c) => c.hex))];
    const among = [...new Set(some.flatMap((c) => offers(c).map((name) => hexOf(name, c) ?? '')))].filter(Boolean);
    return { values, among };
  });
  $effect(() => {
    const { values, among } = wanted;
    if (values.length === 0 || among.length === 0) return;
    void engine.ask('apart', { values, among }).then(
      (table) => {
        const out: typeof apart = {};
        table.forEach((row, i) => row.forEach((d, k) => (out[`${values[i]} ${among[k]}`] = d)));
        apart = out;
      },
      () => undefined,
    );
  });

  function take(c: Found, name: string) {
    targets[c.key] = name;
    if (writable(c) > 0) choices[c.key] = 'repaint';
  }

  /** What is planned for some of the colors, once for each value: the first says it. */
  function steps(of: Found[]) {
    const list = of.map((c) => (written(c) ? { from: named(c), to: target(c) } : { from: named(c), leave: true }));
    return Object.values(Object.fromEntries(list.toReversed().map((s) => [s.from, s]))).reverse();
  }

  // Kept as a plan is what becomes something, and what was said to stay.
  const decided = $derived(rows.filter((c) => written(c) || choices[c.key] === 'leave'));

  // What is planned is looked at as the page that it makes.
  const first = $derived(planned.flatMap((c) => pagesOf(c))[0]);
  const tried = () =>
    (triedPlan(house.id, id).now = { plan: { colors: steps(rows), link: draft.now.link, theme: draft.now.theme } });

  const repaint = () =>
    work.run(async () => {
      const line = audit.data?.line;
      if (line?.run === undefined) return;
      const colors = steps(rows);
      const path = { house: house.id, run: line.run };
      const begun = await need(
        api.POST('/houses/{house}/runs/{run}/repaints', {
          params: { path },
          body: { audit: id, colors, link: draft.now.link, theme: draft.now.theme },
        }),
      );
      return work.lead(`repaint/${await work.done(line.file, begun)}`, `The repaint of ${line.file} is done`, 'what was repainted');
    });
</script>

<div class="work">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    {#if audit.isError}<p class="mt-4" role="alert">{audit.error.message}</p>{/if}
    {#if audit.data}
      <div class="flex flex-wrap items-baseline gap-x-4 pr-5">
        <h1 class="min-w-0 truncate">{audit.data.line.path ?? audit.data.line.file}</h1>
        <span class="shrink-0">repaint plan</span>
        {#if pictured(audit.data.line.kind) && rows.length > 0}<a
            class="link ml-auto shrink-0"
            href={`${reportPath(id)}/see?look=planned${first ? `&page=${first}` : ''}`}
            onclick={tried}>see it before and after</a
          >{/if}
        <a class="link shrink-0" class:ml-auto={!pictured(audit.data.line.kind) || rows.length === 0} href={reportPath(id)}
          >back to the verdicts</a
        >
      </div>
      <p class="mt-1 pr-5">
        {uses(changed, audit.data.line.kind)}
        {changed === 1 ? 'becomes a brand color' : 'become brand colors'}; {uses(staying, audit.data.line.kind)}
        {staying === 1 ? 'stays as it is' : 'stay as they are'}.
      </p>
      <Working {work} />
      <div class="mr-5 mt-1">
        <Bar name="before" score={percent(scoreOf(totals))} {totals} />
        <Bar name="after" score={percent(scoreOf(after))} totals={after} under />
      </div>
      <div class="mt-2 flex min-h-0 flex-1 flex-col" role="grid" aria-label="Repaint plan" aria-rowcount={rows.length + 1}>
        <div role="rowgroup" class="overflow-hidden [scrollbar-gutter:stable]">
          <div class="plan border-b border-current pb-1 pr-5 text-small font-bold phone:sr-only" role="row">
            <span role="columnheader">Found | becomes</span><span role="columnheader">Found</span><span role="columnheader"
              >Brand color</span
            ><span role="columnheader">Distance</span><span class="text-right" role="columnheader"
              >{usesHead(audit.data.line.kind)}</span
            ><span class="pl-5" role="columnheader">Choice</span>
          </div>
        </div>
        <Virtual items={rows} height={rowHeight} key={(c) => c.key} label="Colors">
          {#snippet row(c, i)}
            {@const list = offers(c)}
            <PlanRow
              {c}
              index={i}
              height={rowHeight(c)}
              chosen={c.key === found?.key}
              choice={choice(c)}
              becomes={written(c) ? target(c) : ''}
              target={target(c)}
              offers={list.map((name) => ({ name, hex: hexOf(name, c) ?? c.hex, far: distance(name, c) }))}
              hex={hexOf(target(c), c)}
              {library}
              select={() => (key = c.key)}
              take={(name) => take(c, name)}
              choose={(what) => {
                choices[c.key] = what;
                if (what === 'repaint' && target(c) === '' && list[0]) targets[c.key] = list[0];
                key = c.key;
              }}
            />
          {/snippet}
        </Virtual>
      </div>
      <div class="flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-current py-3 pr-5">
        <label class="flex items-center gap-2"
          ><input class="checkbox" type="checkbox" bind:checked={draft.now.link} />link to a definition of the file</label
        >
        {#if themed}
          <label class="flex items-center gap-2"
            >theme
            <select class="select w-[12.67rem]" aria-label="Theme to put into the file" bind:value={draft.now.theme}>
              <option value={undefined}>as it is in the file</option>
              {#each sets.data ?? [] as s (s.id)}<option value={s.id}>of {s.name}</option>{/each}
            </select></label
          >
        {/if}
        {#if house.contributor}
          <KeepPlan {work} steps={() => steps(decided)} none={decided.length === 0} />
        {/if}
        <button
          class="btn btn-primary ml-auto"
          disabled={work.changing.busy || (changed === 0 && draft.now.theme === undefined) || !house.contributor}
          onclick={repaint}>Repaint and judge again</button
        >
      </div>
    {/if}
  </main>
  {#if found && audit.data}
    {#key `${id} ${found.key} ${choice(found)}`}<FoundSheet
        {found}
        audit={id}
        line={audit.data.line}
        tolerance={audit.data.tolerance}
        excuse={choice(found) === 'excuse'}
      />{/key}
  {:else}
    <aside class="bg-base-200 p-5">
      {#if audit.data}<h2>Nothing to repaint</h2>
        <p class="mt-2">Every judged color of this file is on-brand.</p>{/if}
    </aside>
  {/if}
</div>

<style>
  /* Of the heads, and of the rows, which are components of their own. */
  main :global(.plan) {
    display: grid;
    grid-template-columns: 8rem 9.2rem minmax(0, 1fr) 7.73rem 3.07rem 14.4rem;
    margin-top: 0.4rem;
  }
  @media (max-width: 30rem) {
    main :global(.plan) {
      grid-template-columns: 5.6rem minmax(0, 1fr) minmax(0, 1fr) 3rem;
      grid-template-rows: auto 1fr auto;
      grid-template-areas: 'patch found found count' 'patch brand far far' 'choice choice choice choice';
      column-gap: 0.4rem;
    }
    main :global(.plan > :nth-child(1)) {
      grid-area: patch;
      min-height: 4.6rem;
    }
    main :global(.plan > :nth-child(2)) {
      grid-area: found;
    }
    main :global(.plan > :nth-child(3)) {
      grid-area: brand;
    }
    main :global(.plan > :nth-child(4)) {
      grid-area: far;
    }
    main :global(.plan > :nth-child(5)) {
      grid-area: count;
    }
    main :global(.plan > :nth-child(6)) {
      grid-area: choice;
      padding-left: 0;
    }
    main :global(.plan > :nth-child(6) button) {
      flex: 1;
      min-height: 2.4rem;
    }
  }
</style>
