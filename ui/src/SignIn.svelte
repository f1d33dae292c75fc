<script lang="ts">
  import { api, need, sentence, type Schema } from './lib/api/client';
  import { session } from './lib/state.svelte';
  import Mark from './lib/Mark.svelte';

  let email = $state('');
  let password = $state('');
  let problem = $state('');
  let busy = $state(false);
  let accounts = $state<Schema['DemoAccount'][]>([]);

  need(api.GET('/demo-accounts'))
    .then((a) => (accounts = a))
    .catch((e) => (problem = sentence(e)));

  const may: Record<Schema['Role'], string> = {
    keeper: 'changes and approves',
    contributor: 'gathers, proposes and audits',
    reader: 'looks, copies and downloads',
  };

  async function enter(address: string, secret: string) {
    busy = true;
    problem = '';
    try {
      await session.signIn(address, secret);
    } catch (e) {
      problem = sentence(e);
    } finally {
      busy = false;
    }
  }
</script>

<main class="grid h-full place-items-center overflow-auto bg-base-100 p-8">
  <div class="w-full max-w-[420px] bg-base-200 p-8">
    <h1 class="flex items-center gap-3"><Mark size={28} /> Hue Keep</h1>
    <p class="mt-2">What exactly is our color?</p>
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
        <input class="input w-full" type="password" autocomplete="current-password" required bind:value={password} />
      </label>
      {#if problem}<p role="alert" class="border-l-4 border-current pl-3">{problem}</p>{/if}
      <button class="btn btn-primary" disabled={busy}>Sign in</button>
    </form>
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
</main>
