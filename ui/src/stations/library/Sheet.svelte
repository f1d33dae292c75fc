<script lang="ts">
  import { comparison } from '../../lib/comparison.svelte';
  import Distance from '../../lib/Distance.svelte';
  import { opened } from '../../lib/focus';
  import { house, useLimits } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { backTo } from '../../lib/router';
  import { screen } from '../../lib/screen.svelte';
  import { copy, notation } from '../../lib/state.svelte';
  import type { Schema } from '../../lib/api/client';
  import Old from '../audit/Old.svelte';
  import Follow from '../send/Follow.svelte';
  import Family from './Family.svelte';
  import History from './History.svelte';
  import Holders from './Holders.svelte';
  import Leaving from './Leaving.svelte';
  import NearInks from './NearInks.svelte';
  import Pairs from './Pairs.svelte';
  import Papers from './Papers.svelte';
  import { useSheet } from './sheet.svelte';
  import SheetAbout from './SheetAbout.svelte';
  import SheetValues from './SheetValues.svelte';
  import Suggestions from './Suggestions.svelte';
  import UsedIn from './UsedIn.svelte';

  let { id, colors, groups }: { id: number; colors: Schema['ColorRow'][]; groups: string[] } = $props();

  const limits = useLimits();
  const acts = useSheet(() => id);
  const s = $derived(acts.s);
  const c = $derived(s?.row);
  const shownPress = $derived((c?.press.press ?? '').replaceAll('-', ' '));
  const succeeds = $derived(s && c?.status === 'retired' && c.successor ? s.sets : []);
  let newName = $state('');
  function rename() {
    newName = c?.name ?? '';
    acts.edit('name');
  }

  // A style sheet for people wants all four kinds of value together, and the papers; pasted back, the lines are one color again.
  const allKinds = () =>
    c &&
    s &&
    copy(
      [
        c.name,
        notation.write('hex', c.rgb),
        `RGB ${notation.write('rgb', c.rgb)}`,
        `CMYK ${notation.write('cmyk', c.press.value)} (${c.press.press})`,
        ...s.presses.filter((p) => p.press !== c.press.press).map((p) => `CMYK ${notation.write('cmyk', p.value)} (${p.press})`),
        `Spot ${c.ink.code}`,
        ...s.spots.filter((i) => i.stock !== c.ink.stock).map((i) => `Spot on ${i.stock} ${i.code}`),
      ].join('\n'),
      `All four kinds of ${c.name}`,
    );
  const faces = () =>
    c &&
    comparison.add([
      { label: c.name, hex: c.hex },
      { label: `${c.name}, press`, hex: c.press.hex },
      { label: `${c.name}, ink ${c.ink.code}`, hex: c.ink.hex },
    ]);
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<aside
  class="min-h-0 overflow-y-auto bg-base-200 print:hidden"
  aria-label="Sheet"
  onkeydown={(e) => {
    if (e.key !== 'Escape' || e.defaultPrevented || !acts.editing) return;
    e.preventDefault();
    acts.close();
  }}
>
  {#if rem.phone}<a class="flex min-h-[2.93rem] items-center px-5 font-bold" href={house.path('library')} onclick={backTo}
      >‹ Library</a
    >{/if}
  {#if acts.problem}
    <p class="p-5" role="alert">{acts.problem}</p>
  {:else if s && c}
    <div class="grid grid-cols-2 gap-x-4 px-5 pb-2 pt-4 text-small">
      <b>Screen</b>
      <span><b class="break-words">Press, {shownPress}</b> <Distance value={c.press.deltaE} word={c.press.word} /></span>
    </div>
    <div class="grid h-[11.47rem] grid-cols-2" role="img" aria-label={`Screen ${c.hex} beside press and ink`}>
      <span class="relative" style:background={screen.face(c)}
        >{#if c.master?.css && screen.wide}<span
            class="absolute bottom-0 right-0 size-10"
            style:background={c.hex}
            style:clip-path="polygon(100% 0, 100% 100%, 0 100%)"
          ></span>{/if}</span
      >
      <span class="grid grid-rows-2"><span style:background={c.press.hex}></span><span style:background={c.ink.hex}></span></span>
    </div>
    <div class="grid grid-cols-2 gap-x-4 px-5 pt-2 text-small">
      <span>{c.press.direction ? `print is ${c.press.direction}` : ''}</span>
      <span><b>Ink {c.ink.code}</b> <Distance value={c.ink.deltaE} word={c.ink.word} /></span>
    </div>

    <div class="px-5 pb-8 pt-3">
      <div class="flex items-baseline justify-between gap-3">
        {#if acts.editing === 'name'}
          <form
            class="flex flex-1 gap-2"
            onsubmit={(e) => {
              e.preventDefault();
              void acts.change(`Renamed to ${newName}`, { name: newName });
            }}
          >
            <input
              class="input flex-1 font-bold"
              aria-label={`New name of ${c.name}`}
              required
              maxlength={limits.data?.nameRunes}
              {@attach opened}
              bind:value={newName}
            />
            <button class="btn btn-primary" disabled={acts.busy}>Rename</button>
          </form>
        {:else}
          <h2 class="min-w-0 text-[1.53rem] leading-7">
            {c.name}
            {#if acts.may}<button class="ml-1 text-small font-normal link" aria-label={`Rename ${c.name}`} onclick={rename}
                >rename</button
              >{/if}
          </h2>
        {/if}
        <span class="text-right">{[c.role, c.group].filter(Boolean).join(', ')}</span>
      </div>
      {#if c.aliases.length || c.tags.length}<p class="text-small">
          {c.aliases.length ? `Also called ${c.aliases.join(', ')}. ` : ''}{c.tags.length ? `Tagged ${c.tags.join(', ')}.` : ''}
        </p>{/if}
      {#if s.ground}<p class="text-small">
          On {s.ground.color.name} it must reach {s.ground.want.toFixed(1)}:1 and has
          <b class="font-mono">{s.ground.ratio.toFixed(2)}</b>{s.ground.passes ? '' : ': it fails'}.
        </p>{/if}
      <p class="mt-1 flex gap-4 text-small">
        <button class="link" onclick={allKinds}>copy all four kinds</button><a
          class="link"
          href={house.path('library/view/compare')}
          onclick={faces}>compare its faces</a
        >
      </p>
      {#if c.status !== 'approved'}
        <p class="mt-1 flex items-center gap-3">
          <span class="badge font-bold">{c.status === 'draft' ? 'proposed' : 'retired'}</span>
          {#if c.successor}<span
              >use <a class="link" href={house.path(`library/${c.successor.id}`)}>{c.successor.name}</a> instead</span
            >{/if}
          {#if house.keeper}<button
              class="link"
              disabled={acts.busy}
              onclick={() => acts.change(`${c.name} approved`, { status: 'approved' })}
              >{c.status === 'draft' ? 'approve' : 'bring back'}</button
            >{/if}
        </p>
        {#if succeeds.length > 0 && c.successor}
          <p class="mt-1 text-small">
            It is still in {succeeds.join(', ')}.
            {#if house.keeper}<button
                class="link"
                disabled={acts.busy}
                onclick={() => acts.succeed(c.successor?.name ?? '', succeeds)}>put {c.successor.name} in its place</button
              >{/if}
          </p>
        {/if}
      {/if}
      <Suggestions color={c} />
      {#if acts.changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{acts.changing.problem}</p>{/if}
      <Follow colors={[id]} single={{ hex: c.hex, holders: s.holders }} />
      {#if c.status !== 'draft' && (c.status !== 'retired' || c.successor)}
        <Old color={id} name={c.name} becomes={c.status === 'retired' ? (c.successor?.name ?? '') : c.name} />
      {/if}

      <SheetValues {s} {acts} />
      <SheetAbout {s} {acts} {colors} {groups} />
      <Pairs of={c} />

      <Papers {s} {acts} />
      <Family {s} {colors} />
      <NearInks {s} may={acts.may} {acts} />

      <Holders {s} />
      <UsedIn color={id} name={c.name} hex={c.hex} />

      <History {s} changing={acts.changing} bringBack={acts.bringBack} />

      {#if acts.may}<Leaving {s} {acts} {colors} />{/if}
    </div>
  {/if}
</aside>

<style>
  aside {
    position: relative;
  }
  /* Of its parts as well, which are components of their own. */
  aside :global(h3) {
    margin: 1.33rem 0 0.27rem;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
