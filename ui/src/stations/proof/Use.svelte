<script lang="ts">
  // A set in use, drawn from it in its order: lines, stacked bars, a map of areas and a row of signs.
  let { colors, label }: { colors: string[]; label: string } = $props();

  // The shapes are invented and always the same, so that two drawings differ in their colors alone.
  const few = $derived(colors.slice(0, 8));
  const wave = (i: number, x: number) => 46 + 30 * Math.sin(i * 1.9 + x * 0.8) * (1 - i * 0.05) - (i % 3) * 6 + x * 1.5;
  const line = (i: number) => Array.from({ length: 9 }, (_, x) => `${x * 22},${(110 - wave(i, x)).toFixed(1)}`).join(' ');
  const part = (bar: number, i: number) => 1 + ((i * 7 + bar * 5 + i * bar) % 5);
  const bars = $derived(
    Array.from({ length: 6 }, (_, bar) => {
      const parts = few.map((_, i) => part(bar, i));
      const all = parts.reduce((a, b) => a + b, 0);
      const height = 60 + ((bar * 17) % 40);
      let y = 110;
      return parts.map((p) => {
        const h = (p / all) * height;
        y -= h;
        return { y, h };
      });
    }),
  );
  // Areas that touch, as on a map: five columns of cells with slanted borders.
  const corner = (x: number, y: number) =>
    `${x * 36 + (x > 0 && x < 5 ? ((x * 13 + y * 29) % 17) - 8 : 0)},${y * 36.6 + (y > 0 && y < 3 ? ((x * 23 + y * 11) % 13) - 6 : 0)}`;
  const areas = Array.from({ length: 15 }, (_, i) => {
    const [x, y] = [i % 5, Math.floor(i / 5)];
    return [corner(x, y), corner(x + 1, y), corner(x + 1, y + 1), corner(x, y + 1)].join(' ');
  });
  // No two that touch are alike, also where three divides the number of colors.
  const areaColor = (i: number) => colors[((i % 5) + Math.floor(i / 5) * (colors.length % 3 ? 3 : 4)) % colors.length];
  const signs = ['M6 20L18 8V16H34V24H18V32Z', 'M20 5L36 34H4Z', 'M8 8H32V32H8Z', 'M20 4A16 16 0 1 1 19.9 4Z'];
</script>

<div class="grid grid-cols-2 gap-2" role="img" aria-label={label}>
  <svg viewBox="0 0 180 112" class="w-full bg-white" fill="none" stroke-width="2.5">
    {#each few as c, i (i)}<polyline points={line(i)} stroke={c} />{/each}
  </svg>
  <svg viewBox="0 0 180 112" class="w-full bg-white">
    {#each bars as bar, b (b)}{#each bar as p, i (i)}<rect
          x={8 + b * 29}
          y={p.y}
          width="20"
          height={p.h}
          fill={few[i]}
        />{/each}{/each}
  </svg>
  <svg viewBox="0 0 180 110" class="w-full bg-white">
    {#each areas as points, i (i)}<polygon {points} fill={areaColor(i)} stroke="#fff" stroke-width="0.6" />{/each}
  </svg>
  <svg viewBox="0 0 180 112" class="w-full bg-white">
    {#each few as c, i (i)}<path
        d={signs[i % 4]}
        fill={c}
        transform={`translate(${4 + (i % 4) * 44} ${8 + Math.floor(i / 4) * 54})`}
      />{/each}
  </svg>
</div>
