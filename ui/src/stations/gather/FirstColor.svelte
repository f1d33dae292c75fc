<script lang="ts">
  import { sentence } from '../../lib/api/client';
  import { engine, newest } from '../../lib/engine';

  // The first color of a harmony is turned, made lighter or more colorful, and all others follow. While one drags, what one set is the
  // measure, not what it came to in 8 bits.
  let { hex, change }: { hex: string; change: (hex: string) => void } = $props();

  let at = $state<{ l: number; c: number; h: number }>();
  let problem = $state('');
  let ours = ''; // what dragging made of it

  const read = newest(
    async (of: string) => ({ of, look: await engine.ask('look', { value: of }) }),
    ({ of, look }) => {
      if (of !== ours) at = { ...look.oklch };
    },
    () => (at = undefined),
  );
  $effect(() => {
    if (hex && hex !== ours) read(hex);
  });

  const move = newest(
    (oklch: { l: number; c: number; h: number }) => engine.ask('look', { oklch }),
    (look) => {
      [ours, problem] = [look.hex, ''];
      change(look.hex);
    },
    (e) => (problem = `${sentence(e)}.`),
  );
  function set(part: 'l' | 'c' | 'h', v: number) {
    if (!at) return;
    at = { ...at, [part]: v };
    move($state.snapshot(at));
  }

  const hands = [
    { part: 'h', name: 'Hue', max: 360, step: 1 },
    { part: 'l', name: 'Lightness', max: 1, step: 0.01 },
    { part: 'c', name: 'Chroma', max: 0.32, step: 0.005 },
  ] as const;
  const shown = (part: 'l' | 'c' | 'h', v: number) => (part === 'h' ? `${Math.round(v)}°` : v.toFixed(part === 'l' ? 2 : 3));
</script>

{#if at}
  {#each hands as s (s.part)}
    <label class="mt-1 grid grid-cols-[5.33rem_minmax(0,1fr)_4.67rem] items-center gap-3 text-small">
      {s.name}
      <input
        type="range"
        min="0"
        max={s.max}
        step={s.step}
        value={at[s.part]}
        oninput={(e) => set(s.part, Number(e.currentTarget.value))}
      />
      <span class="font-mono">{shown(s.part, at[s.part])}</span>
    </label>
  {/each}
{/if}
{#if problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{problem}</p>{/if}
<p class="mt-2 text-small">
  All others follow it. Take another member in hand to move it alone, here or on the wheel, or to make it the first.
</p>
