<script lang="ts">
  import type { Schema } from './api/client';
  import { copy } from './state.svelte';

  // How much of the light of each wavelength a surface returns, as a line over its wavelengths.
  let { of }: { of: Schema['Spectrum'] } = $props();

  const [width, height] = [240, 56];
  const end = $derived(of.start + of.step * (of.values.length - 1));
  const most = $derived(Math.max(1, ...of.values));
  const x = (nm: number) => ((nm - of.start) / (end - of.start)) * width;
  const y = (v: number) => height - (v / most) * height;
  const line = $derived(of.values.map((v, i) => `${x(of.start + i * of.step).toFixed(1)},${y(v).toFixed(1)}`).join(' '));
  const hundreds = $derived([400, 500, 600, 700].filter((nm) => nm >= of.start && nm <= end));
</script>

<figure class="my-1">
  <svg
    viewBox={`-1 -2 ${width + 2} ${height + 18}`}
    class="block w-full max-w-[16rem]"
    role="img"
    aria-label={`Spectrum from ${of.start} to ${end} nanometers`}
  >
    {#each hundreds as nm (nm)}
      <line x1={x(nm)} x2={x(nm)} y1="0" y2={height} stroke="currentColor" stroke-opacity="0.25" />
      <text x={x(nm)} y={height + 12} font-size="10" text-anchor="middle" fill="currentColor">{nm}</text>
    {/each}
    <line x1="0" x2={width} y1={y(1)} y2={y(1)} stroke="currentColor" stroke-opacity="0.25" />
    <line x1="0" x2={width} y1={height} y2={height} stroke="currentColor" />
    <polyline points={line} fill="none" stroke="currentColor" stroke-width="1.5" />
  </svg>
  <figcaption class="text-small">
    Its spectrum, every {of.step} nm; the upper line is all of the light.
    <button class="link" onclick={() => copy(of.values.join('\t'))}>copy its {of.values.length} values</button>
  </figcaption>
</figure>
