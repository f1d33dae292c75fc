<script lang="ts">
  import { untrack } from 'svelte';
  import { api, need, Problem, sentence, type Schema } from './lib/api/client';
  import { session } from './lib/state.svelte';
  import { noPasskeys, passkeys, show } from './lib/passkeys';
  import Mark from './lib/Mark.svelte';
  import First from './First.svelte';

  // With again, over the page of somebody whose session has ended.
  let { again }: { again?: string } = $props();
  let email = $state(untrack(() => again ?? ''));
  let password = $state('');
  let code = $state('');
  let askCode = $state('');
  // Why the sign-in provider's way did not lead in. An address that says anything else is no word of ours.
  const reasons: Record<string, string> = {
    away: 'The sign-in provider does not answer. Try again in a moment.',
    way: 'The way back from the sign-in provider was not the one that you went. Try again.',
    there: 'The sign-in provider did not let you in.',
    answer: 'The answer of the sign-in provider could not be checked. Try again, or ask whoever runs this server.',
    unverified: 'Your sign-in provider does not say which e-mail address is yours, so nobody here knows who you are.',
    unknown: 'There is no account for the address that your sign-in provider gave. Ask a keeper of your house to invite you.',
    here: 'You could not be let in. Try again, or ask whoever runs this server.',
  };
  const refused = new URLSearchParams(location.search).get('refused');
  let problem = $state((refused && reasons[refused]) || '');
  let busy = $state(false);
  let accounts = $state<Schema['DemoAccount'][]>([]);
  let ways = $state<{ provider?: string; mail: boolean; first?: boolean }>({ mail: false });
  let forgotten = $state(location.pathname === '/forgotten');
  let said = $state('');

  if (refused !== null) history.replaceState(null, '', '/');
  need(api.GET('/demo-accounts'))
    .then((a) => (accounts = a))
    .catch((e) => (problem = sentence(e)));
  need(api.GET('/sign-in'))
    .then((w) => (ways = w))
    .catch(() => undefined); // the one before says it

  const may: Record<Schema['Role'], string> = {
    keeper: 'changes and approves',
    contributor: 'gathers, proposes and audits',
    reader: 'looks, copies and downloads',
  };

  async function attempt(work: () => Promise<unknown>) {
    busy = true;
    problem = '';
    try {
      await work();
    } catch (e) {
      if (e instanceof Problem && e.code === 'second-factor' && !askCode) askCode = e.message;
      else problem = sentence(e);
    } finally {
      busy = false;
    }
  }
  const enter = (address: string, secret: string) =>
    attempt(async () => {
      await session.signIn(address, secret, code);
      if (location.pathname === '/forgotten') history.replaceState(null, '', '/');
    });
  const withPasskey = () =>
    attempt(async () => {
      const none = noPasskeys();
      if (none) throw new Problem(none, 400);
      const shown = await show();
      if (askCode) await session.signIn(email, password, '', shown);
      else session.take(await need(api.PUT('/sign-in/passkey', { body: { shown } })));
    });
  const ask = () =>
    attempt(async () => {
      await need(api.POST('/forgotten', { body: { email } }));
      said = `If there is an account for ${email}, a link is on its way there. It is good for an hour.`;
    });
</script>

<svelte:element
  this={again ? 'div' : 'main'}
  class={again
    ? 'outline outline-1 outline-current'
    : 'grid h-full place-items-center overflow-auto bg-base-100 p-8 max-[30rem]:p-3'}
>
  <div class="w-full max-w-[28rem] bg-base-200 p-8 text-base-content max-[30rem]:p-5">
    <h1 class="flex items-center gap-3"><Mark size={28} /> Hue Keep</h1>
    <p class="mt-2">
      {again
        ? 'Your session has ended. Sign in again: the page stays as it is, and what you asked for is done then.'
        : 'What exactly is our color?'}
    </p>
    {#if ways.first && !again}
      <First late={(why) => ((ways.first = false), (problem = why))} />
    {:else if forgotten}
      <form
        class="mt-6 grid gap-4"
        onsubmit={(e) => {
          e.preventDefault();
          void ask();
        }}
      >
        <h2>A new password</h2>
        <label class="grid gap-1"
          >E-mail
          <input class="input w-full" type="email" autocomplete="username" required bind:value={email} />
        </label>
        {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
        {#if said}<p role="status">{said}</p>{/if}
        <button class="btn btn-primary" disabled={busy}>Mail me a link</button>
        <button type="button" class="link justify-self-start" onclick={() => ((forgotten = false), (problem = ''), (said = ''))}
          >back to the sign-in</button
        >
      </form>
    {:else}
      <form
        class="mt-6 grid gap-4"
        onsubmit={(e) => {
          e.preventDefault();
          void enter(email, password);
        }}
      >
        <label class="grid gap-1"
          >E-mail
          <input class="input w-full" type="email" autocomplete="username" required bind:value={email} />
        </label>
        <label class="grid gap-1"
          >Password
          <!-- svelte-ignore a11y_autofocus -->
          <input
            class="input w-full"
            type="password"
            autocomplete="current-password"
            required
            autofocus={again !== undefined}
            bind:value={password}
          />
        </label>
        {#if askCode}
          <label class="grid gap-1"
            >{askCode}
            <!-- svelte-ignore a11y_autofocus -->
            <input class="input w-full font-mono" autocomplete="one-time-code" required autofocus bind:value={code} />
          </label>
        {/if}
        {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
        <button class="btn btn-primary" disabled={busy}>Sign in</button>
        {#if passkeys()}<button type="button" class="btn btn-plain" disabled={busy} onclick={withPasskey}
            >{askCode ? 'Show a passkey instead' : 'Sign in with a passkey'}</button
          >{/if}
        {#if ways.provider}<a
            class="btn btn-plain"
            href="/sign-in/provider"
            target={again ? '_blank' : undefined}
            rel="noreferrer"
            data-native>Sign in through {ways.provider}{again ? ', in another tab' : ''}</a
          >{/if}
        {#if again}
          <button type="button" class="link justify-self-start" onclick={() => session.leave()}
            >leave the page and what was typed in it</button
          >
        {:else if ways.mail}
          <button type="button" class="link justify-self-start" onclick={() => ((forgotten = true), (problem = ''))}
            >I forgot my password</button
          >
        {/if}
      </form>
    {/if}
    {#if accounts.length > 0}
      <section class="rule mt-8 border-t pt-4">
        <h2>Demo accounts</h2>
        <ul class="mt-2 grid gap-2">
          {#each accounts as a (a.email)}
            <li class="flex items-center justify-between gap-3">
              <span>{a.name} {may[a.role]}</span>
              <button class="btn btn-plain" disabled={busy} onclick={() => enter(a.email, a.password)}>Enter as {a.role}</button>
            </li>
          {/each}
        </ul>
      </section>
    {/if}
  </div>
</svelte:element>
