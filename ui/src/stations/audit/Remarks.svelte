<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { when } from './audit.svelte';

  // What was said about a found color of a file, and who is to see to it.
  let { project, path, color }: { project: number; path: string; color: string } = $props();
  const at = () => ({ params: { path: { house: house.id, project } } });
  const all = createQuery(() => ({
    queryKey: ['audits', 'remarks', house.id, project],
    queryFn: () => need(api.GET('/houses/{house}/projects/{project}/remarks', at())),
  }));
  const its = $derived((all.data ?? []).filter((r) => r.path === path && r.color === color));
  const people = createQuery(() => ({
    queryKey: ['people', house.id],
    queryFn: () => need(api.GET('/houses/{house}/people', { params: { path: { house: house.id } } })),
    enabled: house.contributor,
  }));
  const changing = useChange(['audits']);
  let writing = $state(false);
  let text = $state('');
  let to = $state<number>();

  const say = () =>
    changing.run(async () => {
      const body = { path, color, text, for: to };
      const made = await need(api.POST('/houses/{house}/projects/{project}/remarks', { ...at(), body }));
      writing = false;
      text = '';
      to = undefined;
      return {
        said: made.for ? (made.mailed ? `${made.for} is asked by mail` : `It stands there for ${made.for}`) : 'It stands there',
        undo: [way('delete', '/houses/{house}/remarks/{remark}', { params: { path: { house: house.id, remark: made.id } } })],
      };
    });
  const drop = (r: Schema['Remark']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/remarks/{remark}', { params: { path: { house: house.id, remark: r.id } } }));
      return 'The remark is deleted';
    });
</script>

{#if its.length > 0 || house.contributor}
  <section class="mt-4" aria-label="Remarks">
    <h3 class="text-[0.93rem] font-bold">Remarks</h3>
    <ul>
      {#each its as r (r.id)}
        <li class="rule border-b py-1.5 text-small">
          <span class="block break-words">{r.text}</span>
          <span
            >{r.by}, {when.format(new Date(r.at))}{#if r.for}; for <b>{r.for}</b>{/if}{#if r.settled}; gone in run {r.settled}{/if}</span
          >
          {#if r.may}<button class="link ml-2" disabled={changing.busy} onclick={() => drop(r)}>delete</button>{/if}
        </li>
      {/each}
    </ul>
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#if writing}
      <form
        class="mt-2 grid gap-2 text-small"
        onsubmit={(e) => {
          e.preventDefault();
          void say();
        }}
      >
        <textarea class="textarea w-full" rows="2" maxlength="500" aria-label="Remark" bind:value={text} {@attach opened}
        ></textarea>
        <label class="flex items-center gap-2"
          >to see to it
          <select class="select w-full" bind:value={to}>
            <option value={undefined}>nobody in particular</option>
            {#each people.data?.members ?? [] as m (m.id)}<option value={m.id}>{m.name}{m.self ? ' (you)' : ''}</option>{/each}
          </select></label
        >
        <span class="flex gap-4"
          ><button class="btn btn-plain" disabled={changing.busy || (text.trim() === '' && to === undefined)}>Say it</button><button
            class="link"
            type="button"
            onclick={() => (writing = false)}>leave it</button
          ></span
        >
      </form>
    {:else if house.contributor}<button class="link mt-1 text-small" onclick={() => (writing = true)}
        >say something, or give it to somebody</button
      >{/if}
  </section>
{/if}
