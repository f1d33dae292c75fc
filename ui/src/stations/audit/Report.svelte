<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { followFocus } from '../../lib/focus';
  import { keys } from '../../lib/keys.svelte';
  import { route } from '../../lib/router';
  import Verdict from '../../lib/Verdict.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import {
    count,
    excusedSince,
    ontoTray,
    percent,
    proposed,
    reportPath,
    useAudit,
    useExcuses,
    uses,
    usesHead,
    useWork,
    whole,
    writable,
    type Found,
  } from './audit.svelte';
  import Bar from './Bar.svelte';
  import FoundSheet from './FoundSheet.svelte';
  import Working from './Working.svelte';
  import Unjudged from './Unjudged.svelte';

  // The report on one file: every color found with its verdict, and what can be done about it.
  const id = $derived(Number(route.params.audit));
  const audit = useAudit(() => id);
  const work = useWork();
  const excuses = useExcuses(() => audit.data?.line.project);
  const since = (c: Found) => (audit.data ? excusedSince(c, audit.data.line, excuses.data) : undefined);

  let key = $state(''); // of the chosen color
  let opened = $state<string[]>([]); // clusters, by the name of what they are near
  let cause = $state(''); // that the list is narrowed to
  const all = $derived(audit.data?.colors ?? []);
  const colors = $derived(cause ? all.filter((c) => c.cause === cause) : all);
  const found = $derived(colors.find((c) => c.key === key) ?? colors[0]);

  // Near-misses of one brand color are one row that opens.
  const clustered = 4;
  type Row = { key: string; color: Found; more?: Found[]; inside?: boolean };
  const rows = $derived.by(() => {
    const near: Record<string, Found[]> = {};
    for (const c of colors) if (c.verdict === 'drifted' && c.nearest) (near[c.nearest.name] ??= []).push(c);
    const out: Row[] = [];
    const done: string[] = [];
    for (const c of colors) {
      const name = c.verdict === 'drifted' ? (c.nearest?.name ?? '') : '';
      const list = near[name];
      if (!list || list.length < clustered) {
        out.push({ key: c.key, color: c });
        continue;
      }
      if (done.includes(name)) continue;
      done.push(name);
      out.push({ key: `cluster ${name}`, color: c, more: list });
      if (opened.includes(name)) for (const k of list) out.push({ key: k.key, color: k, inside: true });
    }
    return out;
  });

  const mendable = $derived(all.filter((c) => proposed(c) !== '').reduce((n, c) => n + writable(c), 0));
  const changing = useChange(['tray'], { aloud: true });
  const gather = () =>
    changing.run(async () => {
      if (audit.data)
        return ontoTray(
          all.filter((c) => c.verdict === 'off-brand'),
          audit.data.line,
        );
    });
  const undecided = $derived(all.filter((c) => c.verdict === 'off-brand').length);

  const again = () =>
    work.run(async () => {
      const path = { house: house.id, audit: id };
      const before = audit.data;
      const begun = await need(api.POST('/houses/{house}/audits/{audit}/again', { params: { path } }));
      const next = await work.done(before?.line.file ?? '', begun);
      const elsewhere = work.lead(String(next), `${before?.line.file ?? 'The file'} is judged again`, 'its verdicts');
      return elsewhere ?? (before && changed(before, await whole(path.house, next)));
    });

  /** What another judgement of the same file says differently: the library has moved on, the file has not. */
  function changed(before: Schema['Audit'], after: Schema['Audit']): string {
    const was = new Map(before.colors.map((c) => [c.hex, c.verdict]));
    const moved = after.colors.filter((c) => was.get(c.hex) !== undefined && was.get(c.hex) !== c.verdict);
    if (moved.length === 0) return 'Judged again: every color has the verdict that it had';
    const told = moved.slice(0, 3).map((c) => `${c.hex} is ${c.verdict}, was ${was.get(c.hex)}`);
    const more = moved.length - told.length;
    const score =
      before.line.score === after.line.score ? '' : ` (${percent(before.line.score)} before, ${percent(after.line.score)} now)`;
    return `Judged again: ${told.join('; ')}${more > 0 ? `; ${more} more` : ''}${score}`;
  }

  const repaint = () =>
    work.run(async () => {
      const line = audit.data?.line;
      if (line?.run === undefined) return;
      const path = { house: house.id, run: line.run };
      const begun = await need(api.POST('/houses/{house}/runs/{run}/repaints', { params: { path }, body: { audit: id } }));
      return work.lead(`repaint/${await work.done(line.file, begun)}`, `The repaint of ${line.file} is done`, 'what was repainted');
    });

  function step(by: number) {
    const at = rows.findIndex((r) => r.key === key || (!r.more && r.color.key === found?.key));
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + by))];
    if (!next) return;
    key = next.color.key;
    list?.show(rows.indexOf(next));
    followFocus();
  }
  let list = $state<{ show: (index: number) => void }>();

  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next found color', run: () => step(1) },
      { key: 'ArrowUp', does: 'found color before', run: () => step(-1) },
      { key: 'r', alt: true, does: 'repaint what can be', run: () => house.contributor && mendable > 0 && void repaint() },
    ]),
  );

  const wheres = (c: Found) => {
    const more = c.placeCount - 1;
    return (
      (c.places[0]?.where ?? '') + (more > 0 ? `; ${more.toLocaleString('en-US')} more ${more === 1 ? 'place' : 'places'}` : '')
    );
  };
  const toggle = (name: string) => (opened = opened.includes(name) ? opened.filter((n) => n !== name) : [...opened, name]);
  const report = (format: string) => `/api/houses/${house.id}/audits/${id}/report/${format}`;
</script>

<div class="work">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    {#if audit.isError}<p class="mt-4" role="alert">{audit.error.message}</p>{/if}
    {#if audit.data}
      <div class="flex flex-wrap items-baseline gap-x-4 pr-5">
        <h1 class="truncate">{audit.data.line.path ?? audit.data.line.file}</h1>
        <span class="shrink-0 truncate"
          >{audit.data.about}, {percent(audit.data.line.score)}{audit.data.line.score === undefined ? '' : ' on-brand'}</span
        >
        <span class="ml-auto flex shrink-0 items-center gap-4 max-[40rem]:ml-0">
          <a class="link" href={`${reportPath(id)}/see`}>see where</a>
          {#if audit.data.line.project}<a class="link" href={house.path(`audit/project/${audit.data.line.project}`)}>project</a
            >{/if}
          <a class="link" href={house.path('audit')}>all projects</a>
          {#if house.contributor}<button class="link" disabled={work.changing.busy} onclick={again}>judge again</button>{/if}
        </span>
      </div>
      <Working {work} />
      <div class="mr-5 mt-2"><Bar totals={audit.data.totals} under /></div>
      {#each audit.data.causes.filter((c) => c.colors > 1) as c (c.text)}
        <p class="mr-5 mt-1 text-small">
          {uses(c.uses, audit.data.line.kind)} of {c.colors} colors, one cause: <b>{c.text}</b>
          <button class="link ml-2" aria-pressed={cause === c.text} onclick={() => (cause = cause === c.text ? '' : c.text)}
            >{cause === c.text ? 'all findings' : 'only these'}<span class="sr-only">: {c.text}</span></button
          >
        </p>
      {/each}
      <div class="mt-3 flex min-h-0 flex-1 flex-col" role="grid" aria-label="Colors found" aria-rowcount={rows.length + 1}>
        <div role="rowgroup" class="overflow-hidden [scrollbar-gutter:stable]">
          <div class="found border-b border-current pb-1 pr-5 text-small font-bold" role="row">
            <span role="columnheader">Found | nearest</span><span role="columnheader">Value, nearest</span><span role="columnheader"
              >Verdict</span
            ><span class="text-right" role="columnheader">{usesHead(audit.data.line.kind)}</span><span
              class="pl-6"
              role="columnheader">Where</span
            >
          </div>
        </div>
        <Virtual bind:this={list} items={rows} height={() => 4.4} key={(r) => r.key} label="Colors">
          {#snippet row(r, i)}
            {@const c = r.color}
            <!-- svelte-ignore a11y_click_events_have_key_events -->
            <div
              class="found mt-1.5 h-[4rem] items-center pr-5"
              class:chosen={c.key === found?.key && !r.more}
              class:pl-5={r.inside}
              role="row"
              aria-selected={c.key === found?.key && !r.more}
              aria-rowindex={i + 2}
              tabindex={c.key === found?.key && !r.more ? 0 : -1}
              onclick={() => (r.more ? toggle(c.nearest?.name ?? '') : (key = c.key))}
            >
              {#if r.more}
                <span class="flex h-full" role="gridcell" aria-label={`${r.more.length} near-misses beside ${c.nearest?.hex}`}>
                  {#each r.more.slice(0, 12) as k (k.key)}<span class="flex-1" style:background={k.hex}></span>{/each}
                  <span class="w-1/2" style:background={c.nearest?.hex}></span>
                </span>
                <span class="min-w-0 pl-3" role="gridcell"
                  ><button
                    class="link font-bold"
                    aria-expanded={opened.includes(c.nearest?.name ?? '')}
                    onclick={(e) => {
                      e.stopPropagation();
                      toggle(c.nearest?.name ?? '');
                    }}>{r.more.length} near-misses</button
                  ><span class="block truncate text-small">of {c.nearest?.name}</span></span
                >
                <span role="gridcell"><Verdict verdict="drifted" /></span>
                <span class="text-right font-mono font-bold" role="gridcell">{r.more.reduce((n, k) => n + k.count, 0)}</span>
                <span class="pl-6 text-small" role="gridcell"
                  >up to {Math.max(...r.more.map((k) => k.nearest?.deltaE ?? 0)).toFixed(1)} ΔE00 away</span
                >
              {:else}
                <span class="grid h-full grid-cols-2" role="gridcell" aria-label={`${c.hex} beside ${c.nearest?.hex ?? 'nothing'}`}
                  ><span style:background={c.hex}></span><span style:background={c.nearest?.hex ?? 'transparent'}></span></span
                >
                <span class="min-w-0 pl-3" role="gridcell">
                  <button
                    class="value block max-w-full text-left font-bold {c.wide ? 'text-small leading-tight' : 'truncate'}"
                    onclick={() => (key = c.key)}>{c.spot ?? c.cmyk ?? c.wide ?? c.hex}</button
                  >
                  {#if c.nearest}<span class="block truncate text-small"
                      >{c.nearest.name}, {c.nearest.deltaE.toFixed(1)} {c.nearest.word}</span
                    >{/if}
                </span>
                <span role="gridcell"
                  ><Verdict verdict={c.verdict} />{#if c.nearest?.successor}<span class="block truncate text-small"
                      >use {c.nearest.successor}</span
                    >{/if}{#if since(c)}<span class="block truncate text-small">excused since</span>{/if}</span
                >
                <span class="text-right font-mono font-bold" role="gridcell">{c.count.toLocaleString('en-US')}</span>
                <span class="line-clamp-2 pl-6 text-small" role="gridcell">{wheres(c)}</span>
              {/if}
            </div>
          {/snippet}
        </Virtual>
      </div>
      <Unjudged {id} undecided={audit.data.undecided} unread={audit.data.unread} />
      {#each audit.data.notes as n (n)}<p class="pb-1 pr-5 pt-1 text-small">{n}</p>{/each}
      <div class="flex items-center gap-5 border-t border-current py-3 pr-5">
        {#if house.contributor && audit.data.line.run !== undefined}
          {#if mendable > 0}
            <button class="btn btn-primary" disabled={work.changing.busy} onclick={repaint}
              >Repaint {uses(mendable, audit.data.line.kind)}</button
            >
          {/if}
          <a class="btn" href={`${reportPath(id)}/plan`}>Repaint plan</a>
          {#if undecided > 0}<span
              >{count(undecided, 'off-brand color')}
              {undecided === 1 ? 'needs' : 'need'} a decision.
              <button class="link" disabled={changing.busy} onclick={gather}
                >put {undecided === 1 ? 'it' : 'them'} on the tray</button
              ></span
            >{/if}
        {/if}
        <span class="ml-auto flex gap-4 text-small"
          ><a class="link" href={report('html')} download>page to print</a><a class="link" href={report('csv')} download>CSV</a
          ></span
        >
      </div>
    {/if}
  </main>
  {#if found && audit.data}
    {#key `${id} ${found.key}`}<FoundSheet {found} audit={id} line={audit.data.line} tolerance={audit.data.tolerance} />{/key}
  {:else}
    <aside class="bg-base-200 p-5">
      {#if audit.data}<h2>No colors</h2>
        <p class="mt-2">
          Nothing in this file was found to be a color{audit.data.undecided > 0 ? ' that can be judged' : ''}.
        </p>{/if}
    </aside>
  {/if}
</div>

<style>
  .found {
    display: grid;
    grid-template-columns: 10rem 12.67rem 7.87rem 4.8rem minmax(0, 1fr);
  }
  .chosen {
    background: var(--color-base-200);
  }
  @media (max-width: 40rem) {
    .found {
      grid-template-columns: 5.6rem minmax(0, 1fr) 6.53rem 2.93rem;
    }
    .found > :nth-child(5) {
      display: none;
    }
  }
</style>
