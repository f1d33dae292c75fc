<script module lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';

  /** The colors that took on new values last, and when. */
  export const renewals = () => kept(`renewed-${house.id}`, { at: '', colors: [] as Schema['RenewedColor'][] });
</script>

<script lang="ts">
  import { useLedger } from '../../lib/house.svelte';
  import Follow from '../send/Follow.svelte';

  // What new values ask for, where they were given: new editions, those who are behind, the files. A color that has another value by
  // now, or its old one back, is not among them.
  const renewed = renewals();
  const ledger = useLedger();
  const colors = $derived(
    renewed.now.colors.filter((c) => ledger.data?.colors.some((k) => k.id === c.id && k.hex === c.hex && c.hex !== c.was)),
  );
</script>

{#if colors.length > 0}
  <section class="mx-5 mt-3 border border-current p-3" aria-label="Changed just now">
    <p class="flex items-baseline gap-3">
      <b>{colors.length === 1 ? `${colors[0]?.name} changed` : `${colors.length} colors changed`}</b>
      <button class="ml-auto link text-small" onclick={() => renewed.clear()}>put away</button>
    </p>
    <ul class="mt-2 flex flex-wrap gap-2">
      {#each colors.slice(0, 12) as c (c.id)}
        <li class="flex items-center gap-2 text-small">
          <span class="grid h-7 w-12 grid-cols-2" aria-hidden="true"
            ><span style:background={c.was}></span><span style:background={c.hex}></span></span
          ><a class="link" href={house.path(`library/${c.id}`)}>{c.name}</a>
        </li>
      {/each}
    </ul>
    {#if colors.length > 12}<p class="text-small">and {colors.length - 12} more</p>{/if}
    <Follow colors={colors.map((c) => c.id)} />
    <p class="mt-3">
      <a class="link" href={`${house.path('audit/plans')}?moment=${encodeURIComponent(renewed.now.at)}`}>Plan for the files</a>
    </p>
  </section>
{/if}
