<script lang="ts">
  import { booth, booths } from './lib/state.svelte';

  // The ground that colors are looked at on.

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
</script>

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

<style>
  .ring {
    outline: 2px solid #fff;
    outline-offset: 1px;
  }
</style>
