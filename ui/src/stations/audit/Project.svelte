<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { searchParams } from 'sv-router';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { placed, trees, type Placed } from '../../lib/drag';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { route } from '../../lib/router';
  import { count, go, percent, reportPath, uses, useProject, useWork, when } from './audit.svelte';
  import Excuses from './Excuses.svelte';
  import Scores from './Scores.svelte';
  import Working from './Working.svelte';
  import OpenRemarks from './OpenRemarks.svelte';
  import ProjectFiles from './ProjectFiles.svelte';
  import RunChanges from './RunChanges.svelte';
  import RunSheet from './RunSheet.svelte';

  // A project: its runs over time, the files of one of them, what was mended since the one before, and the ways to go on.
  const id = $derived(Number(route.params.project));
  const project = useProject(() => id);
  const work = useWork();
  let field = $state<HTMLInputElement>();
  let naming = $state<string | null>(null);
  let picked = $state<number>();

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

  const dropRun = (r: Schema['Run']) =>
    work.run(async () => {
      await need(api.DELETE('/houses/{house}/runs/{run}', { params: { path: { house: house.id, run: r.id } } }));
      picked = undefined;
      return `Run ${r.number} is deleted with what it found`;
    });
  let dropping = $state(false);
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
        {#if changes.data && before && chosen}<RunChanges
            changes={changes.data}
            before={before.number}
            may={house.contributor && chosen.id === runs[0]?.id}
            busy={work.changing.busy}
            {follow}
          />{/if}
      </div>
    {/if}
  </main>
  <aside class="flex min-h-0 flex-col overflow-y-auto bg-base-200 p-5">
    {#if chosen}
      <RunSheet run={chosen} {work} plans={plans.data ?? []} {repaint} bind:plan />
    {/if}
    <OpenRemarks project={id} files={run.data?.files ?? []} />
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
      <ProjectFiles project={id} list={project.data.files} {work} />
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
