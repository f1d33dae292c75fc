<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { percent, when } from './audit.svelte';

  // The score over the runs of a project, drawn in ink; the same as a table for those who do not see it.
  let { runs, chosen, choose }: { runs: Schema['Run'][]; chosen?: number; choose: (run: Schema['Run']) => void } = $props();

  const shown = $derived([...runs].reverse().slice(-40)); // oldest first
  const W = 640;
  const H = 120;
  const x = (i: number) => 34 + (shown.length < 2 ? 0.5 : i / (shown.length - 1)) * (W - 60);
  const least = $derived(Math.min(...shown.map((r) => r.score ?? 1)));
  // The axis begins at a round share under the worst, so that small changes show.
  const from = $derived(Math.max(0, Math.floor(least * 10) / 10 - (least < 0.1 ? 0 : 0.1)));
  const y = (s: number) => 12 + (1 - (s - from) / Math.max(0.01, 1 - from)) * (H - 34);
  const line = $derived(
    shown
      .map((r, i) => (r.score === undefined ? '' : `${x(i).toFixed(1)},${y(r.score).toFixed(1)}`))
      .filter(Boolean)
      .join(' '),
  );
</script>

<svg viewBox={`0 0 ${W} ${H}`} class="block w-full max-w-[760px]" role="group" aria-label="Score over the runs">
  <g stroke="currentColor" stroke-width="1">
    <line x1="34" x2={W - 16} y1={y(1)} y2={y(1)} opacity="0.5" />
    <line x1="34" x2={W - 16} y1={y(from)} y2={y(from)} />
  </g>
  <g font-size="11" fill="currentColor">
    <text x="30" y={y(1) + 4} text-anchor="end">100</text>
    <text x="30" y={y(from) + 4} text-anchor="end">{Math.round(from * 100)}</text>
  </g>
  {#if shown.length > 1}<polyline points={line} fill="none" stroke="currentColor" stroke-width="2" />{/if}
  {#each shown as r, i (r.id)}
    {#if r.score !== undefined}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <g
        role="button"
        tabindex="-1"
        aria-label={`Run ${r.number}, ${percent(r.score)}`}
        class="cursor-pointer"
        onclick={() => choose(r)}
      >
        <rect
          x={x(i) - 5}
          y={y(r.score) - 5}
          width="10"
          height="10"
          stroke="currentColor"
          stroke-width="2"
          fill={r.id === chosen ? 'currentColor' : 'var(--color-base-100)'}
        />
        {#if shown.length <= 12 || r.id === chosen}
          <text x={x(i)} y={H - 4} text-anchor="middle" font-size="11" fill="currentColor">run {r.number}</text>
        {/if}
      </g>
    {/if}
  {/each}
</svg>
<table class="sr-only">
  <caption>Score over the runs</caption>
  <tbody>
    {#each shown as r (r.id)}<tr><td>run {r.number}</td><td>{when.format(new Date(r.at))}</td><td>{percent(r.score)}</td></tr
      >{/each}
  </tbody>
</table>
