<script lang="ts">
  import { api, need, sentence, type Schema } from '../../lib/api/client';
  import { house, useRefresh } from '../../lib/house.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { message } from '../../lib/state.svelte';

  // Amending a master value: what it was and would be edge to edge, and who holds the old value, before it takes effect.
  let { id, version, name, done }: { id: number; version: number; name: string; done: () => void } = $props();

  const refresh = useRefresh();
  let value = $state('');
  let seen = $state<Schema['Amendment'] | null>(null);
  let problem = $state('');
  let busy = $state(false);

  $effect(() => {
    const asked = value;
    if (asked.trim() === '') {
      [seen, problem] = [null, ''];
      return;
    }
    const timer = setTimeout(async () => {
      try {
        const p = await need(api.POST('/houses/{house}/colors/{color}/preview', { params: { path: { house: house.id, color: id } }, body: { value: asked } }));
        if (asked === value) [seen, problem] = [p, ''];
      } catch (e) {
        if (asked === value) [seen, problem] = [null, sentence(e)];
      }
    }, 120);
    return () => clearTimeout(timer);
  });

  async function amend() {
    busy = true;
    try {
      const s = await need(api.PATCH('/houses/{house}/colors/{color}', { params: { path: { house: house.id, color: id } }, body: { version, value } }));
      message.say(`${name} is ${s.row.hex} now`);
      done();
      await refresh('sheet', 'ledger', 'sets', 'tray');
    } catch (e) {
      problem = sentence(e);
      await refresh('sheet');
    } finally {
      busy = false;
    }
  }

  const held = $derived(seen?.holders.filter((h) => h.recipients.length > 0) ?? []);
</script>

<form
  class="border border-current p-3"
  onsubmit={(e) => {
    e.preventDefault();
    if (seen && seen.after !== seen.before) void amend();
  }}
>
  <label class="grid gap-1 text-small"
    >New value, in any notation
    <!-- svelte-ignore a11y_autofocus -->
    <input class="input w-full font-mono" autofocus spellcheck="false" bind:value />
  </label>
  {#if problem}<p role="alert" class="mt-2">{problem}</p>{/if}
  {#if seen}
    <div class="mt-3 grid h-16 grid-cols-2" role="img" aria-label={`before ${seen.before}, after ${seen.after}`}>
      <span style:background={seen.before}></span><span style:background={seen.after}></span>
    </div>
    <p class="mt-1 grid grid-cols-2 text-small"><span>before {seen.before}</span><span>after {seen.after}, <Distance value={seen.deltaE} word={seen.word} /></span></p>
    <ul class="mt-2 grid gap-1 text-small">
      {#if seen.same}<li><b>{seen.same.name} has this value already.</b></li>{/if}
      <li>{seen.sets.length === 0 ? 'It is in no swatch set.' : `Swatch sets that follow: ${seen.sets.join(', ')}.`}</li>
      <li>
        {#if held.length === 0}No recipient holds a value of it.
        {:else}Holding the old value: {held.map((h) => `${h.recipients.join(', ')} (${h.set}, edition ${h.edition})`).join('; ')}.{/if}
      </li>
      {#if seen.approved.length > 0}<li>Approved values stay and are flagged: {seen.approved.join('; ')}.</li>{/if}
    </ul>
  {/if}
  <div class="mt-3 flex gap-3">
    <button class="btn btn-primary" disabled={busy || !seen || seen.after === seen.before}>{seen && seen.after !== seen.before ? `Amend to ${seen.after}` : 'Amend'}</button>
    <button type="button" class="btn btn-plain" onclick={done}>Leave</button>
  </div>
</form>
