<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import Value from '../../lib/Value.svelte';

  // The codes of a color in the systems of video, narrow and full, of 8 and 10 bits.
  let { of }: { of: NonNullable<Schema['ColorSheet']['video']> } = $props();
</script>

<details>
  <summary class="cursor-pointer underline">for video</summary>
  <table class="mt-1 w-full text-left">
    <thead><tr><th>Y′CbCr</th><th>8 bit</th><th>10 bit</th></tr></thead>
    <tbody>
      {#each ['BT.601', 'BT.709', 'BT.2020'] as system (system)}
        {#each [false, true] as full (full)}
          <tr class="rule border-t">
            <td class="py-0.5">{system}<span class="block">{full ? 'full' : 'narrow'}</span></td>
            {#each of.filter((v) => v.system === system && v.full === full) as v (v.bits)}
              <td
                ><Value text={v.codes.join(' ')} label={`${system}, ${v.bits} bit, ${full ? 'full' : 'narrow'} range`} />
                {#if !full}<span class="block">{v.problems.length ? v.problems.join(', ') : 'legal'}</span>{/if}</td
              >
            {/each}
          </tr>
        {/each}
      {/each}
    </tbody>
  </table>
  <p class="mt-1">Legal by EBU R 103, in the narrow range.</p>
</details>
