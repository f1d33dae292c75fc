<script lang="ts">
  import type { Snippet } from 'svelte';
  import { useQueryClient, type Query } from '@tanstack/svelte-query';
  import { page } from './lib/api/client';
  import { engine } from './lib/engine';
  import Find from './Find.svelte';
  import { house } from './lib/house.svelte';
  import { keys } from './lib/keys.svelte';
  import Mark from './lib/Mark.svelte';
  import { rem } from './lib/rem.svelte';
  import ShowMe from './lib/ShowMe.svelte';
  import { goTo } from './lib/focus';
  import { follow, navigate, route } from './lib/router';
  import { booth, message, notation, session } from './lib/state.svelte';
  import Tray from './lib/Tray.svelte';
  import Booths from './Booths.svelte';
  import HouseMenu from './HouseMenu.svelte';
  import KeysHere from './KeysHere.svelte';
  import OwnMenu from './OwnMenu.svelte';
  import Said from './Said.svelte';
  import Shut from './Shut.svelte';

  let { children }: { children: Snippet } = $props();

  const stations = [
    { key: 'g', path: 'gather', name: 'Gather' },
    { key: 'l', path: 'library', name: 'Library' },
    { key: 'p', path: 'proof', name: 'Proof' },
    { key: 's', path: 'send', name: 'Send' },
    { key: 'a', path: 'audit', name: 'Audit' },
  ] as const;
  const current = $derived(route.pathname.split('/')[3] ?? '');

  $effect(() => {
    if (house.member) localStorage.setItem('house', String(house.id));
    notation.first = house.member?.notations ?? [];
    const name =
      stations.find((s) => s.path === current)?.name ??
      { house: 'House', account: 'Account', guide: 'Guide', server: 'Server' }[current] ??
      '';
    document.title = `${name}, ${house.member?.name ?? ''} - Hue Keep`;
  });

  function go(path: (typeof stations)[number]['path']) {
    void navigate(`/h/:house/${path}`, { params: { house: String(house.id) } });
  }

  let finding = $state(false);
  const closed = $derived(!house.member || !!house.member.locked || !!house.member.endsAt);

  $effect(() =>
    keys.add([
      ...stations.map((s) => ({ key: s.key, does: `go to ${s.name}`, run: () => go(s.path) })),
      { key: '/', does: 'find anything', run: () => (finding = !closed) },
      { key: 'b', does: 'next booth: white, gray, black', run: () => booth.next() },
    ]),
  );

  // What others change shows by itself. A change of one's own is read anew at once; a moment later that which comes of it elsewhere, but
  // not once more what was read since.
  const client = useQueryClient();
  const shared = [
    'ledger',
    'sheet',
    'sets',
    'recipients',
    'audits',
    'loading',
    'public',
    'hooks',
    'gradients',
    'starters',
    'suggestions',
    'boards',
    'typefaces',
    'house',
  ];
  $effect(() => {
    if (!house.member || house.member.locked || house.member.endsAt) return;
    const source = new EventSource(`/api/houses/${house.id}/events`);
    let timer: ReturnType<typeof setTimeout> | undefined;
    let others = false;
    const heard = () => {
      if (!others && page.waiting > 0) return void (timer = setTimeout(heard, 400)); // one's own change has no answer yet
      const fresh = (q: Query) => !others && (q.state.dataUpdatedAt >= page.answered || q.state.fetchStatus === 'fetching');
      for (const key of shared) void client.invalidateQueries({ queryKey: [key], predicate: (q) => !fresh(q) });
      others = false;
    };
    source.onmessage = (e: MessageEvent<string>) => {
      others ||= e.data !== `changed ${page.name}`;
      clearTimeout(timer);
      timer = setTimeout(heard, 400);
    };
    return () => {
      clearTimeout(timer);
      source.close();
    };
  });

  message.go = (href) => follow(href);
  message.refresh = (shown) =>
    Promise.all([
      ...shown.map((key) => client.invalidateQueries({ queryKey: [key] })),
      shown.includes('house') && session.load(), // its name and what it offers first
    ]);
  // The core comes when the page has nothing more urgent to load.
  $effect(() => {
    const timer = setTimeout(() => engine.load(), 800);
    return () => clearTimeout(timer);
  });

  // Where the sheet stands below the work, on a phone or a tablet held upright, what is pressed in a list brings it into view, and a
  // button leads back up.
  let below = $state(false);
  $effect(() => {
    const narrow = window.matchMedia('(max-width: 56.25rem)');
    const work = () => document.querySelector('.work');
    function pressed(e: MouseEvent) {
      const on = e.target as HTMLElement;
      if (!narrow.matches || !on.closest('.work > main [role="row"]') || on.closest('input, label, summary, [aria-expanded]'))
        return;
      setTimeout(() => work()?.querySelector(':scope > aside')?.scrollIntoView(), 60);
    }
    const scrolled = (e: Event) => {
      if (e.target === work()) below = narrow.matches && (e.target as HTMLElement).scrollTop > 200;
    };
    document.addEventListener('click', pressed, true);
    document.addEventListener('scroll', scrolled, true);
    return () => {
      document.removeEventListener('click', pressed, true);
      document.removeEventListener('scroll', scrolled, true);
    };
  });

  let finder = $state<HTMLElement>();
  function close(e: Event) {
    if (finding && !finder?.contains(e.target as Node)) finding = false;
  }
  // Escape closes what is open, the latest first: a menu, then the list of keys. Forms see to themselves before.
  function escape(e: KeyboardEvent) {
    if (e.key !== 'Escape' || e.defaultPrevented) return;
    const open = [...document.querySelectorAll<HTMLDetailsElement>('details[open].relative')].at(-1);
    if (open) {
      open.open = false;
      open.querySelector('summary')?.focus();
    } else keys.help = false;
  }
</script>

<svelte:window
  onkeydown={(e) => {
    keys.press(e);
    escape(e);
  }}
  onclick={close}
  onfocusin={close}
/>

<div class="frame grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
  <header
    class="relative flex min-h-[3.47rem] flex-wrap items-stretch gap-x-5 bg-[#111] px-5 text-white print:hidden max-[56.25rem]:gap-x-3"
  >
    <!-- Past the rail, and past a long list, for those who come with the keyboard. -->
    <button class="skip" onclick={() => goTo('main')}>To the work</button>
    <button class="skip" onclick={() => goTo('.work > aside') || goTo('main')}>To the sheet</button>
    <a href={house.path('library')} class="flex items-center gap-3 text-[1.13rem] font-bold"
      ><Mark /> <span class="max-[35rem]:sr-only">Hue Keep</span></a
    >
    <div class="flex items-center border-l border-[#888] my-4 pl-5 max-[35rem]:pl-3">
      <HouseMenu />
    </div>
    <nav class="stations mx-auto flex items-stretch gap-2" aria-label="Stations">
      {#each stations as s (s.path)}
        <a
          href={house.path(s.path)}
          aria-current={current === s.path ? 'page' : undefined}
          class="station relative flex items-center px-3"
          class:font-bold={current === s.path}>{s.name}</a
        >
      {/each}
    </nav>
    {#if !closed}<div class="flex items-center phone:ml-auto" bind:this={finder}>
        <button class="flex min-h-[1.6rem] items-center gap-2" aria-expanded={finding} onclick={() => (finding = !finding)}
          >Find <kbd class="kbd kbd-sm max-[56.25rem]:hidden">/</kbd></button
        >
        {#if finding}<Find close={() => (finding = false)} />{/if}
      </div>{/if}
    {#if !rem.phone}<div class="flex items-center max-[56.25rem]:ml-auto"><Booths /></div>{/if}
    <OwnMenu {closed} />
  </header>

  {#if house.member && (current === 'account' || current === 'server' || (!house.member.locked && !house.member.endsAt))}
    {@render children()}
    {#if !['gather', 'account', 'guide', 'server'].includes(current) && !house.member.locked}<Tray />{/if}
  {:else}<Shut />
  {/if}
</div>

{#if below}
  <button
    class="btn btn-primary fixed bottom-4 right-4 z-30 outline phone:bottom-[4.6rem] outline-1 outline-[#888]"
    onclick={() => document.querySelector('.work')?.scrollTo({ top: 0 })}>back up</button
  >
{/if}

<ShowMe />
<Said />

{#if keys.help}<KeysHere />{/if}

<style>
  /* The register line under the station that one is in: a line with its ends turned up, as on a press sheet. */
  .station[aria-current='page']::after {
    content: '';
    position: absolute;
    inset: auto 4px 8px;
    height: 0.4rem;
    border: 1px solid #fff;
    border-top: 0;
  }
  @media (max-width: 56.25rem) {
    .stations {
      order: 1;
      width: 100%;
      height: 2.4rem;
      margin-top: -0.53rem;
      justify-content: center;
    }
  }
  /* On a phone the stations are where the thumb is. */
  @media (max-width: 30rem) {
    .frame {
      padding-bottom: calc(3.6rem + env(safe-area-inset-bottom));
    }
    .stations {
      position: fixed;
      inset: auto 0 0;
      z-index: 25;
      height: calc(3.6rem + env(safe-area-inset-bottom));
      margin: 0;
      padding: 0 0.5rem env(safe-area-inset-bottom);
      justify-content: space-between;
      background: #111;
    }
    .station {
      padding-inline: 0.6rem;
    }
  }
  @media print {
    .frame {
      padding: 0;
    }
  }
  .skip {
    position: absolute;
    left: 0;
    top: -4rem;
    z-index: 50;
    padding: 0.8rem 1.2rem;
    background: #111;
    color: #fff;
    font-weight: 700;
  }
  .skip:focus {
    top: 0;
  }
  header :global(:focus-visible) {
    outline-color: #fff;
  }
</style>
