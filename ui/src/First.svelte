<script lang="ts">
  import { api, need, Problem, sentence } from './lib/api/client';
  import { session } from './lib/state.svelte';

  // The first account of a server, which nobody has one of yet. Somebody else may be quicker: then one signs in.
  let { late }: { late: (why: string) => void } = $props();
  let code = $state('');
  let house = $state('');
  let name = $state('');
  let email = $state('');
  let password = $state('');
  let problem = $state('');
  let form = $state<HTMLFormElement>();
  let busy = $state(false);

  async function make() {
    busy = true;
    problem = '';
    try {
      session.take(await need(api.POST('/first', { body: { code, house, name, email, password } })));
    } catch (e) {
      problem = sentence(e);
      if (!(e instanceof Problem)) return;
      if (e.status === 409 && !e.field) late(problem);
      if (e.field) form?.querySelector<HTMLInputElement>(`[name="${e.field}"]`)?.focus();
    } finally {
      busy = false;
    }
  }
</script>

<form
  bind:this={form}
  class="mt-6 grid gap-4"
  onsubmit={(e) => {
    e.preventDefault();
    void make();
  }}
>
  <h2>The first account</h2>
  <p>Nobody has an account here yet. Whoever makes the first one keeps the first house, and invites the others.</p>
  <label class="grid gap-1"
    >The code in the log of this server
    <!-- svelte-ignore a11y_autofocus -->
    <input class="input w-full font-mono" required autofocus autocomplete="off" spellcheck="false" name="code" bind:value={code} />
    <span class="text-small">It stands there since the start: journalctl -u huekeep, or where you started it.</span>
  </label>
  <label class="grid gap-1"
    >The name of your house: the organization whose colors these are
    <input class="input w-full" required maxlength="120" autocomplete="organization" name="house" bind:value={house} />
  </label>
  <label class="grid gap-1"
    >Your name, as others see it
    <input class="input w-full" required maxlength="120" autocomplete="name" name="name" bind:value={name} />
  </label>
  <label class="grid gap-1"
    >E-mail
    <input class="input w-full" type="email" required autocomplete="username" name="email" bind:value={email} />
  </label>
  <label class="grid gap-1"
    >A password
    <input class="input w-full" type="password" required autocomplete="new-password" name="password" bind:value={password} />
    <span class="text-small">At least 10 characters. Any will do, but not one of the common ones or your own name.</span>
  </label>
  {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
  <button class="btn btn-primary" disabled={busy}>Make the account and the house</button>
</form>
