<script lang="ts">
  import { onMount, tick, untrack } from 'svelte';
  import { toClipboard } from '../lib/clipboard';
  import { ago, changedSince, Closed, findPatches, goneSince, place, read, seenOf, writings } from './source';
  import { withoutNetwork } from './shell';
  import type { Content, Patch, Seen } from './source';

  // Colors beside the work: a press copies, in the notation that was chosen once; where a form has a field for each number, one press a
  // number.
  const kept = (key: string) => localStorage.getItem(`slip-${key}`);
  const keep = (key: string, value: string) => {
    try {
      localStorage.setItem(`slip-${key}`, value);
    } catch {
      // A browser that has no room left keeps no choice and says no changes.
    }
  };

  let path = $state(location.pathname);
  const here = $derived(place(path));
  let content = $state<Content>();
  let problem = $state('');
  let offline = $state(false);
  let now = $state(new Date());
  let answered = $state(new Date());

  // Without an address it is the one that was open last, as when it is begun as an application of its own.
  if (!place(location.pathname)) {
    const last = kept('last');
    if (last && place(last)) go(last);
  }

  let asked = 0;
  async function look() {
    const [n, at] = [++asked, path];
    try {
      const c = await read(at);
      if (n !== asked) return;
      [content, problem, offline, now] = [c, '', c.seen !== undefined, new Date()];
      if (!c.seen) answered = now;
      keep('last', at);
      document.title = `${c.title}, slip`;
    } catch (e) {
      if (n !== asked) return;
      content = undefined;
      problem = e instanceof Closed ? e.message : 'What lies here could not be read.';
    }
  }
  function go(to: string) {
    history.pushState(null, '', to);
    [path, copied, find] = [to, undefined, ''];
  }
  $effect(() => {
    void path;
    void look();
  });

  // It is always current: a house tells of changes, a pickup is asked when one looks at it, and now and then.
  $effect(() => {
    if (!here?.house) return;
    const events = new EventSource(`/api/houses/${here.house}/events`);
    events.addEventListener('message', () => void look());
    events.addEventListener('changed', () => void look());
    return () => events.close();
  });
  onMount(() => {
    void withoutNetwork(look);
    const minute = setInterval(() => (now = new Date()), 60_000);
    const again = setInterval(() => {
      if (document.visibilityState === 'visible' && (here?.token || offline || problem)) void look();
    }, 180_000);
    return () => {
      clearInterval(minute);
      clearInterval(again);
    };
  });

  // What one has looked at before, for saying what is other now.
  const seenKey = $derived(`seen ${path}`);
  const before = $derived.by<Seen | undefined>(() => {
    void content;
    void acknowledged;
    try {
      return (JSON.parse(kept(seenKey) ?? 'null') as Seen | null) ?? undefined;
    } catch {
      return undefined;
    }
  });
  let acknowledged = $state(0);
  const changed = $derived(content ? changedSince(before, content.patches) : []);
  const gone = $derived(content ? goneSince(before, content.patches) : 0);
  function acknowledge() {
    if (content) keep(seenKey, JSON.stringify(seenOf(content.patches)));
    acknowledged++;
  }
  $effect(() => {
    if (content && !before && content.patches.length > 0) untrack(acknowledge);
  });

  let how = $state(kept('how') ?? 'hex0');
  let large = $state(kept('large') !== 'no');
  const writing = $derived(writings[how] ?? writings.hex0!);
  $effect(() => keep('how', how));
  $effect(() => keep('large', large ? 'yes' : 'no'));

  let find = $state('');
  let field = $state<HTMLInputElement>();
  const most = 500; // rows; whoever has more finds
  const found = $derived(content ? findPatches(content.patches, find) : []);
  const patches = $derived(found.slice(0, most));

  let copied = $state<{ key: string; part: number }>();
  let said = $state('');
  async function copy(p: Patch, part: number) {
    const parts = writing.parts(p);
    const text = parts[part];
    if (text === undefined) return;
    if (!(await toClipboard(text))) {
      said = `Your browser does not allow copying; the value is ${text}`;
      return;
    }
    [copied, said] = [{ key: p.key, part }, `${text} copied`];
    // The next key goes to the next number.
    if (part + 1 < parts.length) {
      await tick();
      document.getElementById(idOf(p, part + 1))?.focus();
    }
  }
  const idOf = (p: Patch, part: number) => `value ${p.key} ${part}`;

  // Up and down go from color to color, left and right from number to number; what is typed finds.
  function keys(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const at = document.activeElement;
    const typing = at === field;
    const rows = [...document.querySelectorAll<HTMLElement>('[data-row]')];
    const row = at?.closest<HTMLElement>('[data-row]');
    const values = (r?: HTMLElement | null) => [...(r?.querySelectorAll<HTMLElement>('[data-value]') ?? [])];
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      if (at instanceof HTMLSelectElement) return;
      const to = row ? rows.indexOf(row) + (e.key === 'ArrowDown' ? 1 : -1) : e.key === 'ArrowDown' ? 0 : -1;
      if (to < 0) field?.focus();
      else values(rows[to])[0]?.focus();
    } else if ((e.key === 'ArrowRight' || e.key === 'ArrowLeft') && row) {
      const list = values(row);
      list[list.indexOf(at as HTMLElement) + (e.key === 'ArrowRight' ? 1 : -1)]?.focus();
    } else if (e.key === 'Escape' && find) {
      find = '';
    } else if (e.key === 'Enter' && typing) {
      values(rows[0])[0]?.click();
    } else if (!typing && e.key.length === 1 && e.key !== ' ' && !(at instanceof HTMLSelectElement)) {
      field?.focus(); // where the letter goes
      return;
    } else return;
    e.preventDefault();
  }
  const clock = new Intl.DateTimeFormat('en-US', { hour: 'numeric', minute: '2-digit' });
  const names = (list: string[]) => list.slice(0, 3).join(', ') + (list.length > 3 ? ` and ${list.length - 3} more` : '');
</script>

<svelte:window
  onkeydown={keys}
  onpopstate={() => (path = location.pathname)}
  ononline={() => void look()}
  onfocus={() => void look()}
/>

<main class="mx-auto flex h-dvh min-w-[16rem] max-w-[34.67rem] flex-col bg-base-100">
  <header class="flex items-center gap-2 bg-primary px-3 py-2 text-primary-content">
    <h1 class="min-w-0 flex-1">
      {#if content && content.others.length > 1}
        <select
          class="w-full bg-primary font-bold"
          aria-label={`${content.title}: which swatch set`}
          value={path}
          onchange={(e) => go(e.currentTarget.value)}
          >{#each content.others as o (o.at)}<option value={o.at}>{o.name}</option
            >{/each}{#if !content.others.some((o) => o.at === path)}<option value={path}>{content.title}</option>{/if}</select
        >
      {:else}<b>{content?.title ?? 'Slip'}</b>{/if}
    </h1>
    <select class="max-w-[10rem] bg-primary text-right font-mono text-small" aria-label="Notation" bind:value={how}
      >{#each Object.entries(writings) as [key, w] (key)}<option value={key}>{w.name}</option>{/each}</select
    >
  </header>
  {#if problem}
    <div class="p-4" role="alert">
      <p>{problem}</p>
      {#if problem.includes('signed in')}<a class="mt-3 inline-block link" href="/">Sign in</a>{/if}
      <button class="mt-3 block link" onclick={() => void look()}>Look again</button>
    </div>
  {/if}
  {#if content}
    {#if changed.length + gone > 0}
      <p class="flex items-baseline gap-2 border-b border-current px-3 py-1.5 text-small" role="status">
        <span class="flex-1"
          >{#if changed.length > 0}<b>Changed:</b>
            {names(content.patches.filter((p) => changed.includes(p.key)).map((p) => p.name))}.{/if}
          {#if gone > 0}{gone === 1 ? '1 is' : `${gone} are`} not here any more.{/if}</span
        ><button class="link" onclick={acknowledge}>seen</button>
      </p>
    {/if}
    <ul class="min-h-0 flex-1 overflow-y-auto" aria-label="Colors">
      {#each patches as p (p.key)}
        {@const parts = writing.parts(p)}
        {@const mine = copied?.key === p.key}
        <li
          class="grid grid-cols-[5.6rem_minmax(0,1fr)]"
          class:bg-base-200={mine}
          style:min-height={large ? '66px' : '34px'}
          data-row={p.key}
        >
          <button
            tabindex="-1"
            aria-hidden="true"
            style:background={p.hex}
            title={parts[0] && `Copy ${parts[0]}`}
            onclick={() => void copy(p, 0)}
          ></button>
          <div class="flex min-w-0 flex-col justify-center px-3 py-1" class:row={!large}>
            <p class="truncate leading-tight">
              <b>{p.name}</b>
              {#if mine}<span class="text-small">copied</span>{:else if changed.includes(p.key)}<span class="text-small"
                  >changed</span
                >{/if}
              {#if p.retired}<span class="text-small">{p.retired}</span>{/if}
            </p>
            <p class="flex flex-wrap items-baseline gap-x-3 font-mono">
              {#each parts as text, i (i)}<button
                  id={idOf(p, i)}
                  data-value
                  class="value min-h-6"
                  aria-label={`Copy ${text}, ${p.name}`}
                  aria-current={mine && copied?.part === i}
                  onclick={() => void copy(p, i)}>{text}</button
                >{:else}<span class="text-small">no such value</span>{/each}
              {#if large && parts.length > 0 && writing.note?.(p)}<span class="font-sans text-small">{writing.note(p)}</span>{/if}
            </p>
          </div>
        </li>
        {#if p === patches.at(-1) && found.length > most}<li class="p-3 text-small">
            And {found.length - most} more; find one by typing, or choose a swatch set.
          </li>{/if}
      {:else}<li class="p-3">{find ? `No color here has “${find}” in its name or value.` : 'No colors are here yet.'}</li>{/each}
    </ul>
    <footer class="border-t border-current px-3 py-2 text-small">
      <p>
        {content.edition ? `${content.edition}, ` : ''}{#if offline && content.seen}as of {clock.format(content.seen)},
          {ago(content.seen, now)}. <b>No network: this is what was last seen.</b>{:else}as of {clock.format(answered)}.{/if}
      </p>
      <p class="sr-only" role="status">{said}</p>
      {#if said.startsWith('Your')}<p role="alert">{said}</p>{/if}
      <p class="mt-1.5 flex items-center gap-3">
        <input
          bind:this={field}
          class="input min-w-0 flex-1"
          type="search"
          aria-label="Find"
          placeholder="find, by typing"
          spellcheck="false"
          bind:value={find}
        />
        <label class="flex min-h-6 items-center gap-1.5"
          ><input type="checkbox" class="checkbox" bind:checked={large} /> large</label
        >
      </p>
    </footer>
  {/if}
</main>

<style>
  .row {
    flex-direction: row;
    align-items: center;
    justify-content: space-between;
    gap: 0.53rem;
  }
  .value[aria-current='true'] {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
</style>
