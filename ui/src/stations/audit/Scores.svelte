<script lang="ts">
  import { percent } from './audit.svelte';

  // Scores over time, drawn in ink; the same as a table for those who do not see it.
  let {
    points,
    chosen,
    choose,
    label,
  }: {
    points: { key: number; score?: number; name: string; told: string }[]; // oldest first
    chosen?: number;
    choose?: (key: number) => void;
    label: string;
  } = $props();

  const shown = $derived(points.filter((p) => p.score !== undefined).slice(-60));
  const W = 640;
  const H = 120;
  const x = (i: number) => 34 + (shown.length < 2 ? 0.5 : i / (shown.length - 1)) * (W - 60);
  const least = $derived(Math.min(1, ...shown.map((p) => p.score ?? 1)));
  // The axis begins at a round share under the worst, so that small changes show.
  const from = $derived(Math.max(0, Math.floor(least * 10) / 10 - (least < 0.1 ? 0 : 0.1)));
  const y = (s: number) => 12 + (1 - (s - from) / Math.max(0.01, 1 - from)) * (H - 34);
  const line = $derived(shown.map((p, i) => `${x(i).toFixed(1)},${y(p.score ?? 0).toFixed(1)}`).join(' '));
  const named = $derived(shown.length <= 10);
</script>

<svg viewBox={`0 0 ${W} ${H}`} class="block w-full max-w-[50.67rem]" role="group" aria-label={label}>
  <g stroke="currentColor" stroke-width="1">
    <line x1="34" x2={W - 16} y1={y(1)} y2={y(1)} opacity="0.5" />
    <line x1="34" x2={W - 16} y1={y(from)} y2={y(from)} />
  </g>
  <g font-size="11" fill="currentColor">
    <text x="30" y={y(1) + 4} text-anchor="end">100</text>
    <text x="30" y={y(from) + 4} text-anchor="end">{Math.round(from * 100)}</text>
  </g>
  {#if shown.length > 1}<polyline points={line} fill="none" stroke="currentColor" stroke-width="2" />{/if}
  {#each shown as p, i (p.key)}
    {@const at = { x: x(i) - 5, y: y(p.score ?? 0) - 5 }}
    {#if choose}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <g
        role="button"
        tabindex="-1"
        aria-label={`${p.told}, ${percent(p.score)}`}
        class="cursor-pointer"
        onclick={() => choose?.(p.key)}
      >
        <title>{p.told}, {percent(p.score)}</title>
        <rect
          {...at}
          width="10"
          height="10"
          stroke="currentColor"
          stroke-width="2"
          fill={p.key === chosen ? 'currentColor' : 'var(--color-base-100)'}
        />
      </g>
    {:else}
      <rect {...at} width="10" height="10" stroke="currentColor" stroke-width="2" fill="var(--color-base-100)"
        ><title>{p.told}, {percent(p.score)}</title></rect
      >
    {/if}
    {#if named || p.key === chosen || i === 0 || i === shown.length - 1}
      <text
        x={x(i)}
        y={H - 4}
        text-anchor={i === 0 ? 'start' : i === shown.length - 1 ? 'end' : 'middle'}
        font-size="11"
        fill="currentColor">{p.name}</text
      >
    {/if}
  {/each}
</svg>
<table class="sr-only">
  <caption>{label}</caption>
  <tbody>
    {#each shown as p (p.key)}<tr><td>{p.told}</td><td>{percent(p.score)}</td></tr>{/each}
  </tbody>
</table>
