<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need } from '../../lib/api/client';
  import { house, useLedger, useSets } from '../../lib/house.svelte';
  import { engine } from '../../lib/engine';
  import { kept } from '../../lib/kept.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { opened } from '../../lib/focus';
  import { route } from '../../lib/router';
  import Distance from '../../lib/Distance.svelte';
  import Verdict from '../../lib/Verdict.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import {
    excusedSince,
    fine,
    known,
    named,
    percent,
    pagesOf,
    pictured,
    proposed,
    reportPath,
    triedPlan,
    useAudit,
    useExcuses,
    uses,
    usesHead,
    useWork,
    writable,
    type Found,
  } from './audit.svelte';
  import Bar from './Bar.svelte';
  import FoundSheet from './FoundSheet.svelte';
  import Working from './Working.svelte';

  // The repaint plan of one file: what becomes of each found color, with what that makes of the score before anything is written.
  const id = $derived(Number(route.params.audit));
  const audit = useAudit(() => id);
  const colors = useLedger();
  const work = useWork();

  type Choice = 'repaint' | 'leave' | 'excuse';
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
  let picking = $state(''); // the key of the row whose color is chosen from the whole library

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
  const score = (list: { verdict: Found['verdict']; uses: number }[]) => {
    const sum = (of: (verdict: Found['verdict']) => boolean) => list.reduce((n, t) => n + (of(t.verdict) ? t.uses : 0), 0);
    const judged = sum(known);
    return judged > 0 ? Math.floor((1000 * sum(fine)) / judged) / 1000 : undefined; // as core/audit rounds it
  };
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
    picking = '';
  }

  /** What is planned for some of the colors, once for each value: the first says it. */
  function steps(of: Found[]) {
    const list = of.map((c) => (written(c) ? { from: named(c), to: target(c) } : { from: named(c), leave: true }));
    return Object.values(Object.fromEntries(list.toReversed().map((s) => [s.from, s]))).reverse();
  }

  // The same choices as a plan under a name, for other files: what becomes something, and what was said to stay.
  let naming = $state<string | null>(null);
  const decided = $derived(rows.filter((c) => written(c) || choices[c.key] === 'leave'));
  const keep = () =>
    work.run(async () => {
      const path = { house: house.id };
      const name = naming ?? '';
      const p = await need(api.POST('/houses/{house}/plans', { params: { path }, body: { name, colors: steps(decided) } }));
      naming = null;
      return {
        said: `The plan ${p.name} is kept`,
        undo: [way('delete', '/houses/{house}/plans/{plan}', { params: { path: { ...path, plan: p.id } } })],
        next: { name: 'repaint plans', href: house.path('audit/plans') },
      };
    });

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
        <Bar name="before" score={percent(score(totals))} {totals} />
        <Bar name="after" score={percent(score(after))} totals={after} under />
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
            <!-- svelte-ignore a11y_click_events_have_key_events -->
            <div
              class="plan items-center pr-5"
              class:chosen={c.key === found?.key}
              style:height={`${rowHeight(c) - 0.4}rem`}
              role="row"
              aria-rowindex={i + 2}
              tabindex={c.key === found?.key ? 0 : -1}
              onclick={() => (key = c.key)}
            >
              <span class="grid h-full grid-cols-2" role="gridcell" aria-label={`${c.hex} becomes ${target(c) || 'nothing else'}`}
                ><span style:background={c.hex}></span>
                <span class="grid">
                  {#if written(c)}<span style:background={hexOf(target(c), c)}></span>
                  {:else if list.length > 1}{#each list as name (name)}<span style:background={hexOf(name, c)}></span>{/each}
                  {:else}<span style:background={c.hex}></span>{/if}
                </span></span
              >
              <span class="min-w-0 pl-3" role="gridcell">
                <b class="block font-mono {c.wide ? 'text-small leading-tight' : 'truncate'}"
                  >{c.spot ?? c.cmyk ?? c.wide ?? c.hex}</b
                ><Verdict verdict={c.verdict} />
              </span>
              <span class="min-w-0" role="gridcell">
                {#if picking === c.key}
                  <!-- svelte-ignore a11y_autofocus -->
                  <select
                    class="select w-full"
                    autofocus
                    aria-label={`What ${c.hex} becomes`}
                    value={target(c)}
                    onchange={(e) => take(c, e.currentTarget.value)}
                  >
                    <option value="" disabled>any library color</option>
                    {#each library as l (l.id)}<option value={l.name}>{l.name} {l.hex}</option>{/each}
                  </select>
                {:else}
                  {#each list as name (name)}
                    <button
                      class="block min-h-[1.6rem] max-w-full truncate px-2 text-left"
                      class:picked={written(c) && target(c) === name}
                      onclick={() => take(c, name)}>{name}</button
                    >
                  {/each}
                  <button class="link px-2 text-small" onclick={() => (picking = c.key)}>another</button>
                {/if}
              </span>
              <span class="min-w-0 text-small" role="gridcell">
                {#each list as name (name)}{@const n = distance(name, c)}<span
                    class="block h-[1.6rem] whitespace-nowrap leading-[1.6rem]"
                    >{#if n}<Distance value={n.deltaE} word={n.word} />{:else}&nbsp;{/if}</span
                  >{/each}<span class="block h-[1.6rem]">&nbsp;</span>
              </span>
              <span class="text-right font-mono font-bold" role="gridcell">{c.count.toLocaleString('en-US')}</span>
              <span class="flex gap-1 pl-5" role="gridcell">
                {#each ['repaint', 'leave', 'excuse'] as const as what (what)}
                  <button
                    class="px-2 py-1 disabled:line-through"
                    class:picked={choice(c) === what}
                    aria-pressed={choice(c) === what}
                    disabled={what === 'repaint' && (writable(c) === 0 || (target(c) === '' && list.length === 0))}
                    title={what === 'repaint' && writable(c) === 0 ? c.places[0]?.fixed : undefined}
                    onclick={() => {
                      choices[c.key] = what;
                      if (what === 'repaint' && target(c) === '' && list[0]) targets[c.key] = list[0];
                      key = c.key;
                    }}>{what}</button
                  >
                {/each}
              </span>
            </div>
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
          {#if naming !== null}
            <form
              class="flex items-center gap-3"
              onsubmit={(e) => {
                e.preventDefault();
                void keep();
              }}
            >
              <input
                class="input w-[12.67rem]"
                aria-label="Name of the plan"
                placeholder="name of the plan"
                required
                bind:value={naming}
                {@attach opened}
              />
              <button class="btn btn-plain" disabled={work.changing.busy}>Keep the plan</button>
              <button type="button" class="link" onclick={() => (naming = null)}>leave it</button>
            </form>
          {:else}<button class="link" disabled={decided.length === 0} onclick={() => (naming = '')}>keep under a name</button>{/if}
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
  .plan {
    display: grid;
    grid-template-columns: 8rem 9.2rem minmax(0, 1fr) 7.73rem 3.07rem 14.4rem;
    margin-top: 0.4rem;
  }
  @media (max-width: 30rem) {
    .plan {
      grid-template-columns: 5.6rem minmax(0, 1fr) minmax(0, 1fr) 3rem;
      grid-template-rows: auto 1fr auto;
      grid-template-areas: 'patch found found count' 'patch brand far far' 'choice choice choice choice';
      column-gap: 0.4rem;
    }
    .plan > :nth-child(1) {
      grid-area: patch;
      min-height: 4.6rem;
    }
    .plan > :nth-child(2) {
      grid-area: found;
    }
    .plan > :nth-child(3) {
      grid-area: brand;
    }
    .plan > :nth-child(4) {
      grid-area: far;
    }
    .plan > :nth-child(5) {
      grid-area: count;
    }
    .plan > :nth-child(6) {
      grid-area: choice;
      padding-left: 0;
    }
    .plan > :nth-child(6) button {
      flex: 1;
      min-height: 2.4rem;
    }
  }
  .chosen {
    background: var(--color-base-200);
  }
  .picked {
    outline: 1px solid currentColor;
    font-weight: 700;
  }
</style>
