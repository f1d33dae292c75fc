<script lang="ts">
  import { api, need, sentence } from './lib/api/client';
  import { navigate, route } from './lib/router';
  import { session } from './lib/state.svelte';

  let name = $state('');
  let problem = $state('');
  async function found() {
    try {
      await need(api.POST('/houses', { body: { name } }));
      await session.load();
    } catch (e) {
      problem = sentence(e);
    }
  }

  // The library of the house last worked in; only "/" and unknown addresses come here.
  $effect(() => {
    const houses = session.now?.houses ?? [];
    const kept = Number(route.params.house ?? localStorage.getItem('house'));
    const open = houses.filter((h) => !h.endsAt);
    const house = open.find((h) => h.id === kept) ?? open[0] ?? houses[0];
    if (!house) return;
    const params = { house: String(house.id) };
    if (route.pathname === '/guide') void navigate('/h/:house/guide', { params, replace: true });
    else if (route.pathname === '/server' && session.now?.runs) void navigate('/h/:house/server', { params, replace: true });
    else void navigate('/h/:house/library', { params, replace: true });
  });
</script>

{#if session.now?.houses.length === 0}
  <main class="grid h-full place-items-center p-8">
    <div class="w-full max-w-[30.67rem] bg-base-200 p-8">
      <h1>You do not belong to a house yet</h1>
      <p class="mt-2">Ask a keeper of your house to invite {session.now.email}, or begin a house of your own.</p>
      <form
        class="mt-4 flex gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void found();
        }}
      >
        <input
          class="input min-w-0 flex-1"
          aria-label="Name of the house"
          placeholder="its name"
          required
          maxlength="120"
          bind:value={name}
        />
        <button class="btn btn-primary">Begin it</button>
      </form>
      {#if problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{problem}</p>{/if}
      <button class="link mt-4" onclick={() => session.signOut()}>Sign out</button>
    </div>
  </main>
{/if}
