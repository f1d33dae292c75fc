<script lang="ts">
  import { api, need, Problem, sentence, type Schema } from './lib/api/client';
  import { session } from './lib/state.svelte';
  import Mark from './lib/Mark.svelte';

  // Where a link leads that is good once: into a house, to a new password, to a new address. Its secret stands behind the number sign and
  // goes to no server but in the question what it is for.
  let { done }: { done: () => void } = $props();
  const token = location.hash.slice(1);
  let offer = $state<Schema['Welcome']>();
  let ways = $state<{ provider?: string }>({});
  let name = $state('');
  let password = $state('');
  let code = $state('');
  let askCode = $state(false);
  let problem = $state('');
  let busy = $state(false);
  let said = $state('');
  let posted = $state(''); // a link went to the mailbox

  need(api.POST('/welcome', { body: { token } }))
    .then((w) => (offer = w))
    .catch((e) => (problem = sentence(e)));
  need(api.GET('/sign-in'))
    .then((w) => (ways = w))
    .catch(() => undefined);

  const mine = $derived(session.now?.email === offer?.email);

  async function take() {
    busy = true;
    problem = '';
    try {
      const body = { token, name, password, code: code || undefined };
      const got = await need(api.PUT('/welcome', { body }));
      history.replaceState(null, '', '/');
      if (got.session) {
        session.take(got.session);
        done();
      } else {
        said = offer?.kind === 'address' ? `Your address is ${offer.email} now.` : 'Your new password is set. Sign in with it.';
        await session.load();
      }
    } catch (e) {
      if (e instanceof Problem && e.code === 'second-factor') askCode = true;
      if (e instanceof Problem && e.code === 'mailbox') posted = e.message;
      else problem = sentence(e);
    } finally {
      busy = false;
    }
  }
</script>

<main class="grid h-full place-items-center overflow-auto bg-base-100 p-8 max-[30rem]:p-3">
  <div class="w-full max-w-[30.67rem] bg-base-200 p-8 max-[30rem]:p-5">
    <h1 class="flex items-center gap-3"><Mark size={28} /> Hue Keep</h1>
    {#if said}
      <p class="mt-5" role="status">{said}</p>
      <button class="btn btn-primary mt-5" onclick={done}>Go on</button>
    {:else if !offer}
      <p class="mt-5" role={problem ? 'alert' : undefined}>{problem || 'One moment …'}</p>
      {#if problem}<button class="btn btn-primary mt-5" onclick={done}>Go to the sign-in</button>{/if}
    {:else}
      {#if offer.kind === 'invite'}
        <p class="mt-5">
          {offer.by} invites you to the color library of <b>{offer.house}</b>, as a {offer.role}.
        </p>
      {:else if offer.kind === 'reset'}
        <p class="mt-5">A new password for <b>{offer.email}</b>. With it, all your sessions begin anew.</p>
      {:else}
        <p class="mt-5">From now on you sign in as <b>{offer.email}</b>.</p>
      {/if}
      <form
        class="mt-5 grid gap-4"
        onsubmit={(e) => {
          e.preventDefault();
          void take();
        }}
      >
        {#if posted}
          <p role="status">{posted}</p>
        {:else if offer.prove}
          <p>
            This link was handed on to you. To see that <b>{offer.email}</b> is your mailbox, a link of your own goes there first.
          </p>
          {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
          <button class="btn btn-primary" disabled={busy}>Mail me the link</button>
        {:else}
          <input
            class="hidden"
            type="email"
            autocomplete="username"
            value={offer.email}
            readonly
            tabindex="-1"
            aria-hidden="true"
          />
          {#if offer.kind === 'invite' && !offer.known}
            <label class="grid gap-1"
              >Your name, as others see it
              <input class="input w-full" autocomplete="name" required maxlength="120" bind:value={name} />
            </label>
          {/if}
          {#if offer.kind === 'reset' || (offer.kind === 'invite' && !mine)}
            <label class="grid gap-1"
              >{offer.known && offer.kind === 'invite' ? `The password of ${offer.email}` : 'A password'}
              <input
                class="input w-full"
                type="password"
                autocomplete={offer.known && offer.kind === 'invite' ? 'current-password' : 'new-password'}
                required
                bind:value={password}
              />
              {#if !(offer.known && offer.kind === 'invite')}<span class="text-small"
                  >At least 10 characters. Any will do, but not one of the common ones or your own name.</span
                >{/if}
            </label>
          {/if}
          {#if askCode}
            <label class="grid gap-1"
              >The code of your second factor
              <input class="input w-full font-mono" inputmode="numeric" autocomplete="one-time-code" bind:value={code} />
            </label>
          {/if}
          {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
          <button class="btn btn-primary" disabled={busy}
            >{offer.kind === 'invite'
              ? `Join ${offer.house}`
              : offer.kind === 'reset'
                ? 'Set this password'
                : 'Take this address'}</button
          >
        {/if}
        {#if offer.kind === 'invite' && ways.provider && !mine}
          <a class="btn btn-plain" href={`/sign-in/provider?invitation=${token}`} data-native>Join through {ways.provider}</a>
        {/if}
      </form>
    {/if}
  </div>
</main>
