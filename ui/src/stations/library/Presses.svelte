<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, sentence, sessionToken, type Schema } from '../../lib/api/client';
  import { house, useRefresh } from '../../lib/house.svelte';
  import { message } from '../../lib/state.svelte';

  const refresh = useRefresh();
  const presses = createQuery(() => ({
    queryKey: ['presses', house.id],
    queryFn: () => need(api.GET('/houses/{house}/presses', { params: { path: { house: house.id } } })),
  }));
  let label = $state('');
  let limit = $state('');
  let file = $state<FileList>();
  let chooser = $state<HTMLInputElement>();
  let problem = $state('');
  let busy = $state(false);

  async function add() {
    const f = file?.[0];
    if (!f) return;
    [busy, problem] = [true, ''];
    try {
      const form = new FormData();
      form.append('file', f, f.name);
      const query = new URLSearchParams({ label });
      if (String(limit).trim()) query.set('inkLimit', String(limit));
      const r = await fetch(`/api/houses/${house.id}/presses?${query}`, { method: 'POST', body: form, headers: { 'X-CSRF-Token': sessionToken() } });
      if (!r.ok) throw new Error(((await r.json()) as Schema['Problem']).title);
      message.say(`${label} is a press now`);
      [label, limit] = ['', ''];
      if (chooser) chooser.value = '';
      file = undefined;
    } catch (e) {
      problem = sentence(e);
    } finally {
      busy = false;
      await refresh('presses', 'sheet');
    }
  }

  async function remove(p: Schema['Press']) {
    problem = '';
    try {
      await need(api.DELETE('/houses/{house}/presses/{press}', { params: { path: { house: house.id, press: p.name } } }));
      message.say(`${p.label} is taken away`);
    } catch (e) {
      problem = sentence(e);
    }
    await refresh('presses', 'sheet');
  }
</script>

<p class="max-w-[680px]">Every color has a CMYK build for each press below. Add the profile that your printer gives you, and builds for that press come with every color; they are approved like the others.</p>
<table class="mt-4 w-full max-w-[900px] border-collapse">
  <thead class="text-left text-small"><tr class="border-b border-current"><th class="py-1">Press</th><th>Total ink</th><th>Profile</th><th>Added by</th><th></th></tr></thead>
  <tbody>
    {#each presses.data ?? [] as p (p.name)}
      <tr class="rule border-b">
        <td class="h-10 font-bold">{p.label}</td>
        <td class="font-mono">{p.inkLimit} %</td>
        <td>{p.profile || 'without a name'}</td>
        <td>{p.shipped ? 'ships with the program' : p.by}</td>
        <td class="text-right">{#if house.keeper && !p.shipped}<button class="underline" aria-label={`Take away ${p.label}`} onclick={() => remove(p)}>take away</button>{/if}</td>
      </tr>
    {/each}
  </tbody>
</table>
{#if house.keeper}
  <form class="mt-5 flex flex-wrap items-end gap-3" onsubmit={(e) => { e.preventDefault(); void add(); }}>
    <label class="grid gap-1 text-small">Name of the press <input class="input w-[210px]" required maxlength="60" placeholder="Harbor print shop" bind:value={label} /></label>
    <label class="grid gap-1 text-small">Total ink, percent <input class="input w-[150px]" type="number" min="100" max="400" placeholder="the profile’s" bind:value={limit} /></label>
    <button type="button" class="btn btn-plain" onclick={() => chooser?.click()}>{file?.[0]?.name ?? 'Choose its ICC profile'}</button>
    <input class="hidden" type="file" accept=".icc,.icm" aria-label="ICC profile" bind:this={chooser} bind:files={file} />
    <button class="btn btn-primary" disabled={busy || !file?.[0] || !label.trim()}>Add the press</button>
  </form>
{/if}
{#if problem}<p role="alert" class="mt-3 max-w-[680px] border-l-4 border-current pl-3">{problem}</p>{/if}
