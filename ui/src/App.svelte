<script lang="ts">
  import { QueryClient, QueryClientProvider } from '@tanstack/svelte-query';
  import { Router } from 'sv-router';
  import { Problem } from './lib/api/client';
  import { keepFocus } from './lib/focus';
  import { session } from './lib/state.svelte';
  import './lib/router';
  import { away } from './lib/away.svelte';
  import SignedOut from './SignedOut.svelte';
  import SignIn from './SignIn.svelte';
  import Welcome from './Welcome.svelte';

  const client = new QueryClient({
    defaultOptions: {
      queries: {
        staleTime: 5_000,
        retry: (times, error) => times < 2 && error instanceof Problem && (error.status === 0 || error.status >= 500),
      },
    },
  });

  // Who does not sign in again after their session ended is led to the sign-in.
  client.getQueryCache().subscribe((e) => {
    const error = e.query.state.error;
    if (error instanceof Problem && error.status === 401 && session.now) session.now = null;
  });

  $effect(() => keepFocus(() => client.isMutating() > 0));

  // When the server is back, everything is read anew.
  let was = false;
  $effect(() => {
    if (was && !away.now) void client.invalidateQueries();
    was = away.now;
  });

  let welcome = $state(location.pathname === '/welcome');
  let failed = $state('');
  session.load().catch((e: Error) => (failed = e.message));

  $effect(() => {
    if (session.now === null) client.clear();
  });
</script>

{#if away.now}
  <p class="fixed inset-x-0 top-0 z-50 bg-[#111] p-3 text-center text-white outline outline-1 outline-[#888]" role="status">
    Back in a moment: the server is away. What you typed stays, and the page goes on by itself.
  </p>
{/if}
{#if welcome}
  <Welcome done={() => (welcome = false)} />
{:else if failed}
  <p class="p-8">{failed}</p>
{:else if session.now === null}
  <SignIn />
{:else if session.now}
  <QueryClientProvider {client}><Router /></QueryClientProvider>
  {#if session.ended}<SignedOut />{/if}
{/if}
