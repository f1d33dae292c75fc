<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from './lib/api/client';
  import { engine, newest } from './lib/engine';
  import { house, useLedger, useRecipients, useSets } from './lib/house.svelte';
  import { opened } from './lib/focus';
  import { navigate } from './lib/router';
  import { closeLimit, findable } from './stations/library/shown';

  // One field for everything of the house: colors by name, value, code and rule, or close to a typed value; sets, recipients, boards,
  // projects, and where one can go.
  let { close }: { close: () => void } = $props();
  let words = $state('');
  let at = $state(0);

  const ledger = useLedger();
  const sets = useSets();
  const recipients = useRecipients();
  const here = () => ({ params: { path: { house: house.id } } });
  const boards = createQuery(() => ({
    queryKey: ['boards', house.id],
    queryFn: () => need(api.GET('/houses/{house}/boards', here())),
    enabled: house.contributor,
  }));
  const projects = createQuery(() => ({
    queryKey: ['audits', 'found', house.id],
    queryFn: () => need(api.GET('/houses/{house}/projects', here())),
  }));

  interface Hit {
    key: string;
    name: string;
    says: string;
    href: string;
    hex?: string;
  }
  const places: { name: string; path: string; keeper?: boolean }[] = [
    { name: 'Gather', path: 'gather' },
    { name: 'Library', path: 'library' },
    { name: 'Gradients', path: 'library/view/gradients' },
    { name: 'Comparison', path: 'library/view/compare' },
    { name: 'Presses and inks', path: 'library/view/presses' },
    { name: 'Ink book', path: 'library/view/inks' },
    { name: 'Backup', path: 'library/view/backup' },
    { name: 'Proof', path: 'proof' },
    { name: 'Contrast', path: 'proof/contrast' },
    { name: 'Color vision', path: 'proof/vision' },
    { name: 'Print', path: 'proof/print' },
    { name: 'Boards', path: 'proof/boards' },
    { name: 'Send', path: 'send' },
    { name: 'Recipients', path: 'send/recipients' },
    { name: 'Audit', path: 'audit' },
    { name: 'Saved plans', path: 'audit/plans' },
    { name: 'Settings of the house', path: 'house' },
    { name: 'People', path: 'house/people' },
    { name: 'Trail', path: 'house/trail', keeper: true },
    { name: 'Your account', path: 'account' },
  ];

  const all = $derived(ledger.data?.colors ?? []);
  const texts = $derived(all.map(findable));
  const parts = $derived(words.toLowerCase().split(/\s+/).filter(Boolean));
  const fits = (text: string) => parts.every((p) => text.includes(p));
  const color = (c: Schema['ColorRow'], says: string): Hit => ({
    key: `color ${c.id}`,
    name: c.name,
    says,
    href: house.path(`library/${c.id}`),
    hex: c.hex,
  });

  // The nearest colors of a typed value, in any notation; what is no value has none.
  let far = $state.raw<{ deltaE: number; word: string }[] | null>(null);
  const measure = newest(
    async (a: { value: string; among: string[] }) =>
      /[0-9#]/.test(a.value) ? (await engine.ask('apart', { values: [a.value], among: a.among }))[0]! : null,
    (r) => (far = r),
    () => (far = null),
  );
  $effect(() => measure({ value: words.trim(), among: all.map((c) => c.hex) }));

  const most = 6;
  const hits = $derived.by(() => {
    if (parts.length === 0) return [];
    const out: { of: string; list: Hit[] }[] = [];
    const add = (of: string, list: Hit[]) => {
      if (list.length > 0) out.push({ of, list: list.slice(0, most) });
    };
    const first = words.trim().toLowerCase();
    const named = all.filter((_, i) => fits(texts[i]!));
    named.sort((a, b) => Number(b.name.toLowerCase().startsWith(first)) - Number(a.name.toLowerCase().startsWith(first)));
    add(
      'Colors',
      named.map((c) => color(c, [c.hex, c.status === 'approved' ? '' : c.status, c.rule].filter(Boolean).join(', '))),
    );
    if (far && far.length === all.length) {
      const d = far;
      const near = all.map((c, i) => ({ c, d: d[i]! })).sort((a, b) => a.d.deltaE - b.d.deltaE);
      add(
        `Close to ${words.trim()}`,
        near
          .filter(({ d }, i) => i === 0 || d.deltaE <= closeLimit)
          .slice(0, 3)
          .map(({ c, d }) => ({
            ...color(c, `${c.hex}, ${d.deltaE.toFixed(1)} ${d.word}`),
            key: `near ${c.id}`,
          })),
      );
    }
    const of = <T,>(list: T[] | undefined, name: (t: T) => string) => (list ?? []).filter((t) => fits(name(t).toLowerCase()));
    add(
      'Swatch sets',
      of(sets.data, (s) => s.name).map((s) => ({
        key: `set ${s.id}`,
        name: s.name,
        says: `${s.colors.length} colors`,
        href: house.path(`send/${s.id}`),
      })),
    );
    add(
      'Recipients',
      of(recipients.data, (r) => `${r.name} ${r.kind} ${r.note}`).map((r) => ({
        key: `recipient ${r.id}`,
        name: r.name,
        says: r.kind,
        href: house.path(`send/recipients/${r.id}`),
      })),
    );
    add(
      'Boards',
      of(boards.data, (b) => b.title).map((b) => ({
        key: `board ${b.id}`,
        name: b.title,
        says: `${b.answers} answers`,
        href: house.path(`proof/boards/approved/${b.id}`),
      })),
    );
    add(
      'Projects',
      of(projects.data?.projects, (p) => p.name).map((p) => ({
        key: `project ${p.id}`,
        name: p.name,
        says: `by ${p.by}`,
        href: house.path(`audit/project/${p.id}`),
      })),
    );
    add(
      'Places',
      places
        .filter((p) => (!p.keeper || house.keeper) && fits(p.name.toLowerCase()))
        .map((p) => ({ key: p.path, name: p.name, says: '', href: house.path(p.path) })),
    );
    return out;
  });
  const flat = $derived(hits.flatMap((h) => h.list));
  const current = $derived(flat[Math.min(at, flat.length - 1)]);

  function go(hit: Hit | undefined) {
    if (!hit) return;
    close();
    void navigate(hit.href as '/');
  }
  function press(e: KeyboardEvent) {
    if (e.key === 'Escape') close();
    else if (e.key === 'Enter') go(current);
    else if (e.key === 'ArrowDown') at = Math.min(flat.length - 1, at + 1);
    else if (e.key === 'ArrowUp') at = Math.max(0, at - 1);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  const name = (key: string) => `hit-${key.replaceAll(/[^a-z0-9]+/gi, '-')}`;
</script>

<div
  class="finding absolute right-0 top-[3.47rem] z-40 flex flex-col bg-[#111] p-4 text-white outline outline-1 outline-[#888]"
  role="search"
>
  <input
    class="w-full border-b border-white bg-transparent py-1 text-[1.13rem] text-white"
    type="search"
    role="combobox"
    aria-expanded={flat.length > 0}
    aria-controls="hits"
    aria-activedescendant={current ? name(current.key) : undefined}
    aria-label="Find anything"
    placeholder="a name, a value, a code, a rule"
    autocomplete="off"
    bind:value={words}
    oninput={() => (at = 0)}
    onkeydown={press}
    {@attach opened}
  />
  <div id="hits" class="mt-2 min-h-0 overflow-y-auto" role="listbox" aria-label="Found">
    {#each hits as group (group.of)}
      <div role="group" aria-label={group.of}>
        <p class="mt-2 text-small" aria-hidden="true">{group.of}</p>
        {#each group.list as hit (hit.key)}
          <div id={name(hit.key)} role="option" aria-selected={hit === current} tabindex="-1">
            <a
              class="hit"
              class:at={hit === current}
              href={hit.href}
              tabindex="-1"
              onclick={(e) => {
                e.preventDefault();
                go(hit);
              }}
            >
              {#if hit.hex}<span class="h-[1.73rem] w-[2.93rem] shrink-0" style:background={hit.hex}></span>{/if}
              <b class="shrink-0">{hit.name}</b><span class="truncate text-small">{hit.says}</span>
            </a>
          </div>
        {/each}
      </div>
    {/each}
    {#if parts.length > 0 && flat.length === 0}<p class="mt-2">Nothing in {house.member?.name} goes by that.</p>{/if}
    {#if parts.length === 0}<p class="mt-2 text-small">
        Colors, swatch sets, recipients, boards, projects and stations. A value, in any notation, finds the colors close to it.
      </p>{/if}
  </div>
</div>

<style>
  .finding {
    width: min(37.33rem, 100vw);
    max-height: calc(100vh - 4.67rem);
  }
  input::-webkit-search-cancel-button {
    display: none;
  }
  .hit {
    display: flex;
    align-items: center;
    gap: 0.8rem;
    min-height: 2.27rem;
    padding: 2px 0.53rem;
  }
  .hit.at,
  .hit:hover {
    background: #444;
  }
</style>
