<script lang="ts">
  import { models, type Model } from './models';

  // The parts of a model to drag; the edge is the chroma at which sRGB ends.
  let { model, edge, drag, at = $bindable() }: { model: Model; edge: number; drag: () => void; at: number[] } = $props();
</script>

{#each models[model].parts as s, i (s.name)}
  <label class="grid grid-cols-[4.8rem_minmax(0,1fr)_2.93rem] items-center gap-2 text-small">
    {s.name}
    <span class="relative grid"
      ><input
        type="range"
        min="0"
        max={s.max}
        step={s.step}
        bind:value={at[i]}
        oninput={drag}
        aria-valuetext={s.write(at[i] ?? 0)}
      />{#if s.name === 'Chroma' && edge > 0}<span
          class="pointer-events-none absolute bottom-0 w-0 border-l-2 border-current"
          style:left={`calc(8px + (100% - 16px) * ${Math.min(1, edge / s.max)})`}
          style:height="7px"
          title="sRGB ends here"
        ></span>{/if}</span
    >
    <span class="text-right font-mono">{s.write(at[i] ?? 0)}</span>
  </label>
{/each}
