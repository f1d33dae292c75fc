<script lang="ts">
  import UsedIn from './UsedIn.svelte';
  import { type Schema } from '../../lib/api/client';

  // What an amendment means for sets, recipients, projects and files, before it takes effect.
  let { of, id, name, hex }: { of: Schema['Amendment']; id: number; name: string; hex: string } = $props();

  const held = $derived(of.holders.filter((h) => h.recipients.length > 0));
</script>

<ul class="mt-2 grid gap-1 text-small">
  {#if of.same}<li><b>{of.same.name} has this value already.</b></li>{/if}
  <li>{of.sets.length === 0 ? 'It is in no swatch set.' : `Swatch sets that follow: ${of.sets.join(', ')}.`}</li>
  <li>
    {#if held.length === 0}No recipient holds a value of it.
    {:else}Holding the old value: {held.map((h) => `${h.recipients.join(', ')} (${h.set}, edition ${h.edition})`).join('; ')}.{/if}
  </li>
  <UsedIn color={id} {name} {hex} plain />
  <li>
    {of.audits.length === 0 ? 'No audited file has it.' : `Audited files with the old value: ${of.audits.join(', ')}.`}
  </li>
  {#if of.approved.length > 0}<li>Approved values stay and are flagged: {of.approved.join('; ')}.</li>{/if}
</ul>
