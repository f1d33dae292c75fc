<script lang="ts">
  import { house } from '../../lib/house.svelte';
  import { notation } from '../../lib/state.svelte';
  import { screen } from '../../lib/screen.svelte';
  import type { Item } from './shown';

  // The library on paper: every color with its patches, values and its whole rule; house, day, press and page stand on each page.
  let { items, label }: { items: Item[]; label: string } = $props();

  const press = $derived((house.member?.press ?? '').replaceAll('-', ' '));
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'long' });
  const quoted = (text: string) => `"${text.replace(/["\\\n<>&]/g, (c) => `\\${c.charCodeAt(0).toString(16)} `)}"`;
  const stock = $derived(house.member?.stock ?? 'coated');
  $effect(() => {
    const boxes = new CSSStyleSheet();
    boxes.replaceSync(`@page { margin: 18mm 12mm 16mm;
      @top-left { content: ${quoted(house.member?.name ?? '')}; font: 700 9pt sans-serif }
      @top-right { content: ${quoted(`${label}, ${day.format(new Date())}`)}; font: 9pt sans-serif }
      @bottom-left { content: ${quoted(`CMYK and distances for ${press} paper; ink on ${stock} stock`)}; font: 9pt sans-serif }
      @bottom-right { content: "page " counter(page) " of " counter(pages); font: 9pt sans-serif } }`);
    document.adoptedStyleSheets = [...document.adoptedStyleSheets, boxes];
    return () => (document.adoptedStyleSheets = document.adoptedStyleSheets.filter((s) => s !== boxes));
  });
</script>

<table class="printed">
  <thead>
    <tr
      ><th>Screen, press, ink</th><th>Color, and where to use it</th><th>Hex, RGB</th><th>CMYK, {press}</th><th>Spot</th><th
        >to press, to ink</th
      ></tr
    >
  </thead>
  <tbody>
    {#each items as item, i (i)}
      {#if 'group' in item}
        <tr class="group"><th colspan="6">{item.group || 'No group'}</th></tr>
      {:else}
        {@const c = item.color}
        <tr>
          <td class="patches"
            ><span style:background={screen.face(c)}></span><span style:background={c.press.hex}></span><span
              style:background={c.ink.hex}
            ></span></td
          >
          <td
            ><b>{c.name}</b>{[c.role, c.status === 'approved' ? '' : c.status === 'draft' ? 'proposed' : 'retired']
              .filter(Boolean)
              .map((w) => `, ${w}`)
              .join('')}{c.successor ? `, use ${c.successor.name}` : ''}{#if c.rule}<br />{c.rule}{/if}</td
          >
          <td class="mono">{notation.write('hex', c.rgb)}<br />{notation.write('rgb', c.rgb)}</td>
          <td class="mono">{notation.write('cmyk', c.press.value)}<br /><span>{c.press.origin}</span></td>
          <td class="mono">{c.ink.code}<br /><span>{c.ink.origin}</span></td>
          <td class="mono"
            >{c.press.deltaE.toFixed(1)} <span>{c.press.word}</span><br />{c.ink.deltaE.toFixed(1)} <span>{c.ink.word}</span></td
          >
        </tr>
      {/if}
    {/each}
  </tbody>
</table>

<style>
  .printed {
    width: 100%;
    border-collapse: collapse;
    font-size: 9.5pt;
    line-height: 1.3;
    text-align: left;
  }
  thead {
    display: table-header-group;
  }
  th,
  td {
    padding: 1.2mm 2.5mm 1.2mm 0;
    vertical-align: top;
  }
  td:nth-child(2) {
    width: 34%;
  }
  tr {
    break-inside: avoid;
    border-bottom: 0.2mm solid #000;
  }
  .group {
    break-after: avoid;
  }
  .group th {
    padding-top: 4mm;
    font-size: 11pt;
  }
  .patches {
    display: grid;
    grid-template-columns: repeat(3, 11mm);
    min-height: 13mm;
  }
  .mono {
    font-family: var(--font-mono);
    white-space: nowrap;
  }
  .mono span {
    font-family: var(--font-sans);
  }
</style>
