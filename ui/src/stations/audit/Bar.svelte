<script lang="ts">
  import Verdict from '../../lib/Verdict.svelte';
  import { verdicts } from './audit.svelte';

  // How the uses of a file or a run share out among the verdicts, as a bar of their shapes with the figures over or under it.
  let {
    totals,
    name,
    score,
    under = false,
  }: {
    totals: { verdict: string; uses: number }[];
    name?: string;
    score?: string;
    under?: boolean;
  } = $props();

  const shown = $derived(
    verdicts
      .map((v) => ({
        verdict: v.word,
        tile: v.shape.tile.replaceAll('ink', 'var(--color-base-content)'),
        uses: totals.find((t) => t.verdict === v.word)?.uses ?? 0,
      }))
      .filter((t) => t.uses > 0),
  );
  const all = $derived(shown.reduce((n, t) => n + t.uses, 0));
  // Every verdict that is there is seen, however small its share.
  const width = (n: number) => Math.max(1.6, (100 * n) / Math.max(1, all));
</script>

{#snippet figures()}
  <p class="flex flex-wrap items-center gap-x-6 gap-y-1 text-small">
    {#if name}<b class="w-[3.47rem] text-[1rem]">{name}</b>{/if}
    {#if score}<b class="w-[4.8rem] font-mono text-[1rem]">{score}</b>{/if}
    {#each shown as t (t.verdict)}
      <span class="inline-flex items-center gap-2 whitespace-nowrap"
        ><Verdict verdict={t.verdict} word={false} /><b class="font-mono">{t.uses.toLocaleString('en-US')}</b> {t.verdict}</span
      >
    {/each}
  </p>
{/snippet}

{#if !under}{@render figures()}{/if}
<div class="bar my-1.5" role="img" aria-label={shown.map((t) => `${t.uses} ${t.verdict}`).join(', ')}>
  {#each shown as t (t.verdict)}<span style:flex={`${width(t.uses)} 0 0`} style:background={t.tile}></span>{/each}
</div>
{#if under}{@render figures()}{/if}

<style>
  .bar {
    display: flex;
    height: 1.07rem;
    border: 1px solid var(--color-base-content);
  }
  .bar span + span {
    border-left: 1px solid var(--color-base-content);
  }
</style>
