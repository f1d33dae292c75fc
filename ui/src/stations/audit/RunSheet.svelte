<script lang="ts">
  import { type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { count, uses, when, type Work } from './audit.svelte';

  // A run: when, what of it is reused, repainting by a plan, reports to take along.
  let {
    run,
    work,
    plans,
    repaint,
    plan = $bindable(),
  }: {
    run: Schema['Run'];
    work: Work;
    plans: Schema['RepaintPlan'][];
    repaint: (dry: boolean) => unknown;
    plan: number | undefined; // what needs no decision if none is chosen
  } = $props();

  const report = (format: string) => `/api/houses/${house.id}/runs/${run.id}/report/${format}`;
</script>

<h2>Run {run.number}</h2>
<p class="mt-1">
  {when.format(new Date(run.at))}, {run.by}. {uses(run.uses)}, {run.findings.toLocaleString('en-US')} off.
  {#if run.same === run.files}No file had changed since the run before, nor the rules.{:else if run.same}{count(run.same, 'file')} had
    not changed since the run before and {run.same === 1 ? 'was' : 'were'} not judged again.{/if}
</p>
{#if house.contributor}
  <h3 class="mt-4 text-[0.93rem] font-bold">Repaint all files</h3>
  <label class="mt-1 grid gap-1 text-small"
    >Plan
    <select class="select w-full" bind:value={plan}>
      <option value={undefined}>drifted to the nearest, retired to the successor</option>
      {#each plans as p (p.id)}<option value={p.id}>{p.name} ({count(p.colors.length, 'color')})</option>{/each}
    </select></label
  >
  <p class="mt-2 flex items-center gap-4">
    <button class="btn btn-primary" disabled={work.changing.busy} onclick={() => repaint(false)}
      >Repaint {count(run.files, 'file')}</button
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
