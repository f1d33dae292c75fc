<script lang="ts">
  import { house } from './lib/house.svelte';
  import { outside } from './lib/outside';
  import { rem } from './lib/rem.svelte';
  import { message, session } from './lib/state.svelte';
  import Booths from './Booths.svelte';

  // What concerns whoever is signed in: account, what was done lately, the way out.
  let { closed }: { closed: boolean } = $props();
  let menu = $state<HTMLDetailsElement>();
  const close = () => menu && (menu.open = false);

  const hour = new Intl.DateTimeFormat('en-US', { timeStyle: 'short' });
</script>

<details class="relative flex items-center" bind:this={menu} {@attach outside}>
  <summary class="flex h-full list-none items-center">{session.now?.name}</summary>
  <div class="absolute right-0 top-[3.47rem] z-30 w-[16rem] bg-[#111] px-5 pb-5 pt-2">
    <p class="text-small">{session.now?.email}</p>
    {#if house.member}<p class="mt-1">{house.member.role} of {house.member.name}</p>{/if}
    {#if rem.phone}<p class="mt-3 flex items-center gap-3">Booth <Booths /></p>{/if}
    <p class="mt-3"><a class="link" href={house.path('account')} onclick={close}>Your account and sessions</a></p>
    {#if session.now?.runs}<p class="mt-1">
        <a class="link" href={house.path('server')} onclick={close}>This server</a>
      </p>{/if}
    {#if !closed}<p class="mt-1">
        <a class="link" href={house.path('guide')} onclick={close}>Guide: the tasks of a week</a>
      </p>{/if}
    {#if message.lately.length > 0}
      <h2 class="mt-4">Done lately</h2>
      <ul class="mt-1 max-h-[46vh] overflow-y-auto text-small" aria-label="What you did in the last day">
        {#each message.lately as l (l)}
          <li class="flex items-baseline justify-between gap-3 border-b border-[#555] py-1">
            <span class="min-w-0 break-words">{l.text}, {hour.format(l.at)}</span>
            {#if l.undo}<button
                class="link shrink-0"
                onclick={() => {
                  close();
                  void message.takeBack(l);
                }}>take back</button
              >{/if}
          </li>
        {/each}
      </ul>
    {/if}
    <p class="mt-3 text-small">
      <a class="link" href="/notices.txt" target="_blank" rel="noreferrer">Licenses of what ships with it</a>
    </p>
    <button class="btn btn-plain mt-3 w-full hover:bg-white hover:text-black" onclick={() => session.signOut()}>Sign out</button>
  </div>
</details>

<style>
  summary::-webkit-details-marker {
    display: none;
  }
</style>
