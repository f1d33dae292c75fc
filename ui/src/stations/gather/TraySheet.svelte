<script lang="ts">
  import { api, need, Problem, sentence, type Schema } from '../../lib/api/client';
  import { house, useRefresh } from '../../lib/house.svelte';
  import { message } from '../../lib/state.svelte';

  let { candidates, groups }: { candidates: Schema['Candidate'][]; groups: string[] } = $props();

  const refresh = useRefresh();
  let group = $state('');
  let role = $state('');
  let problem = $state('');
  let blamed = $state<Record<number, string>>({});
  let busy = $state(false);

  const ready = $derived(candidates.filter((c) => !c.notes.some((n) => n.blocks)));
  const at = (item: number) => ({ params: { path: { house: house.id, item } } });

  async function attempt(f: () => Promise<unknown>) {
    busy = true;
    problem = '';
    blamed = {};
    try {
      await f();
      await refresh('tray');
    } catch (e) {
      problem = sentence(e);
      if (e instanceof Problem) blamed = Object.fromEntries(e.items.map((i) => [i.id, i.reason]));
    } finally {
      busy = false;
    }
  }

  const rename = (c: Schema['Candidate'], name: string) =>
    name.trim() !== c.name && attempt(() => need(api.PATCH('/houses/{house}/tray/{item}', { ...at(c.id), body: { name } })));

  const again = (list: Schema['Candidate'][]) =>
    attempt(() =>
      need(
        api.POST('/houses/{house}/tray', {
          params: { path: { house: house.id } },
          body: { text: list.map((c) => [c.name, c.hex, c.cmyk ? c.cmyk.replaceAll(' ', '/') : ''].filter(Boolean).join('\t')).join('\n') },
        }),
      ),
    );

  async function remove(c: Schema['Candidate']) {
    await attempt(() => need(api.DELETE('/houses/{house}/tray/{item}', at(c.id))));
    message.say(`${c.name || c.hex} taken off the tray`, () => void again([c]));
  }

  async function clear() {
    const list = candidates;
    await attempt(() => need(api.DELETE('/houses/{house}/tray', { params: { path: { house: house.id } } })));
    message.say('The tray is empty', () => void again(list));
  }

  const admit = () =>
    attempt(async () => {
      const done = await need(
        api.POST('/houses/{house}/tray/admit', {
          params: { path: { house: house.id } },
          body: { items: ready.map((c) => c.id), group: group.trim() || undefined, role: role || undefined },
        }),
      );
      await refresh('ledger');
      const n = done.colors.length;
      message.say(`${n === 1 ? done.colors[0]?.name : `${n} colors`} ${house.keeper ? 'admitted to the library' : 'proposed; a keeper approves'}`);
    });
</script>

<aside class="flex min-h-0 flex-col bg-base-200" aria-label="Tray, in detail">
  <div class="flex items-baseline justify-between px-5 pt-5">
    <h2 class="text-[19px]">Tray</h2>
    <span>{candidates.length === 0 ? 'empty' : candidates.length === 1 ? '1 candidate' : `${candidates.length} candidates`}</span>
  </div>
  {#if candidates.length === 0}
    <p class="px-5 pt-3">Candidates wait here to be named and admitted.</p>
  {:else}
    <ul class="mt-3 min-h-0 flex-1 overflow-y-auto px-5">
      {#each candidates as c (c.id)}
        {@const near = c.notes.find((n) => n.color)}
        <li class="rule grid grid-cols-[72px_1fr_auto] gap-3 border-b py-2">
          <span class="flex min-h-12" aria-hidden="true">
            <span class="flex-1" style:background={c.hex}></span>
            {#if near?.color}<span class="flex-1" style:background={near.color.hex}></span>{/if}
          </span>
          <span class="min-w-0">
            <input
              class="input w-full font-bold"
              aria-label={`Name of ${c.hex}`}
              placeholder="name it"
              maxlength="120"
              value={c.name}
              disabled={busy}
              onchange={(e) => rename(c, e.currentTarget.value)}
            />
            <span class="mt-1 block font-mono text-small">{c.hex}{c.cmyk ? `, CMYK ${c.cmyk}` : ''}</span>
            {#each c.notes as n (n.text)}
              <span class="block text-small">{#if n.blocks}<b>{n.text}</b>{:else}{n.text}{/if}</span>
            {/each}
            {#if blamed[c.id]}<span class="block text-small font-bold" role="alert">{blamed[c.id]}</span>{/if}
          </span>
          <button class="self-start px-1 underline" aria-label={`Take ${c.name || c.hex} off the tray`} disabled={busy} onclick={() => remove(c)}>remove</button>
        </li>
      {/each}
    </ul>
    <div class="rule grid gap-3 border-t p-5">
      <div class="grid grid-cols-2 gap-3">
        <label class="grid gap-1 text-small"
          >Group
          <input class="input w-full" list="groups" placeholder="none" maxlength="120" bind:value={group} />
          <datalist id="groups">{#each groups as g (g)}<option value={g}></option>{/each}</datalist>
        </label>
        <label class="grid gap-1 text-small"
          >Role
          <select class="select w-full" bind:value={role}>
            <option value="">none</option>
            {#each ['primary', 'secondary', 'accent', 'neutral'] as r (r)}<option>{r}</option>{/each}
          </select>
        </label>
      </div>
      {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
      <div class="flex items-center gap-4">
        <button class="btn btn-primary" disabled={busy || ready.length === 0} onclick={admit}>
          {house.keeper ? 'Admit' : 'Propose'}
          {ready.length === 1 ? '1 color' : `${ready.length} colors`}
        </button>
        {#if ready.length < candidates.length}<span class="text-small">{candidates.length - ready.length} wait for a name</span>{/if}
        <button class="ml-auto underline" disabled={busy} onclick={clear}>clear the tray</button>
      </div>
    </div>
  {/if}
</aside>
