<script lang="ts">
  import type { Snippet } from 'svelte';
  import { useQueryClient, type Query } from '@tanstack/svelte-query';
  import { api, need, page, sentence, type Schema } from './lib/api/client';
  import { engine } from './lib/engine';
  import Find from './Find.svelte';
  import { house } from './lib/house.svelte';
  import { isLetter, keys } from './lib/keys.svelte';
  import Mark from './lib/Mark.svelte';
  import { rem } from './lib/rem.svelte';
  import ShowMe from './lib/ShowMe.svelte';
  import { goTo } from './lib/focus';
  import { follow, navigate, route } from './lib/router';
  import { booth, booths, message, notation, session } from './lib/state.svelte';
  import Tray from './lib/Tray.svelte';

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

  // As in every group of radio buttons, arrows choose and the tab key passes by.
  function turn(e: KeyboardEvent & { currentTarget: HTMLButtonElement }) {
    const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    const to = (booths.indexOf(booth.now) + by + booths.length) % booths.length;
    booth.set(booths[to]!);
    (e.currentTarget.parentElement?.children[to] as HTMLElement | undefined)?.focus();
  }

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
  const hour = new Intl.DateTimeFormat('en-US', { timeStyle: 'short' });

  // The core comes when the page has nothing more urgent to load.
  $effect(() => {
    const timer = setTimeout(() => engine.load(), 800);
    return () => clearTimeout(timer);
  });

  const ofHouse = $derived([
    { path: 'house', name: 'Settings' },
    { path: 'house/people', name: 'People' },
    ...(house.keeper ? [{ path: 'house/trail', name: 'Trail' }] : []),
  ]);
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  async function takeBack(h: Schema['HouseMember']) {
    closeMenus();
    try {
      await need(api.POST('/taken-back/{id}', { params: { path: { id: h.id } } }));
      await session.load();
      message.say(`${h.name} is open again`, undefined, { name: 'Go there', href: `/h/${h.id}/library` });
    } catch (e) {
      message.say(sentence(e));
    }
  }
  function closeMenus() {
    for (const m of [menu, houseMenu]) if (m) m.open = false;
  }

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

  let menu = $state<HTMLDetailsElement>();
  let houseMenu = $state<HTMLDetailsElement>();
  let finder = $state<HTMLElement>();
  function close(e: Event) {
    if (finding && !finder?.contains(e.target as Node)) finding = false;
    for (const m of [menu, houseMenu]) if (m?.open && !m.contains(e.target as Node)) m.open = false;
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

{#snippet choice()}
  <span class="flex items-center gap-0.5" role="radiogroup" aria-label="Booth">
    {#each booths as b (b)}
      <button
        role="radio"
        aria-checked={booth.now === b}
        tabindex={booth.now === b ? 0 : -1}
        onkeydown={turn}
        aria-label={`${b} booth`}
        title={`${b} booth`}
        class="h-[1.6rem] w-[1.6rem] border"
        class:ring={booth.now === b}
        style:background={{ white: '#fff', gray: '#b3b3b3', black: '#111' }[b]}
        style:border-color={booth.now === b ? '#fff' : '#777'}
        onclick={() => booth.set(b)}
      ></button>
    {/each}
  </span>
{/snippet}

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
      <details class="relative" bind:this={houseMenu}>
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
                  <a class="block hover:bg-[#444] focus:bg-[#444]" href={house.path(h.path)} onclick={closeMenus}>{h.name}</a>
                </li>{/each}
            </ul>
          {/if}
          <ul class="menu w-full border-t border-[#888]" aria-label="Houses">
            {#each session.now?.houses ?? [] as h (h.id)}
              <li>
                {#if h.endsAt}
                  <button class="block hover:bg-[#444] focus:bg-[#444]" onclick={() => takeBack(h)}>
                    {h.name}<span class="block text-small">given up; deleted on {day.format(new Date(h.endsAt))}. Take it back</span
                    >
                  </button>
                {:else}
                  <a
                    class="block hover:bg-[#444] focus:bg-[#444]"
                    href={`/h/${h.id}/library`}
                    aria-current={h.id === house.id}
                    onclick={closeMenus}
                  >
                    {h.name}<span class="block text-small">{h.role}</span>
                  </a>
                {/if}
              </li>
            {/each}
          </ul>
        </div>
      </details>
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
    {#if !rem.phone}<div class="flex items-center max-[56.25rem]:ml-auto">{@render choice()}</div>{/if}
    <details class="relative flex items-center" bind:this={menu}>
      <summary class="flex h-full list-none items-center">{session.now?.name}</summary>
      <div class="absolute right-0 top-[3.47rem] z-30 w-[16rem] bg-[#111] px-5 pb-5 pt-2">
        <p class="text-small">{session.now?.email}</p>
        {#if house.member}<p class="mt-1">{house.member.role} of {house.member.name}</p>{/if}
        {#if rem.phone}<p class="mt-3 flex items-center gap-3">Booth {@render choice()}</p>{/if}
        <p class="mt-3"><a class="link" href={house.path('account')} onclick={closeMenus}>Your account and sessions</a></p>
        {#if session.now?.runs}<p class="mt-1">
            <a class="link" href={house.path('server')} onclick={closeMenus}>This server</a>
          </p>{/if}
        {#if !closed}<p class="mt-1">
            <a class="link" href={house.path('guide')} onclick={closeMenus}>Guide: the tasks of a week</a>
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
                      closeMenus();
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
        <button class="btn btn-plain mt-3 w-full hover:bg-white hover:text-black" onclick={() => session.signOut()}>Sign out</button
        >
      </div>
    </details>
  </header>

  {#if house.member && (current === 'account' || current === 'server' || (!house.member.locked && !house.member.endsAt))}
    {@render children()}
    {#if !['gather', 'account', 'guide', 'server'].includes(current) && !house.member.locked}<Tray />{/if}
  {:else if house.member?.locked}
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
</div>

{#if below}
  <button
    class="btn btn-primary fixed bottom-4 right-4 z-30 outline phone:bottom-[4.6rem] outline-1 outline-[#888]"
    onclick={() => document.querySelector('.work')?.scrollTo({ top: 0 })}>back up</button
  >
{/if}

<ShowMe />
<div
  class="toast toast-start pointer-events-none bottom-[5.07rem] z-40 phone:inset-x-0 phone:max-w-full phone:whitespace-normal"
  role="status"
  aria-live="polite"
>
  {#if message.now}
    <p class="pointer-events-auto flex items-center gap-4 bg-[#111] px-4 py-2 text-white outline outline-1 outline-[#888]">
      {message.now.text}
      {#if message.now.next}<a class="link" href={message.now.next.href} onclick={() => message.clear()}>{message.now.next.name}</a
        >{/if}
      {#if message.now.undo}
        <button
          class="link"
          onclick={() => {
            const undo = message.now?.undo;
            message.clear();
            void undo?.();
          }}>Undo</button
        >
      {/if}
    </p>
  {/if}
</div>

{#if keys.help}
  <aside
    class="fixed bottom-5 right-5 z-40 w-[22.67rem] bg-[#111] p-5 text-white outline outline-1 outline-[#888]"
    aria-label="Keys"
  >
    <h2 class="flex justify-between">
      Keys here <button class="link font-normal" onclick={() => (keys.help = false)}>close</button>
    </h2>
    <dl class="mt-3 grid grid-cols-[5.87rem_1fr] gap-y-1.5">
      {#each keys.all.filter((k) => keys.letters || !isLetter(k)) as k (k)}
        <dt>
          <kbd class="border border-[#aaa] px-1.5 font-mono text-small"
            >{k.alt ? 'Alt ' : ''}{k.key.length === 1 ? k.key.toUpperCase() : k.key.replace('Arrow', '')}</kbd
          >
        </dt>
        <dd>{k.does}</dd>
      {/each}
      <dt><kbd class="border border-[#aaa] px-1.5 font-mono text-small">?</kbd></dt>
      <dd>show or hide this</dd>
    </dl>
    <label class="mt-3 flex items-center gap-2">
      <input type="checkbox" class="checkbox text-white" bind:checked={() => keys.letters, (on) => (keys.letters = on)} />
      single letters as well
    </label>
  </aside>
{/if}

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
  .ring {
    outline: 2px solid #fff;
    outline-offset: 1px;
  }
  summary::-webkit-details-marker {
    display: none;
  }
  header :focus-visible,
  aside :focus-visible {
    outline-color: #fff;
  }
</style>
