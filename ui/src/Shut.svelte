<script lang="ts">
  import { house } from './lib/house.svelte';
  import { takeBack } from './lib/takeback';

  // What stands in place of a house that cannot be entered.
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
</script>

{#if house.member?.locked}
  <main class="p-8">
    <h1>{house.member.name} asks for a second factor</h1>
    <p class="mt-2 max-w-[37.33rem]">Nobody enters without one. Set yours up: it takes an app for one-time codes and a minute.</p>
    <p class="mt-3"><a class="btn btn-primary" href={house.path('account')}>Set up a second factor</a></p>
  </main>
{:else if house.member?.endsAt}
  <main class="p-8">
    <h1>{house.member.name} was given up</h1>
    <p class="mt-2">It is deleted on {day.format(new Date(house.member.endsAt))}. Until then you can take it back.</p>
    <p class="mt-3">
      <button class="btn btn-primary" onclick={() => house.member && takeBack(house.member)}>Take it back</button>
    </p>
  </main>
{:else}
  <main class="p-8">
    <h1>There is no such house</h1>
    <p class="mt-2">Or you do not belong to it. <a class="link" href="/">Go to your own</a></p>
  </main>
{/if}
