<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import Verdict from '../../lib/Verdict.svelte';
  import { count, uses } from './audit.svelte';

  // Where the old values of a plan are, project by project, and what it would leave there.
  let { steps, plan, hexOf }: { steps: Schema['PlanStep'][]; plan?: number; hexOf: (name?: string) => string } = $props();
  const touched = createQuery(() => ({
    queryKey: ['audits', 'plan-uses', house.id, steps],
    queryFn: () => need(api.POST('/houses/{house}/plans/uses', { params: { path: { house: house.id } }, body: { colors: steps } })),
  }));
  const total = $derived((touched.data?.steps ?? []).reduce((n, s) => n + (s.uses ?? 0), 0));
  const projects = $derived(count(touched.data?.projects.length ?? 0, 'project'));
  const where = $derived(
    total > 0
      ? `${uses(total)} of the old values ${total === 1 ? 'is' : 'are'} in ${projects}`
      : touched.data?.projects.length
        ? `The old values are in pictures and videos of ${projects}, which are counted by their area`
        : 'None of the old values is in any project',
  );
  const left = $derived(
    touched.data?.leftColors
      ? `It leaves ${uses(touched.data.leftUses)} of ${count(touched.data.leftColors, 'other color')} there that
        ${touched.data.leftColors === 1 ? 'wants' : 'want'} a decision.`
      : '',
  );
  const uncounted = $derived(touched.data?.steps.some((s) => s.uses === undefined) ? 'Builds and inks are not counted.' : '');
  const patch = (from: string) => (/^#[0-9A-F]{6}$/i.test(from) ? from : 'transparent');
</script>

{#if touched.isError}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{touched.error.message}</p>{/if}
{#if touched.data}
  {@const t = touched.data}
  <p class="mt-2">
    {where}, as the newest runs tell. {left}
    {uncounted}
  </p>
  <div class="mt-2 overflow-x-auto">
    <table class="w-full text-small">
      <caption class="sr-only">Where the old values are</caption>
      <thead
        ><tr class="border-b border-current text-left"
          ><th class="w-[5rem] py-1">Old | new</th><th>Old</th><th>New</th><th class="text-right">Uses</th><th class="text-right"
            >Files</th
          ></tr
        ></thead
      >
      <tbody>
        {#each t.steps as s, i (i)}
          {@const step = steps[i]}
          <tr class="rule border-b">
            <td class="py-1"
              ><span class="grid h-7 w-16 grid-cols-2" aria-hidden="true"
                ><span style:background={patch(s.from)}></span><span
                  style:background={step?.leave ? patch(s.from) : hexOf(step?.to)}
                ></span></span
              ></td
            ><td class="font-mono">{s.from}</td><td>{step?.leave ? 'stays' : step?.to}</td><td class="text-right font-mono"
              >{s.uses === undefined ? 'not counted' : s.uses.toLocaleString('en-US')}</td
            ><td class="text-right font-mono">{s.files ?? ''}{s.pictures ? `, ${count(s.pictures, 'picture')}` : ''}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if t.projects.length > 0}
    <h3 class="mt-3 text-[0.93rem] font-bold">Try it on</h3>
    <ul class="flex flex-wrap gap-x-5 gap-y-1">
      {#each t.projects.slice(0, 40) as p (p.project)}<li>
          <a class="link" href={house.path(`audit/project/${p.project}`) + (plan === undefined ? '' : `?plan=${plan}`)}>{p.name}</a>
          <span class="text-small">{uses(p.uses)} in {count(p.files, 'file')}</span>
        </li>{/each}
    </ul>
    {#if t.projects.length > 40}<p class="text-small">and {t.projects.length - 40} more projects</p>{/if}
  {/if}
  {#if t.left.length > 0}
    <h3 class="mt-3 text-[0.93rem] font-bold">What it leaves there</h3>
    <ul class="flex flex-wrap gap-x-5 gap-y-2">
      {#each t.left.slice(0, 16) as l (`${l.hex} ${l.verdict}`)}
        <li class="flex items-center gap-2 text-small">
          <span class="h-6 w-10" style:background={l.hex} aria-hidden="true"></span><span class="font-mono">{l.hex}</span><Verdict
            verdict={l.verdict}
          />{uses(l.uses)}
        </li>
      {/each}
    </ul>
    {#if t.leftColors > 16}<p class="text-small">and {t.leftColors - 16} more colors</p>{/if}
  {/if}
{/if}
