<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { day, useExcuses } from './audit.svelte';

  // What differs on purpose: here, or everywhere. One that ends soon is told of first.
  let { project, names = {} }: { project?: number; names?: Record<number, string> } = $props();

  const excuses = useExcuses(() => project);
  const changing = useChange(['audits'], { aloud: true });
  let past = $state(false);
  const rank: Record<Schema['Excuse']['state'], number> = { over: 0, ending: 1, holds: 2, ended: 3 };
  const shown = $derived(
    [...(excuses.data ?? [])].filter((e) => past || e.state !== 'ended').sort((a, b) => rank[a.state] - rank[b.state]),
  );
  const ended = $derived((excuses.data ?? []).filter((e) => e.state === 'ended').length);

  const covers = (e: Schema['Excuse']) =>
    e.where
      ? `at ${e.where}`
      : e.file
        ? `in ${e.file}`
        : e.project
          ? `in ${e.project === project ? 'this project' : (names[e.project] ?? 'a project')}`
          : 'everywhere';

  const end = (e: Schema['Excuse']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/excuses/{excuse}', { params: { path: { house: house.id, excuse: e.id } } }));
      const { color, reason, file, where, until } = e;
      return {
        said: `${color} is no longer excused; the next run judges it`,
        undo: [
          way('post', '/houses/{house}/excuses', {
            params: { path: { house: house.id } },
            body: { color, reason, file, where, until, project: e.project },
          }),
        ],
      };
    });
</script>

{#if shown.length > 0 || ended > 0}
  <h2 class="mt-6 text-[1.13rem]">Excused</h2>
  <ul>
    {#each shown as e (e.id)}
      <li class="rule grid grid-cols-[2.27rem_1fr_auto] gap-3 border-b py-2 text-small">
        <span class="h-[2.27rem]" style:background={/^#[0-9A-F]{6}$/i.test(e.color) ? e.color : 'transparent'} aria-hidden="true"
        ></span>
        <span class="min-w-0 break-words"
          ><b class="font-mono">{e.color}</b>
          {covers(e)}: {e.reason}<span class="block"
            >{e.by}{e.until ? `, until ${day.format(new Date(e.until))}` : ''}{e.state === 'ending'
              ? ' (ends soon)'
              : e.state === 'over'
                ? ' (over: it does not hold any more)'
                : e.state === 'ended'
                  ? ` (ended by ${e.endedBy})`
                  : ''}</span
          ></span
        >
        {#if house.contributor && e.state !== 'ended'}<button class="link self-start" onclick={() => end(e)}>end</button>{/if}
      </li>
    {/each}
  </ul>
  {#if ended > 0}<button class="link mt-2 self-start text-small" onclick={() => (past = !past)}
      >{past ? 'hide ended ones' : `show ${ended} ended`}</button
    >{/if}
{/if}
