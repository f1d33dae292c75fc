<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { house, usePairs } from '../../lib/house.svelte';

  // The rules about a color as type and as ground.
  let { of }: { of: Schema['ColorRow'] } = $props();

  const pairs = usePairs();
  const about = $derived((pairs.data ?? []).filter((p) => p.color.id === of.id || p.ground.id === of.id));
</script>

{#if about.length > 0}
  <ul class="mt-2" aria-label="Rules about pairs">
    {#each about as p (`${p.color.id} ${p.ground.id}`)}
      {@const mine = p.color.id === of.id}
      <li class="rule grid grid-cols-[4rem_minmax(0,1fr)_auto] items-center gap-x-3 border-b py-1">
        <span
          class="grid h-8 place-items-center text-[1.27rem] font-bold"
          style:background={p.ground.hex}
          style:color={p.color.hex}
          class:line-through={!p.may}
          data-specimen
          aria-hidden="true">Aa</span
        >
        <span class="text-small">
          <a class="link" href={house.path(`proof/contrast/approved?on=${p.ground.id}&type=${p.color.id}`)}
            >{mine ? '' : `${p.color.name} `}{mine ? p.says : p.says.replace(p.ground.name, 'it')}</a
          >
          {#if !p.holds}<b class="block">It no longer does: it needs {p.least.toFixed(1)}.</b>
            <span class="block">Mend one of the two there, or take the rule back.</span>{/if}
          {#if p.retired}<b class="block">{p.retired} is retired.</b>{/if}
        </span>
        <span class="font-mono">{p.ratio.toFixed(2)}</span>
      </li>
    {/each}
  </ul>
{/if}
