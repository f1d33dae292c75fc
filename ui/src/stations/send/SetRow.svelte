<script lang="ts">
  import { type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { urgent } from './send';

  // A swatch set in the list: its colors, and how it stands.
  let { s, chosen, colors }: { s: Schema['SwatchSet']; chosen: boolean; colors: Schema['ColorRow'][] } = $props();

  const lines = $derived.by(() => {
    const behind = s.recipients.filter(urgent).length;
    const parts = [s.current ? `edition ${s.current}${s.changed ? ', changed since' : ''}` : 'no edition yet'];
    const retired = s.colors.filter((c) => colors.find((o) => o.id === c.id)?.status === 'retired').length;
    if (retired) parts.push(retired === 1 ? 'holds a retired color' : `holds ${retired} retired colors`);
    if (behind) parts.push(behind === 1 ? '1 recipient is behind' : `${behind} recipients are behind`);
    const open = s.recipients.filter((r) => r.state === 'waiting').length;
    if (open) parts.push(open === 1 ? '1 has yet to confirm' : `${open} have yet to confirm`);
    return parts;
  });
</script>

<a
  class="mb-1.5 grid h-14 grid-cols-[12.67rem_1fr_14rem] items-center phone:h-auto phone:grid-cols-1 phone:gap-1 phone:pb-2"
  class:bg-base-200={chosen}
  href={house.path(`send/${s.id}`)}
  aria-current={chosen ? 'true' : undefined}
  data-replace={rem.phone ? undefined : ''}
  data-scroll-to-top="false"
>
  <span class="pl-3 phone:pl-0"
    ><b>{s.name}</b><span class="block text-small">{s.colors.length === 1 ? '1 color' : `${s.colors.length} colors`}</span></span
  >
  <span class="flex h-full phone:order-first phone:h-10" aria-hidden="true"
    >{#each s.colors as c (c.id)}<span class="flex-1" style:background={c.hex}></span>{:else}<span class="self-center">empty</span
      >{/each}</span
  >
  <span class="pl-4 text-small phone:pl-0"
    >{#each lines as line (line)}<span class="block">{line}</span>{/each}</span
  >
</a>
