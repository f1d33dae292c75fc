<script lang="ts" generics="T">
  import type { Snippet } from 'svelte';
  import { rem } from './rem.svelte';

  // A long list of which only the rows in view exist. Heights, in rem, are known beforehand, so the scroll bar never jumps.
  let {
    items,
    height,
    key,
    row,
    label,
    role = 'rowgroup',
  }: {
    items: T[];
    height: (item: T) => number;
    key: (item: T) => string | number;
    row: Snippet<[T, number]>;
    label: string;
    role?: 'rowgroup' | 'group';
  } = $props();

  let box = $state<HTMLDivElement>();
  let top = $state(0);
  let tall = $state(800);

  const offsets = $derived.by(() => {
    const out = new Float64Array(items.length + 1);
    items.forEach((item, i) => (out[i + 1] = out[i]! + height(item) * rem.px));
    return out;
  });

  function at(y: number) {
    let lo = 0;
    let hi = items.length;
    while (lo < hi) {
      const mid = (lo + hi) >> 1;
      if (offsets[mid + 1]! <= y) lo = mid + 1;
      else hi = mid;
    }
    return lo;
  }

  const first = $derived(Math.max(0, at(top) - 4));
  const last = $derived(Math.min(items.length, at(top + tall) + 5));

  /** Scrolls so that a row is in view. */
  export function show(index: number) {
    if (!box || index < 0) return;
    const a = offsets[index]!;
    const b = offsets[index + 1]!;
    if (a < box.scrollTop) box.scrollTop = a;
    else if (b > box.scrollTop + box.clientHeight) box.scrollTop = b - box.clientHeight;
  }
</script>

<div
  class="min-h-0 flex-1 overflow-y-auto [scrollbar-gutter:stable]"
  bind:this={box}
  bind:clientHeight={tall}
  onscroll={() => (top = box?.scrollTop ?? 0)}
  {role}
  aria-label={label}
>
  <div class="relative" style:height={`${offsets[items.length]}px`} role="presentation">
    {#each items.slice(first, last) as item, i (key(item))}
      <div class="absolute inset-x-0" style:top={`${offsets[first + i]}px`} style:height={`${height(item)}rem`} role="presentation">
        {@render row(item, first + i)}
      </div>
    {/each}
  </div>
</div>
