<script lang="ts">
  import type { Schema } from '../../lib/api/client';

  // The sets that a color is in, and who holds which value of it.
  let { s }: { s: Schema['ColorSheet'] } = $props();

  const c = $derived(s.row);
</script>

<h3>Who holds it</h3>
<p>{s.sets.length === 0 ? 'It is in no swatch set.' : `In ${s.sets.join(', ')}.`}</p>
{#if s.holders.length > 0}
  <ul class="mt-1">
    {#each s.holders as h (`${h.set} ${h.edition} ${h.hex}`)}
      <li class="rule flex items-center gap-3 border-b py-1 text-small">
        <span class="grid h-6 w-12 grid-cols-2" aria-hidden="true"
          ><span style:background={c.hex}></span><span style:background={h.hex}></span></span
        >
        <span class="flex-1">{h.set}, edition {h.edition}{h.recipients.length ? `: ${h.recipients.join(', ')}` : ''}</span>
        <span class="font-mono">{h.hex === c.hex ? 'current' : h.hex}</span>
      </li>
    {/each}
  </ul>
{/if}
