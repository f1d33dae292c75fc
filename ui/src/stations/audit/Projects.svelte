<script lang="ts">
  import { createInfiniteQuery, createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { placed, trees, type Placed } from '../../lib/drag';
  import { fits } from '../../lib/fits';
  import ListFind from '../../lib/ListFind.svelte';
  import { house, useLimits } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import Verdict from '../../lib/Verdict.svelte';
  import { count, day, nameOf, percent, useWork, verdicts, when } from './audit.svelte';
  import Excuses from './Excuses.svelte';
  import Judging from './Judging.svelte';
  import Scores from './Scores.svelte';
  import Working from './Working.svelte';

  // The projects of the house with the score of their last run, and the way to judge more files.
  const projects = createInfiniteQuery(() => ({
    queryKey: ['audits', 'projects', house.id],
    queryFn: ({ pageParam }) =>
      need(api.GET('/houses/{house}/projects', { params: { path: { house: house.id }, query: { before: pageParam } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next,
  }));
  const limits = useLimits();
  const work = useWork();
  let field = $state<HTMLInputElement>();
  let order = $state<'newest' | 'worst'>('newest');

  const listed = $derived(projects.data?.pages.flatMap((p) => p.projects) ?? []);
  let words = $state('');
  const fitting = $derived(listed.filter((p) => fits(words, p.name, p.by)));
  $effect(() => {
    if (words && projects.hasNextPage && !projects.isFetchingNextPage) void projects.fetchNextPage(); // all of them are looked through
  });
  const shown = $derived(order === 'worst' ? [...fitting].sort((a, b) => (a.last?.score ?? 2) - (b.last?.score ?? 2)) : fitting);
  // The house over time: at the end of each day with runs, the last one of every project.
  const runs = createQuery(() => ({
    queryKey: ['audits', 'runs', house.id],
    queryFn: () => need(api.GET('/houses/{house}/runs', { params: { path: { house: house.id } } })),
  }));
  // The house as a whole is that of the newest run.
  const overall = $derived(runs.data?.[0]);
  const points = $derived.by(() => {
    const days: { key: number; score?: number; name: string; told: string }[] = [];
    for (const r of [...(runs.data ?? [])].reverse()) {
      const told = day.format(new Date(r.at));
      if (days.at(-1)?.told === told) days.pop();
      days.push({
        key: r.id,
        score: r.together,
        name: told.replace(/, \d{4}$/, ''),
        told,
      });
    }
    return days;
  });

  const judge = (list: Placed[], leftOut: string[] = []) =>
    work.run(async () => {
      if (field) field.value = '';
      if (list.length === 0) return;
      if (list.length === 1 && leftOut.length === 0) {
        const { file } = list[0]!;
        return work.lead(String(await work.judge(file)), `${file.name} is judged`, 'its verdicts');
      }
      const name = nameOf(list);
      const path = { house: house.id };
      const known = listed.find((p) => p.name === name);
      const project = known ?? (await need(api.POST('/houses/{house}/projects', { params: { path }, body: { name } })));
      await work.judgeAll(project.id, name, list, leftOut);
      return work.lead(`project/${project.id}`, `${name} is judged`, name);
    });

  $effect(() => keys.add([{ key: 'u', does: 'choose files to judge', run: () => field?.click() }]));
</script>

<div class="work">
  <main
    class="flex min-h-0 flex-col pl-5 pt-4"
    {@attach trees(
      (list, leftOut) => void judge(list, leftOut),
      () => house.contributor,
    )}
  >
    <div class="flex flex-wrap items-baseline gap-x-4 pr-5">
      <h1>Audit</h1>
      {#if overall?.together !== undefined}<span class="shrink-0"
          >{percent(overall.together)} on-brand in {count(overall.projects ?? 0, 'project')}</span
        >{/if}
      <span class="ml-auto flex flex-wrap items-center gap-x-4 max-[40rem]:ml-0">
        <a class="link" href={house.path('audit/plans')}>repaint plans</a>
        {#if house.contributor}<button class="btn btn-primary" disabled={work.changing.busy} onclick={() => field?.click()}
            >Judge files</button
          >{/if}
      </span>
      <input
        class="hidden"
        type="file"
        multiple
        accept={work.accept}
        aria-label="Files to judge"
        bind:this={field}
        onchange={() => judge(placed(field?.files))}
      />
    </div>
    <Working {work} />
    <div class="min-h-0 flex-1 overflow-y-auto pr-5">
      {#if projects.isError}<p class="mt-4" role="alert">{projects.error.message}</p>{/if}
      {#if projects.data && listed.length === 0}
        <div class="mt-10 grid place-items-center border border-dashed border-current p-14 text-center">
          <h2>Did they use the right colors?</h2>
          <p class="mt-2 max-w-[30.67rem]">
            Drop a file, several, a folder or a ZIP archive here. Every color in it is found down to the last part, judged against
            the library, and put right in the file if you say so.
          </p>
          {#if house.contributor}<button class="btn btn-primary mt-5" onclick={() => field?.click()}>Judge files</button>{/if}
        </div>
      {:else if projects.data}
        <div class="mt-2"><ListFind bind:words of={listed.length} label="Find in the projects" /></div>
        <table class="mt-4 w-full border-collapse">
          <thead class="text-left text-small"
            ><tr class="border-b border-current"
              ><th class="py-1"
                >Project <button class="link ml-3 font-normal" onclick={() => (order = order === 'worst' ? 'newest' : 'worst')}
                  >{order === 'worst' ? 'least on-brand first' : 'newest first'}</button
                ></th
              ><th class="w-[11.33rem] max-[68.75rem]:w-[5.07rem]">On-brand</th><th class="w-[4.67rem] text-right">Findings</th><th
                class="w-[6rem] text-right max-[40rem]:hidden">Unjudged</th
              ><th class="w-[3.6rem] text-right max-[40rem]:hidden">Files</th><th class="w-[9.33rem] pl-6 max-[40rem]:hidden"
                >Last run</th
              ></tr
            ></thead
          >
          <tbody>
            {#each shown as p (p.id)}
              <tr class="rule border-b">
                <td class="max-w-0 truncate py-2.5"
                  ><a class="font-bold link" href={house.path(`audit/project/${p.id}`)}>{p.name}</a></td
                >
                {#if p.last}
                  <td>
                    <span class="flex items-center gap-3 font-mono"
                      >{#if p.last.score !== undefined}<span class="meter max-[68.75rem]:hidden!" aria-hidden="true"
                          ><span style:width={`${100 * p.last.score}%`}></span></span
                        >{/if}{percent(p.last.score)}</span
                    >
                  </td>
                  <td class="text-right font-mono">{p.last.findings}</td>
                  <td class="text-right font-mono max-[40rem]:hidden">{p.last.unjudged}</td>
                  <td class="text-right font-mono max-[40rem]:hidden">{p.last.files}</td>
                  <td class="truncate pl-6 max-[40rem]:hidden" title={`${when.format(new Date(p.last.at))}, ${p.last.by}`}
                    >{day.format(new Date(p.last.at))}</td
                  >
                {:else}
                  <td colspan="5">not judged yet</td>
                {/if}
              </tr>
            {/each}
          </tbody>
        </table>
        {#if points.length > 1}
          <h2 class="mt-6 text-[1.13rem]">The house over time</h2>
          <div class="mt-2"><Scores {points} label="Share of judged uses that are on-brand, over all projects" /></div>
        {/if}
        {#if projects.hasNextPage}
          <button class="link mt-3" onclick={() => projects.fetchNextPage()}>show older projects</button>
        {/if}
        {#if house.contributor}<p class="mt-5 border border-dashed border-current p-6 text-center">
            Drop files, folders or ZIP archives anywhere here to judge them. What is dropped together is one project.
          </p>{/if}
      {/if}
    </div>
  </main>
  <aside class="flex min-h-0 flex-col overflow-y-auto bg-base-200 p-5">
    <h2>Verdicts</h2>
    <dl class="mt-3 grid grid-cols-[8rem_1fr] gap-y-2.5">
      {#each verdicts as v (v.word)}
        <dt><Verdict verdict={v.word} /></dt>
        <dd>{v.means}</dd>
      {/each}
    </dl>
    <Judging />
    <Excuses names={Object.fromEntries(listed.map((p) => [p.id, p.name]))} />
    <h2 class="mt-6 text-[1.13rem]">What is read</h2>
    <ul class="mt-2 text-small">
      {#each limits.data?.auditKinds ?? [] as k (k.name)}<li>
          {k.label} <span class="font-mono">{k.extensions.join(' ')}</span>
        </li>{/each}
    </ul>
  </aside>
</div>

<style>
  .meter {
    display: inline-block;
    width: 6rem;
    height: 0.8rem;
    border: 1px solid var(--color-base-content);
  }
  .meter span {
    display: block;
    height: 100%;
    background: var(--color-base-content);
  }
</style>
