<script lang="ts">
  import { house } from './lib/house.svelte';
  import { outside } from './lib/outside';
  import { takeBack } from './lib/takeback';
  import { session } from './lib/state.svelte';

  // The house that one is in, its settings, and the other houses of the person.
  let menu = $state<HTMLDetailsElement>();
  const close = () => menu && (menu.open = false);

  const ofHouse = $derived([
    { path: 'house', name: 'Settings' },
    { path: 'house/people', name: 'People' },
    ...(house.keeper ? [{ path: 'house/trail', name: 'Trail' }] : []),
  ]);
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
</script>

<details class="relative" bind:this={menu} {@attach outside}>
  <summary class="flex min-h-[1.6rem] list-none items-center gap-2"
    >{#if house.member?.marked}<img
        class="max-h-[1.73rem] max-w-[6rem]"
        src={`/api/houses/${house.id}/mark?${house.member.marked}`}
        alt=""
      />{/if}<span
      class={['max-w-[12.67rem] truncate', house.member?.marked ? 'max-[35rem]:sr-only' : 'max-[35rem]:max-w-[6.93rem]']}
      >{house.member?.name ?? 'Houses'}</span
    >
    <span aria-hidden="true">▾</span></summary
  >
  <div class="absolute left-[-1.4rem] top-[2.47rem] z-30 min-w-[17.33rem] bg-[#111] pb-2">
    {#if house.member && !house.member.locked && !house.member.endsAt}
      <ul class="menu w-full" aria-label="This house">
        {#each ofHouse as h (h.path)}<li>
            <a class="block hover:bg-[#444] focus:bg-[#444]" href={house.path(h.path)} onclick={close}>{h.name}</a>
          </li>{/each}
      </ul>
    {/if}
    <ul class="menu w-full border-t border-[#888]" aria-label="Houses">
      {#each session.now?.houses ?? [] as h (h.id)}
        <li>
          {#if h.endsAt}
            <button class="block hover:bg-[#444] focus:bg-[#444]" onclick={() => (close(), takeBack(h))}>
              {h.name}<span class="block text-small">given up; deleted on {day.format(new Date(h.endsAt))}. Take it back</span>
            </button>
          {:else}
            <a
              class="block hover:bg-[#444] focus:bg-[#444]"
              href={`/h/${h.id}/library`}
              aria-current={h.id === house.id}
              onclick={close}
            >
              {h.name}<span class="block text-small">{h.role}</span>
            </a>
          {/if}
        </li>
      {/each}
    </ul>
  </div>
</details>

<style>
  summary::-webkit-details-marker {
    display: none;
  }
</style>
