<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest, type PairAnswer } from '../../lib/engine';
  import { house, useLimits } from '../../lib/house.svelte';
  import type { Part } from '../../lib/subject.svelte';
  import PairRule from './PairRule.svelte';
  import { putChanged } from './put';

  // The chosen pair at work, what it is good for, and how it would pass where it does not.
  let { type, ground, library }: { type: Part; ground: Part; library: Schema['ColorRow'][] } = $props();

  const limits = useLimits();
  const changing = useChange(['tray']);
  let want = $state(0); // 0: the least that the pair does not reach yet
  const usable = $derived(library.filter((c) => c.status === 'approved' && c.hex !== type.hex && c.hex !== ground.hex));

  let a = $state.raw<PairAnswer | undefined>();
  let problem = $state('');
  const ask = newest(
    (q: { type: string; ground: string; want: number; among: string[] }) => engine.ask('pair', q),
    (r) => ([a, problem] = [r, '']),
    (e) => (problem = `${e.message}.`),
  );
  $effect(() => ask({ type: type.hex, ground: ground.hex, want, among: usable.map((c) => c.hex) }));

  const uses = [
    { name: 'Large text, 24 px or 19 px bold', ratio: 3 },
    { name: 'Signs, buttons, chart lines', ratio: 3 },
    { name: 'Body text', ratio: 4.5 },
    { name: 'Body text, strict (AAA)', ratio: 7 },
  ];
  const sides = $derived(
    a
      ? [
          { side: 'type' as const, was: type, to: a.type, text: a.type?.hex, on: ground.hex },
          { side: 'ground' as const, was: ground, to: a.ground, text: type.hex, on: a.ground?.hex },
        ].filter((s) => s.to)
      : [],
  );
  const put = (hex: string, was: Part, other: Part) =>
    changing.run(() => putChanged(hex, was, { name: 'for', why: 'pass beside' }, other, limits.data?.nameRunes));
</script>

{#snippet work()}
  <div
    class="p-5"
    style:background={ground.hex}
    style:color={type.hex}
    data-specimen
    role="img"
    aria-label={`${type.name} at work on ${ground.name}`}
  >
    <p class="text-[1.8rem] font-bold leading-tight">{type.name} on {ground.name}</p>
    <p class="mt-2">Ordinary lines of text look like this: long enough to wrap, at the size that most people read.</p>
    <div class="mt-2 grid grid-cols-2 items-end gap-5">
      <div>
        <p class="text-small">Small print with dates, sources and conditions, down to the last 3 %.</p>
        <p class="mt-3 flex items-center gap-3">
          <span class="px-4 py-2 font-bold" style:background={type.hex} style:color={ground.hex}>Go on</span>
          <svg viewBox="0 0 32 32" width="32" height="32" fill="none" stroke="currentColor" stroke-width="3">
            <circle cx="16" cy="16" r="13" /><path d="M9 16l5 5l9-10" />
          </svg>
        </p>
      </div>
      <svg viewBox="0 0 170 84" class="w-full" fill="none" stroke="currentColor">
        <path d="M1 0V70H170" /><path d="M1 58L34 46L68 56L102 30L136 42L169 12" stroke-width="3" />
        <g fill="currentColor" stroke="none" font-size="12"
          ><rect x="31" y="43" width="6" height="6" /><rect x="65" y="53" width="6" height="6" /><rect
            x="99"
            y="27"
            width="6"
            height="6"
          /><rect x="133" y="39" width="6" height="6" /><text x="0" y="83">first</text><text x="146" y="83">last</text></g
        >
      </svg>
    </div>
  </div>
{/snippet}

<aside class="min-h-0 overflow-y-auto bg-base-200 pb-5" aria-label={`${type.name} on ${ground.name}`}>
  {@render work()}
  {#if problem}<p role="alert" class="m-5 border-l-4 border-current pl-3">{problem}</p>{/if}
  {#if a}
    <div class="px-5 pt-3">
      <div class="flex items-baseline justify-between gap-3">
        <h2 class="text-[1.27rem]">{type.name} on {ground.name}</h2>
        <b class="font-mono text-[1.67rem]">{a.shown}</b>
      </div>
      <table class="mt-1 w-full">
        <tbody>
          {#each uses as u (u.name)}
            <tr class="rule border-t">
              <td class="py-0.5">{u.name}</td>
              <td class="text-right font-mono">{u.ratio.toFixed(1)}</td>
              <td class="w-[4.67rem] text-right" class:font-bold={a.ratio >= u.ratio}>{a.ratio >= u.ratio ? 'passes' : 'fails'}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      <PairRule {type} {ground} ratio={a.ratio} />
      <div class="mt-3 flex items-center gap-2">
        <h2>To pass for</h2>
        <select class="select w-auto" aria-label="To pass for" bind:value={want}>
          <option value={0}>{a.want === 7 ? 'body text, strict' : 'body text'}, {a.want.toFixed(1)}</option>
          {#each [3, 4.5, 7].filter((r) => r !== a?.want) as r (r)}<option value={r}
              >{r === 3 ? 'large text and signs' : r === 7 ? 'body text, strict' : 'body text'}, {r.toFixed(1)}</option
            >{/each}
        </select>
      </div>
    </div>
    {#if a.ratio >= a.want}
      <p class="px-5 pt-2">It passes as it is.</p>
    {:else if sides.length === 0}
      <p class="px-5 pt-2">Neither a lighter nor a darker version of either color gets there; take another color.</p>
    {:else}
      <div class="mt-2 grid" style:grid-template-columns={`repeat(${sides.length + 1}, minmax(0, 1fr))`}>
        <div class="py-3 pl-5" style:background={ground.hex} style:color={type.hex} data-specimen aria-hidden="true">
          <b class="block text-[1.27rem]">{type.name}</b>as it is now
        </div>
        {#each sides as s (s.side)}
          <div class="py-3 pl-5 max-[68.75rem]:pl-2" style:background={s.on} style:color={s.text} aria-hidden="true">
            <b class="block text-[1.27rem]">{type.name}</b>{s.side} changed
          </div>
        {/each}
        <div class="py-2 pl-5 text-small">
          <b class="block">As it is now</b><span class="font-mono">{type.hex} <b>{a.shown}</b></span><span class="block font-mono"
            >on {ground.hex}</span
          >
        </div>
        {#each sides as s (s.side)}
          <div class="py-2 pl-5 text-small max-[68.75rem]:pl-2">
            <b class="block">{s.side === 'type' ? 'Type' : 'Ground'} changed</b>
            <span class="font-mono">{s.to!.hex} <b>{s.to!.shown}</b></span>
            <span class="block"><Distance value={s.to!.deltaE} word={s.to!.word} /></span>
            <span class="block">from {s.was.name}</span>
            {#if house.contributor}
              <button
                class="link block font-bold"
                disabled={changing.busy}
                aria-label={`put on the tray: the ${s.side} as ${s.to!.hex}`}
                onclick={() => put(s.to!.hex, s.was, s.side === 'type' ? ground : type)}>put on the tray</button
              >
            {/if}
          </div>
        {/each}
      </div>
    {/if}
    <div class="px-5 pt-2">
      <h2>Library colors that pass here</h2>
      {#if a.among.length === 0}<p class="text-small">None reaches {a.want.toFixed(1)} on {ground.name}.</p>{/if}
      {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    </div>
    {#if a.among.length > 0}
      <ul class="mt-1 px-5 py-2" style:background={ground.hex}>
        {#each a.among.slice(0, 8) as m (m.at)}
          {@const c = usable[m.at]!}
          <li class="flex items-baseline justify-between gap-3" style:color={c.hex}>
            <a class="inline-block min-h-[1.6rem] truncate font-bold" href={house.path(`library/${c.id}`)}>{c.name}</a>
            <span class="font-mono">{m.shown}</span>
          </li>
        {/each}
      </ul>
      <p class="px-5 pt-1 text-small">
        The nearest to {type.name} first{a.among.length > 8 ? `, and ${a.among.length - 8} more` : ''}.
      </p>
    {/if}
  {/if}
</aside>
