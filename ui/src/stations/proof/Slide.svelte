<script lang="ts">
  import { draw } from './picture.svelte';

  // Two states of a picture, with a line to slide between them.
  interface Layer {
    name: string;
    alt: string;
    image: ImageData;
  }
  let {
    before,
    after,
    over = [],
    width,
    height,
    label,
  }: {
    before: Layer;
    after: Layer;
    over?: { alt: string; image: ImageData }[];
    width: number;
    height: number;
    label: string;
  } = $props();
  let line = $state(50); // percent of the width
</script>

<div style:width={`${width}px`}>
  <div class="flex justify-between gap-3 text-small"><b>{before.name}</b><b>{after.name}</b></div>
  <div class="layers relative" style:height={`${height}px`} style:--line={`${line}%`}>
    <canvas aria-label={before.alt} {@attach draw(before.image)}></canvas>
    <canvas class="after" aria-label={after.alt} {@attach draw(after.image)}></canvas>
    {#each over as o (o.alt)}<canvas aria-label={o.alt} {@attach draw(o.image)}></canvas>{/each}
  </div>
  <input class="mt-1" type="range" min="0" max="100" step="0.5" aria-label={label} bind:value={line} />
</div>

<style>
  .layers > canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: contain;
    object-position: left top;
  }
  .after {
    clip-path: inset(0 0 0 var(--line));
  }
</style>
