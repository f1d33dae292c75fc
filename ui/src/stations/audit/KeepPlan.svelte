<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { opened } from '../../lib/focus';
  import { type Work } from './audit.svelte';

  // What was chosen as a plan under a name, for other files.
  let { work, steps, none }: { work: Work; steps: () => Schema['PlanStep'][]; none: boolean } = $props();

  let naming = $state<string | null>(null);
  const keep = () =>
    work.run(async () => {
      const path = { house: house.id };
      const name = naming ?? '';
      const p = await need(api.POST('/houses/{house}/plans', { params: { path }, body: { name, colors: steps() } }));
      naming = null;
      return {
        said: `The plan ${p.name} is kept`,
        undo: [way('delete', '/houses/{house}/plans/{plan}', { params: { path: { ...path, plan: p.id } } })],
        next: { name: 'repaint plans', href: house.path('audit/plans') },
      };
    });
</script>

{#if naming !== null}
  <form
    class="flex items-center gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      void keep();
    }}
  >
    <input
      class="input w-[12.67rem]"
      aria-label="Name of the plan"
      placeholder="name of the plan"
      required
      bind:value={naming}
      {@attach opened}
    />
    <button class="btn btn-plain" disabled={work.changing.busy}>Keep the plan</button>
    <button type="button" class="link" onclick={() => (naming = null)}>leave it</button>
  </form>
{:else}<button class="link" disabled={none} onclick={() => (naming = '')}>keep under a name</button>{/if}
