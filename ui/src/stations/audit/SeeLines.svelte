<script lang="ts">
  import { createInfiniteQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import Verdict from '../../lib/Verdict.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import { count, named, type Found } from './audit.svelte';

  // The lines of a text in which something was found, with a patch of each found color beside its line.
  type Line = Schema['AuditTextLine'];
  let {
    audit,
    alone,
    colors,
    chosen,
    number,
    choose,
  }: {
    audit: number;
    alone: string; // the key of the color whose lines are shown; empty for those of all
    colors: Map<string, Found>;
    chosen: string;
    number: Map<string, number>;
    choose: (key: string) => void;
  } = $props();

  const lines = createInfiniteQuery(() => ({
    queryKey: ['audit', 'lines', house.id, audit, alone],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/audits/{audit}/lines', {
          params: { path: { house: house.id, audit }, query: { key: alone || undefined, from: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    staleTime: Infinity,
  }));
  const text = $derived<Line[]>(lines.data?.pages.flatMap((p) => p.lines) ?? []);

  /** A line in pieces: what is between the found values, and those. */
  function pieces(l: Line) {
    const out: { text: string; key?: string }[] = [];
    const chars = [...l.text];
    let at = 0;
    for (const m of l.marks) {
      const from = m.column - 1 - l.before;
      const length = [...m.value].length;
      if (from < at || chars.slice(from, from + length).join('') !== m.value) continue; // it is told by its patch alone
      if (from > at) out.push({ text: chars.slice(at, from).join('') });
      out.push({ text: m.value, key: m.key });
      at = from + length;
    }
    out.push({ text: chars.slice(at).join('') });
    return out;
  }
  const gaps = $derived(new Set(text.filter((l, i) => i > 0 && l.number > text[i - 1]!.number + 1)));
  let list = $state<{ show: (index: number) => void }>();
  $effect(() => {
    const at = text.findIndex((l) => l.marks.some((m) => m.key === chosen));
    if (at >= 0) list?.show(Math.min(text.length - 1, at + 2));
  });
  const its = (l: Line) => [...new Set(l.marks.map((m) => m.key))];
</script>

{#if !lines.isPending && text.length === 0}<p class="mt-4 pr-5">
    None of what was found stands in a line of this text; the report tells where it is.
  </p>{/if}
<div class="mt-2 flex min-h-0 flex-1 flex-col">
  <Virtual
    bind:this={list}
    items={text}
    height={(l) => (gaps.has(l) ? 3.2 : 1.7)}
    key={(l) => `${l.number} ${l.before}`}
    label="Lines"
    role="group"
  >
    {#snippet row(l)}
      {#if gaps.has(l)}<div class="h-[1.5rem] pl-[4rem] text-small" aria-hidden="true">...</div>{/if}
      <div class="line" class:hit={l.marks.some((m) => m.key === chosen)}>
        <span class="text-right font-mono text-small">{l.number}</span>
        <span class="flex">
          {#each its(l).slice(0, 2) as k (k)}
            {@const c = colors.get(k)}
            {#if c}<button
                class="patch"
                style:background={c.hex}
                aria-label={`line ${l.number}: ${number.get(k) ?? ''} ${c.verdict} ${named(c)}`}
                onclick={() => choose(k)}
              ></button>{/if}
          {/each}{#if its(l).length > 2}<span class="text-small">+{its(l).length - 2}</span>{/if}
        </span>
        <span class="flex items-center gap-1 text-small">
          {#if l.marks[0]}{@const c = colors.get(l.marks[0].key)}{#if c}<Verdict verdict={c.verdict} word={false} /><b
                >{number.get(l.marks[0].key) ?? ''}</b
              >{/if}{/if}
        </span>
        <code class="truncate whitespace-pre text-small"
          >{l.before > 0 ? '... ' : ''}{#each pieces(l) as p, n (n)}{#if p.key}<b class="value" class:chosen={p.key === chosen}
                >{p.text}</b
              >{:else}{p.text}{/if}{/each}{l.after > 0 ? ' ...' : ''}{l.more
            ? ` (${count(l.more, 'more place')} in this line)`
            : ''}</code
        >
      </div>
    {/snippet}
  </Virtual>
  {#if lines.hasNextPage}<button class="link self-start py-2 text-small" onclick={() => lines.fetchNextPage()}
      >show more lines</button
    >{/if}
</div>

<style>
  .line {
    display: grid;
    grid-template-columns: 2.8rem 4.6rem 2.8rem minmax(0, 1fr);
    gap: 0.6rem;
    align-items: center;
    height: 1.7rem;
  }
  .hit {
    background: var(--color-base-200);
  }
  .patch {
    width: 1.7rem;
    height: 1.7rem;
    cursor: pointer;
  }
  .value {
    border-bottom: 2px solid currentColor;
  }
  .value.chosen {
    background: var(--color-base-content);
    color: var(--color-base-100);
  }
</style>
