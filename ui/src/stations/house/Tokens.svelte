<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { copy, session } from '../../lib/state.svelte';

  // Access tokens for programs, each for one house and one purpose.
  let { list }: { list: Schema['AccessToken'][] } = $props();

  const tokens = useChange(['account']);
  let token = $state('');
  type Wanted = { name: string; house: number; role: Schema['Role']; purpose: Schema['Purpose']; days: number };
  const blank = (): Wanted => ({ name: '', house: session.now?.houses[0]?.id ?? 0, role: 'reader', purpose: 'read', days: 90 });
  let wanted = $state(blank());
  const purposes: Record<Schema['Purpose'], string> = {
    read: 'looks and downloads',
    audit: 'judges and repaints files',
    send: 'fixes editions and sends them',
    everything: 'does all that its role may',
  };
  const houseName = (id?: number) => session.now?.houses.find((h) => h.id === id)?.name ?? (id ? 'a house' : 'all your houses');

  const addToken = () =>
    tokens.run(async () => {
      token = (await need(api.POST('/account/tokens', { body: wanted }))).token;
      wanted = blank();
    });
  const dropToken = (t: Schema['AccessToken']) =>
    tokens.run(async () => {
      await need(api.DELETE('/account/tokens/{token}', { params: { path: { token: t.id } } }));
      return `The token ${t.name} opens nothing any more`;
    });
  const when = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
</script>

<h2 class="mt-8 text-[1.13rem]">Access tokens</h2>
<p class="mt-1 max-w-[45.33rem]">
  For programs and the command line. A token acts for you in one house, for one purpose, with no more than its role, and never
  reaches your account. What programs can ask for stands in the
  <a class="link" href="/api/" target="_blank">contract</a>, to be read and tried.
</p>
<ul class="mt-1 max-w-[45.33rem]">
  {#each list as t (t.id)}
    <li class="rule border-b py-2">
      <span class="flex items-baseline justify-between gap-4"
        ><b class="min-w-0 break-words">{t.name}</b><button class="link" disabled={tokens.busy} onclick={() => dropToken(t)}
          >take away</button
        ></span
      >
      <span class="block">{houseName(t.house)}, as a {t.role}; it {purposes[t.purpose]}</span>
      <span class="block text-small"
        >until {day.format(new Date(t.until))}; {t.used
          ? `last used ${when.format(new Date(t.used))} from ${t.from}`
          : 'never used'}</span
      >
    </li>
  {/each}
</ul>
<form
  class="mt-3 flex max-w-[45.33rem] flex-wrap items-end gap-3"
  onsubmit={(e) => {
    e.preventDefault();
    void addToken();
  }}
>
  <label class="grid min-w-[12rem] flex-1 gap-1 text-small"
    >What it is for<input class="input w-full" required maxlength="120" bind:value={wanted.name} /></label
  >
  <label class="grid gap-1 text-small"
    >House<select class="select w-[12rem]" bind:value={wanted.house}
      >{#each session.now?.houses ?? [] as h (h.id)}<option value={h.id}>{h.name}</option>{/each}</select
    ></label
  >
  <label class="grid gap-1 text-small"
    >Purpose<select class="select w-[14rem]" bind:value={wanted.purpose}
      >{#each Object.entries(purposes) as [p, says] (p)}<option value={p}>{says}</option>{/each}</select
    ></label
  >
  <label class="grid gap-1 text-small"
    >Role<select class="select w-[8.67rem]" bind:value={wanted.role}
      ><option>reader</option><option>contributor</option><option>keeper</option></select
    ></label
  >
  <label class="grid gap-1 text-small"
    >Days<input class="input w-[5.33rem]" type="number" min="1" max="366" required bind:value={wanted.days} /></label
  >
  <button class="btn btn-plain" disabled={tokens.busy}>Make a token</button>
</form>
{#if tokens.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{tokens.problem}</p>{/if}
{#if token}
  <div class="mt-3 max-w-[45.33rem] border border-current p-3">
    <p>The token. It is shown this once.</p>
    <p class="mt-1 break-all font-mono text-small">{token}</p>
    <button class="btn btn-primary mt-2" onclick={() => copy(token, 'The token is')}>Copy the token</button>
  </div>
{/if}
