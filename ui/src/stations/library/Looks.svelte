<script lang="ts">
  import Distance from '../../lib/Distance.svelte';
  import { type Look } from '../../lib/engine';

  // All values of a color as the core in the browser sees it; a kept hex stands elsewhere.
  let { look, keeping }: { look: Look; keeping: boolean } = $props();

  const far = $derived(look.inks[0] && look.inks[0].deltaE >= 5 ? look.inks[0] : undefined);
</script>

<dl class="mt-2 grid grid-cols-[3.47rem_minmax(0,1fr)] text-small" aria-label="Values of the new color">
  {#if !keeping}
    <dt>RGB</dt>
    <dd class="font-mono">{look.rgb.join(' ')}</dd>
    <dt>HSL</dt>
    <dd class="font-mono">{look.hsl[0]}° {look.hsl[1]}% {look.hsl[2]}%</dd>
    <dt>HSB</dt>
    <dd class="font-mono">{look.hsb[0]}° {look.hsb[1]}% {look.hsb[2]}%</dd>
  {/if}
  <dt>OKLCH</dt>
  <dd class="font-mono">{(look.oklch.l * 100).toFixed(1)}% {look.oklch.c.toFixed(3)} {look.oklch.h.toFixed(0)}°</dd>
  <dt>Lab</dt>
  <dd class="font-mono">{look.lab.join(' ')}</dd>
  <dt>CMYK</dt>
  <dd>
    <span class="font-mono">{look.press.whole.join(' ')}</span> &nbsp;<Distance value={look.press.deltaE} word={look.press.word} />
  </dd>
  <dt>Spot</dt>
  <dd>
    <span class="font-mono">{look.inks[0]?.code}</span>, {look.inks[0]?.class} &nbsp;<Distance
      value={look.inks[0]?.deltaE ?? 0}
      word={look.inks[0]?.word ?? ''}
    />
  </dd>
  <dt>Contrast</dt>
  <dd>
    on white <span class="font-mono">{look.white.toFixed(1)}</span>, on black
    <span class="font-mono">{look.black.toFixed(1)}</span>
  </dd>
</dl>
{#if look.outside}<p class="mt-1 text-small">
    <b>Outside sRGB:</b>
    {#if look.exact}plain screens show {look.hex}, &nbsp;<Distance value={look.dulled} word={look.dull} /> away.
    {:else}this is the nearest screen color of that hue.{/if}
  </p>{/if}
{#if !look.press.inGamut}<p class="mt-1 text-small">
    <b>Out of gamut on coated paper:</b> print is {look.press.direction}.
  </p>{/if}
{#if far}<p class="mt-1 text-small"><b>No ink comes close:</b> the nearest, {far.code}, is different.</p>{/if}
