<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { copy } from '../../lib/state.svelte';
  import { moment, of } from './send';
  import Ways from './Ways.svelte';

  // Programs that are told of what happens: where, of what, and what they answered.
  type Hook = Schema['Hook'];
  const hooks = createQuery(() => ({
    queryKey: ['hooks', house.id],
    queryFn: () => need(api.GET('/houses/{house}/hooks', { params: { path: { house: house.id } } })),
    enabled: house.keeper,
  }));
  const changing = useChange(['hooks']);
  const events: [Schema['HookEvent'], string][] = [
    ['edition.sent', 'an edition was sent'],
    ['edition.withdrawn', 'an edition was withdrawn'],
    ['color.approved', 'a color was approved'],
    ['color.retired', 'a color was retired'],
    ['project.fell', 'the score of a project fell'],
  ];
  let chosen = $state(0);
  const one = $derived(hooks.data?.find((h) => h.id === chosen) ?? (rem.phone ? undefined : hooks.data?.[0]));
  const messages = createQuery(() => ({
    queryKey: ['hooks', house.id, one?.id, 'messages'],
    queryFn: () =>
      need(api.GET('/houses/{house}/hooks/{hook}/messages', { params: { path: { house: house.id, hook: one?.id ?? 0 } } })),
    enabled: one !== undefined,
    refetchInterval: (q) => (q.state.data?.some((m) => m.state === 'waiting') ? 1000 : 15_000),
  }));
  let adding = $state(false);
  let editing = $state(false);
  let secret = $state<{ id: number; text: string }>();
  let form = $state<Schema['HookContent']>({ address: '', events: [] });
  const where = (h: Hook) => ({ params: { path: { house: house.id, hook: h.id } } });
  const content = (h: Hook): Schema['HookContent'] => ({ address: h.address, events: [...h.events], paused: h.paused });
  const begin = (h?: Hook) => {
    form = h ? content(h) : { address: '', events: [] };
    [adding, editing] = [!h, !!h];
  };
  const add = () =>
    changing.run(async () => {
      const h = await need(
        api.POST('/houses/{house}/hooks', { params: { path: { house: house.id } }, body: $state.snapshot(form) }),
      );
      adding = false;
      chosen = h.id;
      secret = { id: h.id, text: h.secret ?? '' };
      return {
        said: `${h.address} is told from now on`,
        undo: [way('delete', '/houses/{house}/hooks/{hook}', where(h))],
      };
    });
  const put = (h: Hook, body: Schema['HookContent'], said: string) =>
    changing.run(async () => {
      const before = content(h);
      await need(api.PUT('/houses/{house}/hooks/{hook}', { ...where(h), body }));
      editing = false;
      return { said, undo: [way('put', '/houses/{house}/hooks/{hook}', { ...where(h), body: before })] };
    });
  const drop = (h: Hook) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/hooks/{hook}', where(h)));
      return `${h.address} is told nothing any more`;
    });
  const test = (h: Hook) =>
    changing.run(async () => {
      await need(api.POST('/houses/{house}/hooks/{hook}/test', where(h)));
      return 'A message to try it is on its way';
    });
  const told = (h: Hook) =>
    h.events.length === 0
      ? 'told of everything'
      : `told when ${events
          .filter(([k]) => h.events.includes(k))
          .map(([, s]) => s)
          .join('; ')}`;
  const states = { waiting: 'on its way', taken: 'taken', failed: 'not taken' };
  const name = (m: Schema['HookMessage']) => events.find(([k]) => k === m.event)?.[1] ?? 'to try it';
</script>

{#snippet fields(done: () => void, save: () => unknown, label: string)}
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <form
    class="mt-3 grid max-w-[42rem] gap-2 border border-current p-3"
    onkeydown={(e) => e.key === 'Escape' && done()}
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <input
      class="input w-full"
      type="url"
      required
      placeholder="https://build.example/hooks/colors"
      aria-label="Address that messages are posted to"
      {@attach opened}
      bind:value={form.address}
    />
    <fieldset>
      <legend class="text-small font-bold">It is told when (nothing ticked: of everything)</legend>
      {#each events as [key, says] (key)}<label class="mr-4 inline-flex items-center gap-2"
          ><input type="checkbox" class="checkbox" value={key} bind:group={form.events} />{says}</label
        >{/each}
    </fieldset>
    {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    <p class="flex gap-3">
      <button class="btn btn-primary" disabled={changing.busy}>{label}</button>
      <button type="button" class="btn btn-plain" onclick={done}>Cancel</button>
    </p>
  </form>
{/snippet}

<div class="work" data-at={chosen ? 'one' : 'list'}>
  <main class="whole flex min-h-0 flex-col overflow-y-auto p-5 pt-4 phone:px-4">
    {#if rem.phone}<h1 class="keep sr-only">Send</h1>{/if}
    <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
      {#if !rem.phone}<h1>Send</h1>{/if}
      <Ways at="programs" />
      {#if house.keeper}<button
          class="btn btn-plain ml-auto"
          aria-expanded={adding}
          onclick={() => (adding ? (adding = false) : begin())}>Tell a program</button
        >{/if}
    </div>
    {#if adding}{@render fields(() => (adding = false), add, 'Tell it from now on')}{/if}
    {#if changing.problem && !adding && !editing}<p role="alert" class="mt-2 border-l-4 border-current pl-3">
        {changing.problem}
      </p>{/if}
    {#if hooks.data?.length === 0 && !adding}
      <div class="pt-6">
        <h2>No program is told</h2>
        <p class="mt-2 max-w-[42rem]">
          A program of yours is posted a signed message when something happens here (a webhook of the open Standard Webhooks form),
          so that a build fetches the colors at once and does not ask every minute.
        </p>
      </div>
    {/if}
    <ul class="mt-3">
      {#each hooks.data ?? [] as h (h.id)}
        <li class="rule border-b">
          <button
            class="grid w-full grid-cols-[2fr_1.4fr] gap-4 py-2.5 pl-3 text-left phone:grid-cols-1 phone:gap-1 phone:pl-0"
            class:bg-base-200={h.id === one?.id}
            aria-pressed={h.id === one?.id}
            onclick={() => (chosen = h.id)}
          >
            <span class="break-all font-bold">{h.address}</span>
            <span class="text-small"
              >{told(h)}{#if h.paused}<span class="block font-bold">paused{h.why ? `. ${h.why}` : ''}</span>{/if}</span
            >
          </button>
        </li>
      {/each}
    </ul>
  </main>
  {#if one}
    {#key one.id}
      <aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-8 pt-4" aria-label="A program that is told">
        {#if rem.phone}<button class="flex min-h-[2.93rem] items-center font-bold" onclick={() => (chosen = 0)}>‹ Programs</button
          >{/if}
        <h2 class="break-all text-[1.13rem]">{one.address}</h2>
        <p class="text-small">{told(one)}; by {one.by}, {moment.format(new Date(one.at))}</p>
        {#if one.paused}<p class="mt-2 border-l-4 border-current pl-3"><b>Paused.</b> {one.why}</p>{/if}
        {#if secret?.id === one.id}
          <div class="mt-3 border border-current p-3">
            <p><b>Its secret</b>, with which messages are signed. It is shown this once.</p>
            <p class="break-all font-mono text-small">{secret.text}</p>
            <button class="btn btn-plain mt-2" onclick={() => copy(secret!.text, 'The secret')}>Copy the secret</button>
          </div>
        {/if}
        {#if editing}
          {@render fields(
            () => (editing = false),
            () => put(one, $state.snapshot(form), 'The webhook is changed'),
            'Keep it so',
          )}
        {:else}
          <p class="mt-3 flex flex-wrap items-center gap-3">
            <button class="btn btn-primary" disabled={changing.busy} onclick={() => test(one)}>Try it</button>
            <button class="link" onclick={() => begin(one)}>change</button>
            <button
              class="link"
              disabled={changing.busy}
              onclick={() =>
                put(one, { ...content(one), paused: !one.paused }, one.paused ? 'It is told again' : 'It is told nothing for now')}
              >{one.paused ? 'end the pause' : 'pause'}</button
            >
            <button class="link" disabled={changing.busy} onclick={() => drop(one)}>tell it nothing any more</button>
          </p>
        {/if}
        <h3>What it was told</h3>
        <ul class="text-small" aria-live="polite">
          {#each messages.data ?? [] as m (m.id)}
            <li class="rule border-b py-1.5">
              <details>
                <summary class="cursor-pointer"
                  ><b>{states[m.state]}</b>{m.status ? `, ${m.status}` : ''}: {name(m)}, {moment.format(
                    new Date(m.at),
                  )}{m.attempts > 1 ? `, ${of(m.attempts, 'attempt')}` : ''}</summary
                >
                <pre class="mt-1 whitespace-pre-wrap break-all font-mono">{JSON.stringify(JSON.parse(m.body), null, 2)}</pre>
              </details>
              {#if m.answer}<span class="block">{m.answer}</span>{/if}
              {#if m.next}<span class="block">again {moment.format(new Date(m.next))}</span>{/if}
            </li>
          {:else}<li>Nothing yet.</li>{/each}
        </ul>
      </aside>
    {/key}
  {:else}<aside class="bg-base-200 p-5"><p>What a program was told, and what it answered, shows here.</p></aside>{/if}
</div>

<style>
  h3 {
    margin: 1.33rem 0 2px;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
