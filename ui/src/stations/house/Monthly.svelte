<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';

  // The mail of the month, for the keeper who wants it, as it would read today.
  const where = $derived({ params: { path: { house: house.id } } });
  const monthly = createQuery(() => ({
    queryKey: ['house', house.id, 'monthly'],
    queryFn: () => need(api.GET('/houses/{house}/monthly', where)),
  }));
  const changing = useChange(['house']);
  const put = (on: boolean) =>
    changing.run(async () => {
      await need(api.PUT('/houses/{house}/monthly', { ...where, body: { on } }));
      return {
        said: on ? 'You get the mail of the month' : 'You get no mail of the month',
        undo: [way('put', '/houses/{house}/monthly', { ...where, body: { on: !on } })],
      };
    });
</script>

{#if monthly.data}
  <h2 class="mt-8">A mail on the first of the month</h2>
  <p class="mt-1">
    <label class="inline-flex items-center gap-2"
      ><input
        type="checkbox"
        class="checkbox"
        checked={monthly.data.on}
        disabled={changing.busy}
        onchange={(e) => put(e.currentTarget.checked)}
      />I want it: what changed, who is behind, how projects stand</label
    >
  </p>
  {#if !monthly.data.mail}<p class="text-small">This server sends no mail yet, so none comes.</p>{/if}
  {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
  <details class="mt-2">
    <summary class="cursor-pointer">How it reads today</summary>
    <p class="mt-2 font-bold">{monthly.data.subject}</p>
    <pre class="whitespace-pre-wrap font-[inherit]">{monthly.data.text}</pre>
  </details>
{/if}
