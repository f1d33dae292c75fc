<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, Problem } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { make, noPasskeys } from '../../lib/passkeys';
  import { copy, session } from '../../lib/state.svelte';
  import Sessions from './Sessions.svelte';
  import Tokens from './Tokens.svelte';

  // Somebody's own account: name, address, password, second factor; the sessions that are open, and access tokens for programs.
  const account = createQuery(() => ({ queryKey: ['account'], queryFn: () => need(api.GET('/account')) }));
  const forms = { name: useChange(['account']), email: useChange(['account']), password: useChange(['account']) };
  const factor = useChange(['account']);
  let open = $state<'' | 'name' | 'email' | 'password' | 'factor' | 'no factor' | 'passkey' | 'no passkey'>('');
  let name = $state('');
  let email = $state('');
  let old = $state('');
  let password = $state('');
  let begun = $state<{ secret: string; picture: string }>();
  let code = $state('');
  let codes = $state<string[]>([]);
  let passkey = $state({ id: 0, name: '' });
  function show(what: typeof open) {
    open = what;
    [name, email, old, password, code] = [account.data?.name ?? '', '', '', '', ''];
    begun = undefined;
  }
  const rename = () =>
    forms.name.run(async () => {
      const was = account.data?.name ?? '';
      const put = (to: string) => need(api.PUT('/account/name', { body: { name: to } })).then(() => session.load());
      await put(name);
      open = '';
      return { said: `You are ${name} now`, undo: () => put(was) };
    });
  const readdress = () =>
    forms.email.run(async () => {
      const { mailed } = await need(api.PUT('/account/email', { body: { email, password: old } }));
      open = '';
      await session.load();
      return mailed ? `Follow the link that is on its way to ${email}` : `You sign in as ${email} now`;
    });
  const change = () =>
    forms.password.run(async () => {
      await need(api.PUT('/account/password', { body: { old, password } }));
      open = '';
      return 'The password is changed; your other sessions have ended';
    });
  const begin = () =>
    factor.run(async () => {
      begun = await need(api.POST('/account/second-factor', { body: { password: old } }));
    });
  const confirm = () =>
    factor.run(async () => {
      codes = (await need(api.PUT('/account/second-factor', { body: { code } }))).codes;
      open = '';
      await session.load();
      return 'The second factor is set up';
    });
  const without = () =>
    factor.run(async () => {
      await need(api.DELETE('/account/second-factor', { body: { password: old } }));
      open = '';
      codes = [];
      await session.load();
      return 'Your password alone lets you in now';
    });
  const addPasskey = () =>
    factor.run(async () => {
      const none = noPasskeys();
      if (none) throw new Problem(none, 400);
      const shown = await make(await need(api.POST('/account/passkeys', { body: { password: old } })));
      codes = (await need(api.PUT('/account/passkeys', { body: { name: passkey.name, shown } }))).codes;
      open = '';
      await session.load();
      return `The passkey ${passkey.name} lets you in now`;
    });
  const dropPasskey = () =>
    factor.run(async () => {
      await need(api.DELETE('/account/passkeys/{passkey}', { params: { path: { passkey: passkey.id } }, body: { password: old } }));
      open = '';
      await session.load();
      return `The passkey ${passkey.name} opens nothing any more`;
    });
  const when = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const submit = (f: () => unknown) => (e: SubmitEvent) => {
    e.preventDefault();
    f();
  };
</script>

{#snippet foot(change: typeof factor, label: string)}
  {#if change.problem}<p role="alert" class="border-l-4 border-current pl-3">{change.problem}</p>{/if}
  <span class="flex gap-4"
    ><button class="btn btn-primary" disabled={change.busy}>{label}</button><button
      type="button"
      class="link"
      onclick={() => show('')}>leave it</button
    ></span
  >
{/snippet}
{#snippet ask()}
  {#if account.data?.password}<label class="grid gap-1"
      >Your password<input class="input w-full" type="password" autocomplete="current-password" required bind:value={old} /></label
    >{/if}
{/snippet}

<div class="work">
  <main class="min-h-0 overflow-y-auto p-5 pt-4">
    <h1>Your account</h1>
    {#if account.isError}<p class="mt-4" role="alert">{account.error.message}</p>{/if}
    {#if account.data}
      {@const a = account.data}
      <dl class="mt-4 grid max-w-[45.33rem] grid-cols-[10rem_minmax(0,1fr)] gap-y-4 max-[35rem]:grid-cols-1 max-[35rem]:gap-y-1">
        <dt class="font-bold">Name</dt>
        <dd>
          {#if open === 'name'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(rename)}>
              <label class="grid gap-1"
                >As others see it; what you did keeps the name that you had<input
                  class="input w-full"
                  required
                  maxlength="120"
                  bind:value={name}
                /></label
              >
              {@render foot(forms.name, 'Take this name')}
            </form>
          {:else}{a.name} <button class="link ml-3" onclick={() => show('name')}>change</button>{/if}
        </dd>
        <dt class="font-bold">E-mail</dt>
        <dd>
          {#if open === 'email'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(readdress)}>
              <label class="grid gap-1"
                >The new address<input class="input w-full" type="email" autocomplete="email" required bind:value={email} /></label
              >
              {@render ask()}
              {@render foot(forms.email, 'Change the address')}
            </form>
          {:else}<span class="break-all">{a.email}</span>
            <button class="link ml-3" onclick={() => show('email')}>change</button>{/if}
        </dd>
        <dt class="font-bold">Password</dt>
        <dd>
          {#if open === 'password'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(change)}>
              {@render ask()}
              <label class="grid gap-1"
                >The new one, of at least 10 characters<input
                  class="input w-full"
                  type="password"
                  autocomplete="new-password"
                  required
                  bind:value={password}
                /></label
              >
              {@render foot(forms.password, 'Change the password')}
            </form>
          {:else}{a.password ? 'set' : 'none; your sign-in provider lets you in'}
            <button class="link ml-3" onclick={() => show('password')}>{a.password ? 'change' : 'set one'}</button>{/if}
        </dd>
        <dt class="font-bold">Second factor</dt>
        <dd>
          {#if open === 'factor' && begun}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(confirm)}>
              <p>Read this with an app for one-time codes, or type the secret there. Then type the code that it shows.</p>
              <span class="flex flex-wrap items-start gap-4"
                ><img
                  class="h-[12rem] w-[12rem] bg-white"
                  src={`data:image/png;base64,${begun.picture}`}
                  alt="QR code of the secret"
                /><span class="min-w-0 flex-1 break-all font-mono text-small">{begun.secret}</span></span
              >
              <label class="grid gap-1"
                >Code<input
                  class="input w-[9.33rem] font-mono"
                  inputmode="numeric"
                  autocomplete="one-time-code"
                  pattern="[0-9 ]{'{6,7}'}"
                  required
                  bind:value={code}
                /></label
              >
              {@render foot(factor, 'Set it up')}
            </form>
          {:else if open === 'factor'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(begin)}>
              {@render ask()}
              {@render foot(factor, 'Go on')}
            </form>
          {:else if open === 'no factor'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(without)}>
              {@render ask()}
              {@render foot(factor, 'Do without it')}
            </form>
          {:else if a.secondFactor}
            one-time codes; {a.codes} recovery {a.codes === 1 ? 'code is' : 'codes are'} left
            <button class="link ml-3" onclick={() => show('factor')}>set it up anew</button>
            <button class="link ml-3" onclick={() => show('no factor')}>do without it</button>
          {:else}
            {#if a.passkeys.length > 0}
              your {a.passkeys.length === 1 ? 'passkey' : 'passkeys'}; {a.codes} recovery {a.codes === 1 ? 'code is' : 'codes are'} left
            {:else}none{/if}
            <button class="link ml-3" onclick={() => show('factor')}
              >{a.passkeys.length > 0 ? 'set up codes, too' : 'set one up'}</button
            >
          {/if}
        </dd>
        <dt class="font-bold">Passkeys</dt>
        <dd>
          {#each a.passkeys as k (k.id)}
            <p class="flex flex-wrap items-baseline gap-x-3">
              <b>{k.name}</b><span class="text-small"
                >since {day.format(new Date(k.made))}; {k.used ? `last used ${when.format(new Date(k.used))}` : 'never used'}</span
              ><button
                class="link"
                onclick={() => {
                  show('no passkey');
                  passkey = { id: k.id, name: k.name };
                }}>take away</button
              >
            </p>
          {/each}
          {#if open === 'passkey'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(addPasskey)}>
              <label class="grid gap-1"
                >What you call the device that keeps it<input
                  class="input w-full"
                  required
                  maxlength="120"
                  bind:value={passkey.name}
                /></label
              >
              {@render ask()}
              {@render foot(factor, 'Make a passkey')}
            </form>
          {:else if open === 'no passkey'}
            <form class="grid max-w-[28rem] gap-3" onsubmit={submit(dropPasskey)}>
              {@render ask()}
              {@render foot(factor, `Take ${passkey.name} away`)}
            </form>
          {:else}
            {#if a.passkeys.length === 0}none{/if}
            <button
              class="link"
              class:ml-3={a.passkeys.length === 0}
              onclick={() => {
                show('passkey');
                passkey = { id: 0, name: '' };
              }}>make one</button
            >
            <span class="block text-small">A passkey lets you in alone, and is the second factor beside your password.</span>
          {/if}
          {#if codes.length > 0}
            <div class="mt-3 max-w-[28rem] border border-current p-3">
              <p>
                Ten recovery codes, each good once when the device is lost. They are shown this once; print them or keep them safe.
              </p>
              <ul class="mt-2 grid grid-cols-2 gap-x-4 font-mono text-small">
                {#each codes as c (c)}<li>{c}</li>{/each}
              </ul>
              <span class="mt-2 flex gap-4"
                ><button class="btn btn-primary" onclick={() => copy(codes.join('\n'), 'The codes are')}>Copy them</button><button
                  class="link"
                  onclick={() => (codes = [])}>I have them</button
                ></span
              >
            </div>
          {/if}
        </dd>
      </dl>

      <Tokens list={a.tokens} />
    {/if}
  </main>
  <aside class="overflow-y-auto bg-base-200 p-5" aria-label="Sessions">
    {#if account.data}<Sessions account={account.data} />{/if}
  </aside>
</div>
