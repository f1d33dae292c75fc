<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { way } from '../../lib/back';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { engine } from '../../lib/engine';
  import { house } from '../../lib/house.svelte';

  // Two sets position by position: how far apart they are, and as a plan by which files of the one become the other.
  let { set, other }: { set: Schema['SwatchSet']; other: Schema['SwatchSet'] } = $props();

  const changing = useChange(['audits']);
  const rows = $derived(
    Array.from({ length: Math.max(set.colors.length, other.colors.length) }, (_, i) => ({
      here: set.colors[i],
      there: other.colors[i],
    })),
  );
  const both = $derived(rows.filter((r) => r.here && r.there).length);
  const apart = createQuery(() => ({
    queryKey: ['beside', set.colors.map((c) => c.hex), other.colors.map((c) => c.hex)],
    queryFn: () =>
      engine.ask('apart', {
        values: other.colors.slice(0, both).map((c) => c.hex),
        among: set.colors.slice(0, both).map((c) => c.hex),
      }),
    enabled: both > 0,
    staleTime: Infinity,
  }));
  const steps = $derived(
    rows.flatMap((r) => (r.here && r.there && r.here.hex !== r.there.hex ? [{ from: r.there.hex, to: r.here.name }] : [])),
  );
  const twice = $derived(steps.find((s, i) => steps.some((o, k) => k < i && o.from === s.from && o.to !== s.to)));
  const keep = () =>
    changing.run(async () => {
      const name = `${other.name} becomes ${set.name}`;
      const path = { house: house.id };
      const plan = await need(api.POST('/houses/{house}/plans', { params: { path }, body: { name, colors: steps } }));
      const undo = [way('delete', '/houses/{house}/plans/{plan}', { params: { path: { ...path, plan: plan.id } } })];
      return { said: `${name} is a repaint plan now`, undo };
    });
</script>

<table class="mt-3 w-full max-w-[42rem] text-left text-small">
  <thead
    ><tr class="border-b border-current"
      ><th class="w-8 py-1"><span class="sr-only">Position</span></th><th>{other.name}</th><th>{set.name}</th><th>apart</th></tr
    ></thead
  >
  <tbody>
    {#each rows as r, i (i)}
      {@const d = apart.data?.[i]?.[i]}
      <tr class="rule border-b">
        <td class="py-1"><b>{i + 1}</b></td>
        {#each [r.there, r.here] as c, k (k)}
          <td
            >{#if c}<span class="flex items-center gap-2"
                ><span class="h-8 w-14 shrink-0" style:background={c.hex}></span><span class="min-w-0"
                  >{c.name}<span class="block font-mono">{c.hex}</span></span
                ></span
              >{:else}none{/if}</td
          >
        {/each}
        <td
          >{#if d && r.here && r.there}<Distance value={d.deltaE} word={d.word} />{/if}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
{#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
<p class="mt-2 flex flex-wrap items-center gap-x-4">
  {#if twice}<span
      >{twice.from} stands at two positions of {other.name} that become two colors, so that no plan can be made by position.</span
    >
  {:else if house.contributor && steps.length > 0}<button class="btn btn-primary" disabled={changing.busy} onclick={keep}
      >Keep as a repaint plan, {other.name} to {set.name}</button
    ><a class="link" href={house.path('audit/plans')}>repaint plans</a>
  {:else if steps.length === 0}<span>No position differs.</span>{/if}
</p>
