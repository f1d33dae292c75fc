<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { engine } from '../../lib/engine';
  import Value from '../../lib/Value.svelte';

  // The color in one notation more, whichever the program beside wants; the choice stays.
  let { of, label }: { of: string; label: string } = $props();

  const names: Record<string, string> = {
    hsl: 'HSL',
    hsv: 'HSB',
    hwb: 'HWB',
    float: '0 to 1',
    percent: 'RGB in percent',
    lab: 'Lab',
    lch: 'LCH',
    oklab: 'OKLab',
    oklch: 'OKLCH',
    p3: 'Display P3',
    rec2020: 'Rec. 2020',
    srgb: 'CSS color()',
    linear: 'linear light',
    xyz: 'XYZ',
  };
  const written = createQuery(() => ({
    queryKey: ['written', of],
    queryFn: () => engine.ask('written', { value: of }),
    staleTime: Infinity,
  }));
  const list = $derived((written.data ?? []).filter((w) => names[w.name]));
  let chosen = $state(localStorage.getItem('other-notation') ?? 'hsl');
  const now = $derived(list.find((w) => w.name === chosen) ?? list[0]);
</script>

<dt>Also</dt>
<dd class="self-center font-mono">
  {#if now}<Value text={now.text} label={`${names[now.name]} of ${label}`} />{/if}
</dd>
<dd class="end">
  <select
    class="select h-[1.6rem] min-h-0 w-[7.6rem] px-2 text-small"
    aria-label="Other notation"
    value={now?.name}
    onchange={(e) => {
      chosen = e.currentTarget.value;
      localStorage.setItem('other-notation', chosen);
    }}
  >
    {#each Object.keys(names).filter((n) => list.some((w) => w.name === n)) as n (n)}<option value={n}>{names[n]}</option>{/each}
  </select>
</dd>
