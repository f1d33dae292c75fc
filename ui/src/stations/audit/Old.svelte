<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { count, useWork } from './audit.svelte';
  import Working from './Working.svelte';

  // Projects whose files still hold a value that a color had, or a color that was replaced: repainted all at once.
  let { color, name, becomes }: { color: number; name: string; becomes: string } = $props();

  const work = useWork();
  const projects = createQuery(() => ({
    queryKey: ['audits', 'holding', house.id, color, becomes],
    queryFn: async () => {
      const path = { house: house.id };
      const list = await need(api.GET('/houses/{house}/projects', { params: { path, query: { holding: color } } }));
      return list.projects;
    },
    enabled: house.contributor,
  }));
  const list = $derived(projects.data ?? []);
  let made = $state<{ id: number; project: string; changed: number }[]>([]);

  const repaint = () =>
    work.run(async () => {
      made = [];
      const path = { house: house.id };
      const colors = await need(api.GET('/houses/{house}/plans/proposal', { params: { path, query: { color } } }));
      for (const p of list) {
        const { runs } = await need(
          api.GET('/houses/{house}/projects/{project}', { params: { path: { ...path, project: p.id } } }),
        );
        if (!runs[0]) continue;
        const begun = await need(
          api.POST('/houses/{house}/runs/{run}/repaints', { params: { path: { ...path, run: runs[0].id } }, body: { colors } }),
        );
        const id = await work.done(p.name, begun);
        const r = await need(api.GET('/houses/{house}/repaints/{repaint}', { params: { path: { ...path, repaint: id } } }));
        made.push({ id, project: p.name, changed: r.changed });
      }
    });
</script>

{#if house.contributor && (list.length > 0 || made.length > 0)}
  <div class="mt-3 border border-current p-3" aria-label="Projects that hold it" role="group">
    {#if made.length > 0}
      <ul>
        {#each made as m (m.id)}
          <li>
            <a class="link" href={house.path(`audit/repaint/${m.id}`)}>{m.project}</a>: {count(m.changed, 'use')} became {becomes}
          </li>
        {/each}
      </ul>
    {:else}
      <p>
        <b>{count(list.length, 'audited project')}</b>
        {list.length === 1 ? 'holds' : 'hold'}
        {becomes === name ? `an older value of ${name}` : name}: {list
          .slice(0, 4)
          .map((p) => p.name)
          .join(', ')}{list.length > 4 ? ` and ${list.length - 4} more` : ''}.
      </p>
      <button class="btn btn-primary mt-2" disabled={work.changing.busy} onclick={repaint}
        >Repaint {list.length === 1 ? 'it' : 'them'} to {becomes}</button
      >
    {/if}
    <Working {work} />
  </div>
{/if}
