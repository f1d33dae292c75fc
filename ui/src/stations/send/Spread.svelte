<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { day, of } from './send';

  // Who had which edition of a set over time: bands of one gray each, the newest darkest, each with its number.
  let { set }: { set: Schema['SwatchSet'] } = $props();

  const spread = createQuery(() => ({
    queryKey: ['sets', house.id, set.id, 'spread'],
    queryFn: () => need(api.GET('/houses/{house}/sets/{set}/spread', { params: { path: { house: house.id, set: set.id } } })),
  }));
  const [wide, high] = [360, 120];
  const x = (i: number, n: number) => (n > 1 ? (i * wide) / (n - 1) : 0);
  // Below lies the newest edition, on it the one before, and on top those who have none.
  const bands = $derived.by(() => {
    const s = spread.data;
    if (!s || s.days.length === 0 || s.recipients === 0) return [];
    const n = s.days.length;
    const below = new Array<number>(n).fill(0);
    return s.editions
      .map((e, k) => ({ e, k }))
      .reverse()
      .map(({ e, k }) => {
        const y = (v: number) => high - (v * high) / s.recipients;
        const low = s.days.map((_, i) => `${x(i, n)},${y(below[i]!)}`);
        s.days.forEach((d, i) => (below[i]! += d.have[k + 1]!));
        const top = s.days.map((_, i) => `${x(i, n)},${y(below[i]!)}`);
        const last = s.days[n - 1]!.have[k + 1]!;
        return {
          number: e.number,
          path: `M${top.join('L')}L${low.reverse().join('L')}Z`,
          shade: s.editions.length === 1 ? 0.75 : 0.2 + (0.65 * k) / (s.editions.length - 1),
          last,
          middle: y(below[n - 1]! - last / 2),
        };
      });
  });
  const words = $derived(
    (spread.data?.editions ?? [])
      .map((e) => `edition ${e.number} is with ${spread.data!.days.at(-1)?.have[(spread.data!.editions.indexOf(e) ?? 0) + 1] ?? 0}`)
      .join(', '),
  );
  const took = (days: number) => (days < 1 ? 'within a day' : `${of(Math.round(days), 'day')}`);
</script>

{#if spread.data && spread.data.editions.length > 0 && spread.data.recipients > 0}
  <details class="mt-4">
    <summary class="cursor-pointer font-bold">How it spread</summary>
    <svg
      class="mt-2 block w-full border-b border-l border-current"
      viewBox={`0 0 ${wide} ${high}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Of ${of(spread.data.recipients, 'recipient')}, today: ${words}`}
    >
      {#each bands as b (b.number)}<path d={b.path} fill="currentColor" fill-opacity={b.shade} />{/each}
    </svg>
    <p class="flex justify-between text-small">
      <span>{day.format(new Date(spread.data.days[0]!.at))}</span><span>{of(spread.data.recipients, 'recipient')} high</span><span
        >today</span
      >
    </p>
    <table class="mt-2 w-full text-small">
      <thead><tr><th>edition</th><th>fixed</th><th>loaded by</th><th>usually after</th><th>now with</th></tr></thead>
      <tbody>
        {#each [...spread.data.editions].reverse() as e (e.number)}
          {@const band = bands.find((b) => b.number === e.number)}
          <tr class="rule border-t"
            ><td
              ><span class="mr-2 inline-block h-3 w-3 bg-current" style:opacity={band?.shade} aria-hidden="true"
              ></span>{e.number}{e.withdrawn ? ', withdrawn' : ''}</td
            ><td>{day.format(new Date(e.at))}</td><td>{e.loaded} of {spread.data.recipients}</td><td
              >{e.median === undefined ? '' : took(e.median)}</td
            ><td>{band?.last ?? 0}</td></tr
          >
        {/each}
      </tbody>
    </table>
    {#if spread.data.quiet.length > 0}
      <p class="mt-2 text-small">
        Never answered: {#each spread.data.quiet as q, i (q.id)}{i > 0 ? ', ' : ''}<a
            class="link"
            href={house.path(`send/recipients/${q.id}`)}>{q.name}</a
          >{/each}
      </p>
    {/if}
  </details>
{/if}

<style>
  svg {
    height: 8rem;
  }
  th {
    font-weight: 400;
    text-align: left;
  }
  td {
    padding: 2px 0.67rem 2px 0;
    font-variant-numeric: tabular-nums;
  }
</style>
