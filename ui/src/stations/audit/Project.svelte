<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { searchParams } from 'sv-router';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { placed, trees, type Placed } from '../../lib/drag';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { bytes } from '../../lib/notations';
  import { route } from '../../lib/router';
  import Verdict from '../../lib/Verdict.svelte';
  import { count, go, percent, reportPath, uses, useProject, useWork, when } from './audit.svelte';
  import Excuses from './Excuses.svelte';
  import Scores from './Scores.svelte';
  import Working from './Working.svelte';

  // A project: its runs over time, the files of one of them, what was mended since the one before, and the ways to go on.
  const id = $derived(Number(route.params.project));
  const project = useProject(() => id);
  const work = useWork();
  let field = $state<HTMLInputElement>();
  let naming = $state<string | null>(null);
  let picked = $state<number>();
  let files = $state(100); // how many are shown

  const runs = $derived(project.data?.runs ?? []);
  const chosen = $derived(runs.find((r) => r.id === picked) ?? runs[0]);
  const points = $derived(
    [...runs].reverse().map((r) => ({
      key: r.id,
      score: r.score,
      name: `run ${r.number}`,
      told: `run ${r.number}, ${when.format(new Date(r.at))}`,
    })),
  );
  const before = $derived(chosen && runs.find((r) => r.number < chosen.number));

  const run = createQuery(() => ({
    queryKey: ['audits', 'run', house.id, chosen?.id],
    queryFn: () => need(api.GET('/houses/{house}/runs/{run}', { params: { path: { house: house.id, run: chosen?.id ?? 0 } } })),
    enabled: chosen !== undefined,
  }));
  const changes = createQuery(() => ({
    queryKey: ['audits', 'changes', house.id, chosen?.id, before?.id],
    queryFn: () =>
      need(
        api.GET('/houses/{house}/runs/{run}/changes', {
          params: { path: { house: house.id, run: chosen?.id ?? 0 }, query: { since: before?.id ?? 0 } },
        }),
      ),
    enabled: chosen !== undefined && before !== undefined,
  }));
  const made = createQuery(() => ({
    queryKey: ['audits', 'repaints', house.id, id],
    queryFn: () =>
      need(api.GET('/houses/{house}/projects/{project}/repaints', { params: { path: { house: house.id, project: id } } })),
  }));
  const remarks = createQuery(() => ({
    queryKey: ['audits', 'remarks', house.id, id],
    queryFn: () =>
      need(api.GET('/houses/{house}/projects/{project}/remarks', { params: { path: { house: house.id, project: id } } })),
  }));
  const open = $derived((remarks.data ?? []).filter((r) => !r.settled).toReversed()); // the newest first
  const plans = createQuery(() => ({
    queryKey: ['audits', 'plans', house.id],
    queryFn: () => need(api.GET('/houses/{house}/plans', { params: { path: { house: house.id } } })),
  }));
  // A saved plan; what needs no decision if none is chosen.
  let plan = $state<number | undefined>(Number(searchParams.get('plan')) || undefined);

  const add = (list: Placed[], leftOut: string[] = []) =>
    work.run(async () => {
      if (field) field.value = '';
      if (list.length === 0) return;
      await work.judgeAll(id, project.data?.project.name ?? '', list, leftOut);
      picked = undefined;
    });

  const again = () =>
    work.run(async () => {
      const path = { house: house.id, project: id };
      await work.done(
        project.data?.project.name ?? '',
        await need(api.POST('/houses/{house}/projects/{project}/runs', { params: { path } })),
      );
      picked = undefined;
    });

  const repaint = (dry: boolean) =>
    work.run(async () => {
      if (!chosen) return;
      const colors = plans.data?.find((p) => p.id === plan)?.colors;
      const path = { house: house.id, run: chosen.id };
      const begun = await need(api.POST('/houses/{house}/runs/{run}/repaints', { params: { path }, body: { colors, dry } }));
      const name = project.data?.project.name ?? '';
      return work.lead(
        `repaint/${await work.done(name, begun)}`,
        dry ? `What ${name} would become is worked out` : `The repaint of ${name} is done`,
        'see it',
      );
    });

  // What two runs tell differently, by its cause: the files were changed, or the library moved and they did not.
  const parts = $derived.by(() => {
    const { mended = [], fresh = [] } = changes.data ?? {};
    const moved = (since?: string) => fresh.filter((c) => c.of !== undefined && c.since === since);
    const off = (list: Schema['RunChange'][], what: string) => {
      const names = [...new Set(list.map((c) => c.of ?? ''))];
      return `${sum(list) === 1 ? 'is' : 'are'} off since ${named(names)} ${names.length === 1 ? 'was' : 'were'} ${what}`;
    };
    return [
      { title: 'mended', list: mended, moved: false },
      { title: off(moved('amended'), 'amended'), list: moved('amended'), moved: true },
      { title: off(moved('retired'), 'retired'), list: moved('retired'), moved: true },
      {
        title: `judged otherwise than in run ${before?.number}; the file is the same`,
        list: fresh.filter((c) => c.since === undefined && (c.of !== undefined || c.was === 'excused')),
        moved: false,
      },
      { title: 'new', list: fresh.filter((c) => c.of === undefined && c.was !== 'excused'), moved: false },
    ];
  });
  const named = (names: string[]) =>
    names.length > 6
      ? `${names.slice(0, 5).join(', ')} and ${names.length - 5} more`
      : names.join(', ').replace(/, ([^,]*)$/, ' and $1');

  /** Repaints by all that was amended or replaced since the run before. */
  const follow = (dry: boolean) =>
    work.run(async () => {
      if (!chosen || !before) return;
      const path = { house: house.id };
      const colors = await need(api.GET('/houses/{house}/plans/proposal', { params: { path, query: { run: before.id } } }));
      if (colors.length === 0) return 'Nothing can be proposed: what was retired has no successor yet';
      const begun = await need(
        api.POST('/houses/{house}/runs/{run}/repaints', { params: { path: { ...path, run: chosen.id } }, body: { colors, dry } }),
      );
      const name = project.data?.project.name ?? '';
      return work.lead(
        `repaint/${await work.done(name, begun)}`,
        dry ? `What ${name} would become is worked out` : `The repaint of ${name} is done`,
        'see it',
      );
    });

  const rename = () =>
    work.run(async () => {
      const name = naming ?? '';
      const was = project.data?.project.name ?? '';
      const path = { house: house.id, project: id };
      await need(api.PATCH('/houses/{house}/projects/{project}', { params: { path }, body: { name } }));
      naming = null;
      return {
        said: `The project is called ${name} now`,
        undo: [way('patch', '/houses/{house}/projects/{project}', { params: { path }, body: { name: was } })],
      };
    });

  const remove = () =>
    work.run(async () => {
      const path = { house: house.id, project: id };
      await need(api.DELETE('/houses/{house}/projects/{project}', { params: { path } }));
      go(house.path('audit'));
      return {
        said: `${project.data?.project.name} is removed`,
        undo: [way('post', '/houses/{house}/projects/{project}/restore', { params: { path } })],
      };
    });

  const dropFile = (path: string) =>
    work.run(async () => {
      const params = { path: { house: house.id, project: id }, query: { path } };
      await need(api.DELETE('/houses/{house}/projects/{project}/files', { params }));
      return {
        said: `${path} is out of the project; the runs that read it keep it`,
        undo: [way('post', '/houses/{house}/projects/{project}/files/restore', { params })],
      };
    });

  const dropRun = (r: Schema['Run']) =>
    work.run(async () => {
      await need(api.DELETE('/houses/{house}/runs/{run}', { params: { path: { house: house.id, run: r.id } } }));
      picked = undefined;
      return `Run ${r.number} is deleted with what it found`;
    });
  let dropping = $state(false);
  const report = (format: string) => `/api/houses/${house.id}/runs/${chosen?.id}/report/${format}`;
  const sum = (list: Schema['RunChange'][]) => list.reduce((n, c) => n + c.count, 0);
</script>

<div class="work">
  <main
    class="flex min-h-0 flex-col pl-5 pt-4"
    {@attach trees(
      (list, leftOut) => void add(list, leftOut),
      () => house.contributor,
    )}
  >
    {#if project.isError}<p class="mt-4" role="alert">{project.error.message}</p>{/if}
    {#if project.data}
      <div class="flex flex-wrap items-baseline gap-x-4 pr-5">
        {#if naming !== null}
          <form
            class="flex items-center gap-2"
            onsubmit={(e) => {
              e.preventDefault();
              void rename();
            }}
          >
            <input class="input w-[21.33rem]" aria-label="Name of the project" required bind:value={naming} {@attach opened} />
            <button class="btn btn-primary btn-sm">Rename</button>
            <button type="button" class="link" onclick={() => (naming = null)}>leave it</button>
          </form>
        {:else}
          <h1 class="truncate">{project.data.project.name}</h1>
          {#if chosen}<span class="shrink-0"
              >{percent(chosen.score)}{chosen.score === undefined ? '' : ' on-brand'}, {count(chosen.files, 'file')}</span
            >{/if}
        {/if}
        <span class="ml-auto flex flex-wrap items-center gap-x-4 max-[40rem]:ml-0">
          <a class="link" href={house.path('audit')}>all projects</a>
          {#if house.contributor}
            <button class="link" disabled={work.changing.busy} onclick={() => field?.click()}>add files</button>
            <button class="btn btn-primary" disabled={work.changing.busy || project.data.files.length === 0} onclick={again}
              >Judge again</button
            >
          {/if}
        </span>
        <input
          class="hidden"
          type="file"
          multiple
          accept={work.accept}
          aria-label="Files to add"
          bind:this={field}
          onchange={() => add(placed(field?.files))}
        />
      </div>
      <Working {work} project={id} />
      <div class="min-h-0 flex-1 overflow-y-auto pb-5 pr-5">
        {#if runs.length > 0}
          <div class="mt-3"><Scores {points} label="Score over the runs" chosen={chosen?.id} choose={(id) => (picked = id)} /></div>
        {:else}
          <p class="mt-6 border border-dashed border-current p-8 text-center">
            {project.data.files.length === 0
              ? 'No files yet: drop files, a folder or a ZIP archive here.'
              : `${count(project.data.files.length, 'file')} waiting to be judged.`}
          </p>
        {/if}
        {#if run.data && chosen}
          <table class="mt-3 w-full border-collapse">
            <thead class="text-left text-small"
              ><tr class="border-b border-current"
                ><th class="py-1">File, least on-brand first</th><th class="w-[6rem]">On-brand</th><th
                  class="w-[5.33rem] text-right max-[40rem]:hidden">Uses</th
                ><th class="w-[6rem] text-right">Findings</th><th class="w-[6rem] text-right max-[40rem]:hidden">Unjudged</th></tr
              ></thead
            >
            <tbody>
              {#each run.data.files as f (f.id)}
                <tr class="rule border-b">
                  <td class="max-w-0 truncate py-2"><a class="link font-bold" href={reportPath(f.id)}>{f.path ?? f.file}</a></td>
                  <td class="font-mono">{percent(f.score)}</td>
                  <td class="text-right font-mono max-[40rem]:hidden">{f.uses.toLocaleString('en-US')}</td>
                  <td class="text-right font-mono">{f.findings.toLocaleString('en-US')}</td>
                  <td class="text-right font-mono max-[40rem]:hidden">{f.unjudged.toLocaleString('en-US')}</td>
                </tr>
              {/each}
              {#each run.data.unread as u (u.path)}
                <tr class="rule border-b"
                  ><td class="py-2">{u.path}</td><td colspan="4" class="text-small">not read: {u.why}</td></tr
                >
              {/each}
            </tbody>
          </table>
        {/if}
        {#if changes.data && before}
          <h2 class="mt-6 text-[1.13rem]">Since run {before.number}</h2>
          {#if changes.data.mended.length === 0 && changes.data.fresh.length === 0}<p class="mt-1">Nothing is different.</p>{/if}
          {#each parts as part (part.title)}
            {#if part.list.length > 0}
              <p class="mt-2 flex flex-wrap items-baseline gap-x-4">
                <b>{uses(sum(part.list))} {part.title}</b>
                {#if part.moved && house.contributor && chosen?.id === runs[0]?.id}
                  <button class="btn btn-primary btn-sm" disabled={work.changing.busy} onclick={() => follow(false)}
                    >Repaint by that</button
                  >
                  <button class="link" disabled={work.changing.busy} onclick={() => follow(true)}
                    >only show what would change</button
                  >
                {/if}
              </p>
              <ul>
                {#each part.list.slice(0, 60) as c (`${c.path} ${c.found}`)}
                  <li class="rule change grid items-center gap-3 border-b py-1 text-small">
                    <span class="h-6" style:background={c.hex} aria-hidden="true"></span>
                    <b class="truncate font-mono">{c.found}</b>
                    <span class="text-right font-mono">{c.count}</span>
                    <span class="flex items-center gap-2"
                      >{#if c.was}<Verdict verdict={c.was} />{:else}<span>was not there</span>{/if}<span aria-hidden="true">→</span
                      >{#if c.is}<Verdict verdict={c.is} />{:else}<span>gone</span>{/if}</span
                    >
                    <span class="truncate">{c.path}</span>
                  </li>
                {/each}
              </ul>
              {#if part.list.length > 60}<p class="mt-1 text-small">and {part.list.length - 60} more colors</p>{/if}
            {/if}
          {/each}
        {/if}
      </div>
    {/if}
  </main>
  <aside class="flex min-h-0 flex-col overflow-y-auto bg-base-200 p-5">
    {#if chosen}
      <h2>Run {chosen.number}</h2>
      <p class="mt-1">
        {when.format(new Date(chosen.at))}, {chosen.by}. {uses(chosen.uses)}, {chosen.findings.toLocaleString('en-US')} off.
        {#if chosen.same === chosen.files}No file had changed since the run before, nor the rules.{:else if chosen.same}{count(
            chosen.same,
            'file',
          )} had not changed since the run before and {chosen.same === 1 ? 'was' : 'were'} not judged again.{/if}
      </p>
      {#if house.contributor}
        <h3 class="mt-4 text-[0.93rem] font-bold">Repaint all files</h3>
        <label class="mt-1 grid gap-1 text-small"
          >Plan
          <select class="select w-full" bind:value={plan}>
            <option value={undefined}>drifted to the nearest, retired to the successor</option>
            {#each plans.data ?? [] as p (p.id)}<option value={p.id}>{p.name} ({count(p.colors.length, 'color')})</option>{/each}
          </select></label
        >
        <p class="mt-2 flex items-center gap-4">
          <button class="btn btn-primary" disabled={work.changing.busy} onclick={() => repaint(false)}
            >Repaint {count(chosen.files, 'file')}</button
          >
          <button class="link" disabled={work.changing.busy} onclick={() => repaint(true)}>only show what would change</button>
        </p>
      {/if}
      <h3 class="mt-5 text-[0.93rem] font-bold">Report</h3>
      <p class="mt-1 flex flex-wrap gap-x-4">
        <a class="link" href={report('html')} download>page to print</a>
        <a class="link" href={report('csv')} download>table (CSV)</a>
        <a class="link" href={report('json')} download>JSON</a>
        <a class="link" href={report('sarif')} download>SARIF</a>
      </p>
    {/if}
    {#if open.length > 0}
      <h3 class="mt-5 text-[0.93rem] font-bold">Remarks</h3>
      <ul>
        {#each open.slice(0, 12) as r (r.id)}
          {@const file = run.data?.files.find((f) => f.path === r.path)}
          <li class="rule border-b py-1.5 text-small">
            <span class="block break-words"
              ><span class="font-mono">{r.color}</span> in {#if file}<a class="link" href={reportPath(file.id)}>{r.path}</a
                >{:else}{r.path}{/if}{#if r.for}, for <b>{r.mine ? 'you' : r.for}</b>{/if}</span
            >
            <span class="block break-words">{r.text}</span>
            <span>{r.by}, {when.format(new Date(r.at))}</span>
          </li>
        {/each}
      </ul>
      {#if open.length > 12}<p class="text-small">and {open.length - 12} more</p>{/if}
    {/if}
    {#if made.data && made.data.length > 0}
      <h3 class="mt-5 text-[0.93rem] font-bold">Repainted</h3>
      <ul>
        {#each made.data.slice(0, 8) as r (r.id)}
          <li class="rule border-b py-1.5 text-small">
            <a class="link" href={house.path(`audit/repaint/${r.id}`)}>{r.dry ? 'tried' : r.name}</a>, {uses(r.changed)}, {when.format(
              new Date(r.at),
            )}
          </li>
        {/each}
      </ul>
    {/if}
    <Excuses project={id} />
    {#if project.data}
      <h2 class="mt-6 text-[1.13rem]">Files of the next run</h2>
      {#if project.data.files.length === 0}<p class="text-small">None. Drop some here.</p>{/if}
      <ul class="text-small">
        {#each project.data.files.slice(0, files) as f (f.path)}
          <li class="rule grid grid-cols-[1fr_auto_auto] gap-3 border-b py-1">
            <span class="min-w-0"
              ><span class="block truncate" title={f.path}>{f.path}</span>{#if f.why}<span class="block">not read: {f.why}</span
                >{/if}</span
            ><span class="font-mono">{bytes(f.size)}</span>
            {#if house.contributor}<button
                class="link"
                aria-label={`take out ${f.path}`}
                disabled={work.changing.busy}
                onclick={() => dropFile(f.path)}>take out</button
              >{/if}
          </li>
        {/each}
      </ul>
      {#if project.data.files.length > files}<button class="link text-small" onclick={() => (files += 500)}
          >show more of {project.data.files.length - files}</button
        >{/if}
      {#if house.contributor}
        <p class="mt-5 flex flex-wrap gap-4 text-small">
          <button class="link" onclick={() => (naming = project.data.project.name)}>rename</button>
          <button class="link" onclick={remove}>remove the project</button>
          {#if chosen && house.keeper}
            {#if dropping}
              <span
                >Run {chosen.number} goes for good. <button class="link" onclick={() => dropRun(chosen)}>delete it</button>
                <button class="link" onclick={() => (dropping = false)}>leave it</button></span
              >
            {:else}<button class="link" onclick={() => (dropping = true)}>delete run {chosen.number}</button>{/if}
          {/if}
        </p>
      {/if}
    {/if}
  </aside>
</div>

<style>
  .change {
    grid-template-columns: 2rem 8.67rem 4.67rem 17.33rem 1fr;
  }
  @media (max-width: 40rem) {
    .change {
      grid-template-columns: 2rem 5.07rem 2rem minmax(0, 1fr);
    }
    .change > :nth-child(5) {
      display: none;
    }
  }
</style>
