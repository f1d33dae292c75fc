<script lang="ts">
  import { colorBack } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { house, useLimits, useSuggestions } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';

  // What others would change of a color: a contributor suggests, a keeper takes it or declines.
  let { color }: { color: Schema['ColorRow'] } = $props();

  const limits = useLimits();
  const suggestions = useSuggestions();
  const changing = useChange(['suggestions', 'sheet', 'ledger', 'sets']);
  const here = $derived((suggestions.data ?? []).filter((s) => s.color.id === color.id));

  const nothing = { name: '', value: '', rule: '', note: '' };
  const draft = $derived(kept(`suggest-${house.id}-${color.id}`, { ...nothing }));
  let open = $state(false);
  let word = $state('');
  let declining = $state(0);

  const suggest = () =>
    changing.run(async () => {
      const body = $state.snapshot(draft.now);
      await need(
        api.POST('/houses/{house}/colors/{color}/suggestions', { params: { path: { house: house.id, color: color.id } }, body }),
      );
      draft.clear();
      open = false;
      return 'Suggested; a keeper answers';
    });
  const answer = (s: Schema['Suggestion'], take: boolean, said: string) =>
    changing.run(async () => {
      const path = { house: house.id, suggestion: s.id };
      const sheet = () =>
        need(api.GET('/houses/{house}/colors/{color}', { params: { path: { house: path.house, color: color.id } } }));
      const was = take ? await sheet() : undefined;
      await need(api.POST('/houses/{house}/suggestions/{suggestion}', { params: { path }, body: { take, word } }));
      [declining, word] = [0, ''];
      return { said, undo: was && colorBack(was, await sheet()) };
    });
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
</script>

{#each here as s (s.id)}
  <div class="mt-3 border border-current p-3 text-small" role="group" aria-label={`Suggestion of ${s.by}`}>
    <p><b>{s.own ? 'You suggested' : `${s.by} suggests`}</b>, {day.format(new Date(s.at))}</p>
    {#if s.value}
      <span class="mt-2 grid h-10 grid-cols-2" role="img" aria-label={`${color.hex} beside ${s.value}`}
        ><span style:background={color.hex}></span><span style:background={s.value}></span></span
      >
    {/if}
    <ul class="mt-1">
      {#if s.value}<li>the value <span class="font-mono">{s.value}</span></li>{/if}
      {#if s.name}<li>the name {s.name}</li>{/if}
      {#if s.rule}<li>the rule “{s.rule}”</li>{/if}
      {#if s.note}<li>because: {s.note}</li>{/if}
    </ul>
    <p class="mt-2 flex gap-4">
      {#if house.keeper}
        <button class="link" disabled={changing.busy} onclick={() => answer(s, true, `Taken from ${s.by}`)}>take it</button>
        <button class="link" aria-expanded={declining === s.id} onclick={() => (declining = declining === s.id ? 0 : s.id)}
          >decline</button
        >
      {:else}<button class="link" disabled={changing.busy} onclick={() => answer(s, false, 'Withdrawn')}>withdraw it</button>{/if}
    </p>
    {#if declining === s.id}
      <form
        class="mt-2 flex gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          void answer(s, false, 'Declined; the history says so');
        }}
      >
        <input
          class="input flex-1"
          placeholder="a word to say why"
          aria-label="Why it is declined"
          maxlength={limits.data?.nameRunes}
          {@attach opened}
          bind:value={word}
        />
        <button class="btn btn-plain" disabled={changing.busy}>Decline</button>
      </form>
    {/if}
  </div>
{/each}
{#if house.contributor && !house.keeper && color.status === 'approved'}
  <p class="mt-2"><button class="link" aria-expanded={open} onclick={() => (open = !open)}>suggest a change</button></p>
  {#if open}
    <form
      {@attach opened}
      class="mt-2 grid gap-2 border border-current p-3"
      onsubmit={(e) => {
        e.preventDefault();
        void suggest();
      }}
    >
      <label class="grid gap-1 text-small"
        >Value, in any notation <input
          class="input w-full font-mono"
          spellcheck="false"
          placeholder={color.hex}
          bind:value={draft.now.value}
        /></label
      >
      <label class="grid gap-1 text-small"
        >Name <input
          class="input w-full"
          placeholder={color.name}
          maxlength={limits.data?.nameRunes}
          bind:value={draft.now.name}
        /></label
      >
      <label class="grid gap-1 text-small"
        >Rule for use <textarea class="textarea w-full" rows="2" placeholder={color.rule} bind:value={draft.now.rule}
        ></textarea></label
      >
      <label class="grid gap-1 text-small">Why <input class="input w-full" bind:value={draft.now.note} /></label>
      <button class="btn btn-primary justify-self-start" disabled={changing.busy || !draft.changed}>Suggest</button>
    </form>
  {/if}
{/if}
{#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
