<script lang="ts">
  import { type Schema } from '../../lib/api/client';
  import Verdict from '../../lib/Verdict.svelte';
  import { uses } from './audit.svelte';

  // What two runs tell differently, by its cause: the files were changed, or the library moved and they did not.
  let {
    changes,
    before,
    may,
    busy,
    follow,
  }: {
    changes: Record<'mended' | 'fresh', Schema['RunChange'][]>;
    before: number;
    may: boolean; // repaint
    busy: boolean;
    follow: (dry: boolean) => unknown;
  } = $props();

  const parts = $derived.by(() => {
    const { mended, fresh } = changes;
    const moved = (since?: string) => fresh.filter((c) => c.of !== undefined && c.since === since);
    const off = (list: Schema['RunChange'][], what: string) => {
      const names = [...new Set(list.map((c) => c.of ?? ''))];
      return `${sum(list) === 1 ? 'is' : 'are'} off since ${named(names)} ${names.length === 1 ? 'was' : 'were'} ${what}`;
    };
    return [
      { title: 'mended', list: mended, moved: false },
      { title: off(moved('amended'), 'amended'), list: moved('amended'), moved: true },
      { title: off(moved('retired'), 'retired'), list: moved('retired'), moved: true },
      {
        title: `judged otherwise than in run ${before}; the file is the same`,
        list: fresh.filter((c) => c.since === undefined && (c.of !== undefined || c.was === 'excused')),
        moved: false,
      },
      { title: 'new', list: fresh.filter((c) => c.of === undefined && c.was !== 'excused'), moved: false },
    ];
  });
  const named = (names: string[]) =>
    names.length > 6
      ? `${names.slice(0, 5).join(', ')} and ${names.length - 5} more`
      : names.join(', ').replace(/, ([^,]*)$/, ' and $1');

  const sum = (list: Schema['RunChange'][]) => list.reduce((n, c) => n + c.count, 0);
</script>

<h2 class="mt-6 text-[1.13rem]">Since run {before}</h2>
{#if changes.mended.length === 0 && changes.fresh.length === 0}<p class="mt-1">Nothing is different.</p>{/if}
{#each parts as part (part.title)}
  {#if part.list.length > 0}
    <p class="mt-2 flex flex-wrap items-baseline gap-x-4">
      <b>{uses(sum(part.list))} {part.title}</b>
      {#if part.moved && may}
        <button class="btn btn-primary btn-sm" disabled={busy} onclick={() => follow(false)}>Repaint by that</button>
        <button class="link" disabled={busy} onclick={() => follow(true)}>only show what would change</button>
      {/if}
    </p>
    <ul>
      {#each part.list.slice(0, 60) as c (`${c.path} ${c.found}`)}
        <li class="rule change grid items-center gap-3 border-b py-1 text-small">
          <span class="h-6" style:background={c.hex} aria-hidden="true"></span>
          <b class="truncate font-mono">{c.found}</b>
          <span class="text-right font-mono">{c.count}</span>
          <span class="flex items-center gap-2"
            >{#if c.was}<Verdict verdict={c.was} />{:else}<span>was not there</span>{/if}<span aria-hidden="true">→</span
            >{#if c.is}<Verdict verdict={c.is} />{:else}<span>gone</span>{/if}</span
          >
          <span class="truncate">{c.path}</span>
        </li>
      {/each}
    </ul>
    {#if part.list.length > 60}<p class="mt-1 text-small">and {part.list.length - 60} more colors</p>{/if}
  {/if}
{/each}

<style>
  .change {
    grid-template-columns: 2rem 8.67rem 4.67rem 17.33rem 1fr;
  }
  @media (max-width: 40rem) {
    .change {
      grid-template-columns: 2rem 5.07rem 2rem minmax(0, 1fr);
    }
    .change > :nth-child(5) {
      display: none;
    }
  }
</style>
