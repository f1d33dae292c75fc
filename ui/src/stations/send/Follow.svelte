<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useSets } from '../../lib/house.svelte';
  import { of, outcome, urgent } from './send';

  // What changed colors ask for, where they were changed: new editions of the sets that hold them, then to whoever is behind. Of a
  // single color it is known which editions have another value of it.
  let { colors, single }: { colors: number[]; single?: { hex: string; holders: Schema['Holder'][] } } = $props();

  const sets = useSets();
  const changing = useChange(['sets', 'sheet', 'recipients']);
  const holding = $derived((sets.data ?? []).filter((s) => s.current > 0 && s.colors.some((c) => colors.includes(c.id))));
  const differs = (set: number, edition?: number) =>
    !single || single.holders.some((h) => h.setId === set && h.edition === edition && h.hex !== single.hex);
  const open = $derived(holding.filter((s) => s.changed && differs(s.id, s.current)));
  const late = (s: Schema['SwatchSet']) => s.recipients.filter((r) => urgent(r) && differs(s.id, r.edition ?? r.sent));
  const behind = $derived(holding.filter((s) => late(s).length > 0));
  const them = $derived([...new Set(behind.flatMap((s) => late(s).map((r) => r.recipient)))]);
  const who = $derived(them.length);
  const names = (list: Schema['SwatchSet'][]) => list.map((s) => s.name).join(', ');

  const fix = () =>
    changing.run(async () => {
      const body = { sets: open.map((s) => s.id) };
      const fixed = await need(api.POST('/houses/{house}/editions', { params: { path: { house: house.id } }, body }));
      return `Fixed: ${fixed.map((s) => `${s.name}, edition ${s.current}`).join('; ')}`;
    });
  const send = () =>
    changing.run(async () => {
      const body = { sets: behind.map((s) => s.id), recipients: them };
      const to = [...them];
      const sent = await need(api.POST('/houses/{house}/send', { params: { path: { house: house.id } }, body }));
      return outcome(sent.sets, to);
    });
</script>

{#if house.keeper && (open.length > 0 || behind.length > 0)}
  <div class="mt-3 border border-current p-3" aria-label={single ? 'Those who hold it' : 'Those who hold them'} role="group">
    {#if open.length > 0}
      <p>
        <b>{names(open)}</b>
        {#if single}{open.length === 1 ? 'holds' : 'hold'} another value of it in {open.length === 1 ? 'its' : 'their'} newest edition.
        {:else}changed since {open.length === 1 ? 'its newest edition' : 'their newest editions'}.{/if}
      </p>
      <button class="btn btn-primary mt-2" disabled={changing.busy} onclick={fix}
        >{open.length === 1 ? `Fix a new edition of ${open[0]?.name}` : `Fix new editions of the ${open.length} sets`}</button
      >
    {/if}
    {#if behind.length > 0 && open.length === 0}
      <p>
        <b>{of(who, 'recipient')}</b> of {names(behind)}
        {who === 1 ? 'has' : 'have'} an older {single ? 'value of it' : 'edition'}.
      </p>
      <button class="btn btn-primary mt-2" disabled={changing.busy} onclick={send}>Send to {of(who, 'recipient')}</button>
    {/if}
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
  </div>
{/if}
