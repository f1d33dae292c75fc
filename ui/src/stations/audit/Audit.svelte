<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, Problem, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { files } from '../../lib/drag';
  import { house, useAudits, useLimits } from '../../lib/house.svelte';
  import { follow } from '../../lib/jobs';
  import { keys } from '../../lib/keys.svelte';
  import Progress from '../../lib/Progress.svelte';
  import { navigate, route } from '../../lib/router';
  import { bytes } from '../../lib/notations';
  import Verdict from '../../lib/Verdict.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import { followFocus } from '../../lib/focus';
  import FoundSheet from './FoundSheet.svelte';

  const audits = useAudits();
  const listed = $derived(audits.data?.pages.flatMap((p) => p.audits) ?? []);
  const limits = useLimits();
  const changing = useChange(['audits']);
  const chosen = $derived(route.params.audit ? Number(route.params.audit) : undefined);
  const audit = createQuery(() => ({
    queryKey: ['audit', house.id, chosen],
    queryFn: () => whole(house.id, chosen ?? 0),
    enabled: chosen !== undefined,
    staleTime: Infinity,
  }));

  /** Reads an audit with all its colors, page by page. */
  async function whole(of: number, id: number) {
    const path = { house: of, audit: id };
    const a = await need(api.GET('/houses/{house}/audits/{audit}', { params: { path } }));
    for (let from = a.next; from !== undefined;) {
      const page = await need(api.GET('/houses/{house}/audits/{audit}', { params: { path, query: { from } } }));
      a.colors.push(...page.colors);
      from = page.next;
    }
    return a;
  }

  let file = $state<HTMLInputElement>();
  let job = $state<Schema['Job'] | null>(null);
  let reading = $state(''); // the file that the job reads
  let key = $state(''); // of the chosen color
  const found = $derived(audit.data?.colors.find((c) => c.key === key) ?? audit.data?.colors[0]);

  const go = (id: number) => navigate('/h/:house/audit/:audit', { params: { house: String(house.id), audit: String(id) } });

  async function judged(name: string, begun: Schema['Job']) {
    reading = name;
    try {
      const done = await follow(house.id, begun, (j) => (job = j));
      return Number(done.result);
    } finally {
      job = null;
    }
  }

  const judge = (list: FileList | null | undefined) =>
    changing.run(async () => {
      let last: number | undefined;
      let first: unknown; // the first thing that went wrong; the other files are judged all the same
      for (const f of list ?? []) {
        try {
          const most = limits.data?.uploadBytes ?? Infinity;
          if (f.size > most) throw new Problem(`${f.name} is larger than ${bytes(most)}, the most that is read.`, 413);
          last = await judged(f.name, await changing.send<Schema['Job']>(`/houses/${house.id}/audits`, f, f.name));
        } catch (e) {
          first ??= e;
        }
      }
      if (file) file.value = '';
      if (last !== undefined) void go(last);
      if (first) throw first;
    });

  const again = () =>
    changing.run(async () => {
      const path = { house: house.id, audit: chosen ?? 0 };
      const before = audit.data;
      const begun = await need(api.POST('/houses/{house}/audits/{audit}/again', { params: { path } }));
      const id = await judged(before?.line.file ?? '', begun);
      void go(id);
      if (before) return changed(before, await whole(path.house, id));
    });

  /** What another judgement of the same file says differently: the library has moved on, the file has not. */
  function changed(before: Schema['Audit'], after: Schema['Audit']): string {
    const was = new Map(before.colors.map((c) => [c.key, c.verdict]));
    const moved = after.colors.filter((c) => was.get(c.key) !== undefined && was.get(c.key) !== c.verdict);
    if (moved.length === 0) return 'Judged again: every color has the verdict that it had';
    const told = moved.slice(0, 3).map((c) => `${c.hex} is ${c.verdict}, was ${was.get(c.key)}`);
    const more = moved.length - told.length;
    const score =
      before.line.score === after.line.score ? '' : ` (${percent(before.line.score)} before, ${percent(after.line.score)} now)`;
    return `Judged again: ${told.join('; ')}${more > 0 ? `; ${more} more` : ''}${score}`;
  }

  const giveUp = async () => {
    if (job)
      await need(api.DELETE('/houses/{house}/jobs/{job}', { params: { path: { house: house.id, job: job.id } } })).catch(
        () => undefined,
      );
  };

  function step(by: number) {
    const list = audit.data?.colors ?? [];
    const at = list.findIndex((c) => c.key === found?.key);
    const next = list[Math.max(0, Math.min(list.length - 1, at + by))];
    if (!next) return;
    key = next.key;
    rows?.show(indexOf(next.key));
    followFocus();
  }
  const indexOf = (k: string) => audit.data?.colors.findIndex((c) => c.key === k) ?? -1;
  let rows = $state<{ show: (index: number) => void }>();

  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next found color', run: () => step(1) },
      { key: 'ArrowUp', does: 'found color before', run: () => step(-1) },
      { key: 'u', does: 'upload a file to judge', run: () => file?.click() },
    ]),
  );

  const order = ['on-brand', 'drifted', 'retired', 'off-brand', 'unjudged', 'excused'] as const;
  const totals = $derived(
    order
      .map((verdict) => ({ verdict, uses: audit.data?.totals.find((t) => t.verdict === verdict)?.uses ?? 0 }))
      .filter((t) => t.uses > 0),
  );
  const percent = (score: number | undefined) =>
    score === undefined ? 'nothing judged' : `${(Math.floor(score * 1000) / 10).toFixed(1)} %`;
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const wheres = (c: Schema['FoundColor']) => {
    const more = c.placeCount - 1;
    return (c.places[0]?.where ?? '') + (more > 0 ? `; ${more} more ${more === 1 ? 'place' : 'places'}` : '');
  };
</script>

<div class="work">
  <main
    class="flex min-h-0 flex-col pl-5 pt-4"
    {@attach files(
      (list) => void judge(list),
      () => house.contributor,
    )}
  >
    <div class="flex items-baseline gap-4 pr-5">
      {#if chosen !== undefined && audit.data}
        <h1 class="truncate">{audit.data.line.file}</h1>
        <span class="shrink-0">{audit.data.about}, {percent(audit.data.line.score)}{audit.data.line.score === undefined ? '' : ' on-brand'}</span>
      {:else}
        <h1>Audit</h1>
      {/if}
      <span class="ml-auto flex shrink-0 items-center gap-4">
        {#if chosen !== undefined}
          <a class="link" href={house.path('audit')}>all audits</a>
          {#if house.contributor}<button class="link" disabled={changing.busy} onclick={again}>judge again</button>{/if}
        {/if}
        {#if house.contributor}<button class="btn btn-primary" disabled={changing.busy} onclick={() => file?.click()}
            >Judge a file</button
          >{/if}
      </span>
      <input
        class="hidden"
        type="file"
        multiple
        accept=".pptx,.potx,.ppsx,.pptm,.svg,.css"
        aria-label="File to judge"
        bind:this={file}
        onchange={() => judge(file?.files)}
      />
    </div>
    {#if changing.progress}
      <div class="mt-2 pr-5">
        <Progress
          what={changing.progress.share < 1
            ? `${changing.progress.name}, ${Math.round(changing.progress.share * 100)} % sent`
            : `${changing.progress.name} is sent; the server takes it`}
          share={changing.progress.share}
          cancel={changing.cancel}
        />
      </div>
    {:else if job}
      <div class="mt-2 pr-5">
        <Progress
          what={job.state === 'waiting'
            ? `${reading} waits for its turn`
            : `Reading ${reading}${job.stage ? `: ${job.stage}` : ''}`}
          share={job.state === 'waiting' ? undefined : job.share}
          cancel={giveUp}
        />
      </div>
    {/if}
    {#if changing.problem}<p role="alert" class="mr-5 mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}

    {#if chosen === undefined}
      <div class="min-h-0 flex-1 overflow-y-auto pr-5">
        {#if audits.data && listed.length === 0}
          <div class="mt-10 grid place-items-center border border-dashed border-current p-14 text-center">
            <h2>Did they use the right colors?</h2>
            <p class="mt-2 max-w-[420px]">
              Drop a presentation (.pptx), a drawing (.svg) or a style sheet (.css) here. Every color in it is found, counted and
              judged against the library.
            </p>
            {#if house.contributor}<button class="btn btn-primary mt-5" onclick={() => file?.click()}>Judge a file</button>{/if}
          </div>
        {:else if audits.data}
          <table class="mt-4 w-full border-collapse">
            <thead class="text-left text-small"
              ><tr class="border-b border-current"
                ><th class="py-1">File</th><th>Score</th><th class="text-right">Uses</th><th class="text-right">Findings</th><th
                  class="pl-8">When, by whom</th
                ></tr
              ></thead
            >
            <tbody>
              {#each listed as a (a.id)}
                <tr class="rule border-b">
                  <td class="py-2.5"><a class="font-bold link" href={house.path(`audit/${a.id}`)}>{a.file}</a></td>
                  <td class="font-mono">{percent(a.score)}</td>
                  <td class="text-right font-mono">{a.uses}</td>
                  <td class="text-right font-mono">{a.findings}</td>
                  <td class="pl-8">{day.format(new Date(a.at))}, {a.by}</td>
                </tr>
              {/each}
            </tbody>
          </table>
          {#if audits.hasNextPage}
            <button class="link mt-3" onclick={() => audits.fetchNextPage()}>show older audits</button>
          {/if}
          {#if house.contributor}<p class="mt-5 border border-dashed border-current p-6 text-center">
              Drop presentations, drawings or style sheets anywhere here to judge them.
            </p>{/if}
        {/if}
      </div>
    {:else if audit.isError}
      <p class="mt-4" role="alert">{audit.error.message}</p>
    {:else if audit.data}
      <div
        class="mr-5 mt-3 flex border border-current"
        role="img"
        aria-label={totals.map((t) => `${t.uses} ${t.verdict}`).join(', ')}
      >
        {#each totals as t, i (t.verdict)}
          <span
            class="whitespace-nowrap px-3 py-1 text-small font-bold"
            class:border-l={i > 0}
            class:border-current={i > 0}
            class:solid={t.verdict === 'on-brand'}
            style:flex-grow={t.uses}>{t.uses} {t.verdict}</span
          >
        {/each}
      </div>
      <div
        class="mt-3 flex min-h-0 flex-1 flex-col"
        role="grid"
        aria-label="Colors found"
        aria-rowcount={audit.data.colors.length + 1}
      >
        <div role="rowgroup">
          <div class="found border-b border-current pb-1 pr-5 text-small font-bold" role="row">
            <span role="columnheader">Found | nearest</span><span role="columnheader">Value, nearest</span><span role="columnheader"
              >Verdict</span
            ><span class="text-right" role="columnheader">Uses</span><span class="pl-6" role="columnheader">Where</span>
          </div>
        </div>
        <Virtual bind:this={rows} items={audit.data.colors} height={() => 66} key={(c) => c.key} label="Colors">
          {#snippet row(c, i)}
            <!-- svelte-ignore a11y_click_events_have_key_events -->
            <div
              class="found mt-1.5 h-[60px] items-center pr-5"
              class:chosen={c.key === found?.key}
              role="row"
              aria-selected={c.key === found?.key}
              aria-rowindex={i + 2}
              tabindex={c.key === found?.key ? 0 : -1}
              onclick={() => (key = c.key)}
            >
              <span class="grid h-full grid-cols-2" role="gridcell" aria-label={`${c.hex} beside ${c.nearest?.hex ?? 'nothing'}`}
                ><span style:background={c.hex}></span><span style:background={c.nearest?.hex ?? 'transparent'}></span></span
              >
              <span class="min-w-0 pl-3" role="gridcell">
                <button class="value font-bold" onclick={() => (key = c.key)}>{c.hex}</button>
                {#if c.nearest}<span class="block truncate text-small"
                    >{c.nearest.name}, {c.nearest.deltaE.toFixed(1)} {c.nearest.word}</span
                  >{/if}
              </span>
              <span role="gridcell"
                ><Verdict verdict={c.verdict} />{#if c.nearest?.successor}<span class="block truncate text-small"
                    >use {c.nearest.successor}</span
                  >{/if}</span
              >
              <span class="text-right font-mono font-bold" role="gridcell">{c.count}</span>
              <span class="line-clamp-2 pl-6 text-small" role="gridcell">{wheres(c)}</span>
            </div>
          {/snippet}
        </Virtual>
        {#each audit.data.notes as n (n)}<p class="pb-1 pr-5 pt-2 text-small">{n}</p>{/each}
      </div>
    {/if}
  </main>
  {#if chosen !== undefined && found && audit.data}
    {#key `${chosen} ${found.key}`}<FoundSheet {found} audit={chosen} tolerance={audit.data.tolerance} />{/key}
  {:else}
    <aside class="bg-base-200 p-5">
      <h2>Verdicts</h2>
      <dl class="mt-3 grid grid-cols-[120px_1fr] gap-y-3">
        <dt><Verdict verdict="on-brand" /></dt>
        <dd>exactly a library color</dd>
        <dt><Verdict verdict="drifted" /></dt>
        <dd>not the brand value, but so close that it was surely meant</dd>
        <dt><Verdict verdict="retired" /></dt>
        <dd>a color that was replaced, or close to one</dd>
        <dt><Verdict verdict="off-brand" /></dt>
        <dd>none of ours</dd>
      </dl>
    </aside>
  {/if}
</div>

<style>
  .found {
    display: grid;
    grid-template-columns: 150px 190px 118px 56px minmax(0, 1fr);
  }
  .chosen {
    background: var(--color-base-200);
  }
  .solid {
    background: var(--color-base-content);
    color: var(--color-base-100);
  }
</style>
