<script lang="ts">
  import Distance from '../../lib/Distance.svelte';
  import { house } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { screen } from '../../lib/screen.svelte';
  import { copy, notation } from '../../lib/state.svelte';
  import type { Shown } from './shown';

  // A color on a phone: what it looks like, and its hex to copy.
  let {
    s,
    index,
    chosen,
    copied = $bindable(),
    open,
  }: { s: Shown; index: number; chosen: number | undefined; copied: number; open: (id: number) => void } = $props();

  const c = $derived(s.color);
  const hex = $derived(notation.write('hex', c.rgb));
</script>

<!-- svelte-ignore a11y_click_events_have_key_events -->
<div
  class="rule grid h-full grid-cols-[7.3rem_minmax(0,1fr)_auto] border-b"
  class:bg-base-200={copied === c.id}
  role="row"
  tabindex="-1"
  aria-rowindex={index + 2}
  onclick={(e) => (e.target as Element).closest('button, a') ?? open(c.id)}
>
  <span role="gridcell" aria-label={`${c.hex} on a screen`} style:background={screen.face(c)}></span>
  <span class="min-w-0 self-center pl-3.5" role="gridcell">
    <a
      class="block truncate font-bold"
      href={house.path(`library/${c.id}`)}
      data-replace={chosen !== undefined && !rem.phone ? '' : undefined}
      data-scroll-to-top="false">{c.name}</a
    >
    <span class="block truncate"
      ><span class="font-mono">{hex}</span>
      <span class="text-small"
        >{#if s.far}<Distance value={s.far.deltaE} word={s.far.word} />{:else if c.status !== 'approved'}<b
            >{c.status === 'draft' ? 'proposed' : `retired${c.successor ? `, use ${c.successor.name}` : ''}`}</b
          >{/if}</span
      ></span
    >
  </span>
  <span role="gridcell"
    ><button
      class="h-full min-w-[5.2rem] px-3 font-bold"
      aria-label={`${copied === c.id ? 'Copied' : 'Copy'} ${hex} of ${c.name}`}
      onclick={() => {
        copied = c.id;
        void copy(hex);
      }}>{copied === c.id ? 'copied' : 'copy'}</button
    ></span
  >
</div>
