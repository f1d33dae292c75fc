<script lang="ts">
  import type { Schema } from '../../lib/api/client';

  // One look of a set at work: a slide with a chart, a table and a callout, a title card, a timetable, a page and a sign. What
  // somebody points at in the list, and what reads worst, has a frame.
  let { look, series, weak, at }: { look: Schema['WorkLook']; series: Schema['WorkPaint'][]; weak: string[]; at: string } =
    $props();

  const parts = $derived(Object.fromEntries(look.parts.map((p) => [p.key, p])));
  const type = (key: string) => parts[key]?.type.hex ?? '#000';
  const on = (key: string) => parts[key]?.on.hex ?? '#fff';
  const bars = [38, 61, 47, 72, 29, 55];
  const rows = [
    ['06:40', 'North Quay', '1'],
    ['09:15', 'Saltholm', '3'],
    ['12:50', 'Cliff Pier', '2'],
    ['17:30', 'North Quay', '1'],
  ];
</script>

{#snippet word(key: string, text: string, kind = '')}<span
    class={kind}
    class:marked={at === key}
    style:color={type(key)}
    data-part={key}>{text}</span
  >{/snippet}

<div class="sheet" style:background={look.ground.hex} style:color={look.text.hex} data-specimen>
  <div class="inner slide">
    <p>{@render word('slide title', 'Winter crossings', 'title')}</p>
    <div class="two">
      <div>
        <p>{@render word('slide text', 'Eight sailings a day until March, two of them by night.')}</p>
        <table>
          <thead>
            <tr style:background={on('table head')}
              ><th>{@render word('table head', 'Route')}</th><th>{@render word('table head', 'Cars')}</th></tr
            >
          </thead>
          <tbody>
            {#each [['Saltholm', '412'], ['Cliff Pier', '268']] as [name, n] (name)}<tr style:background={on('table row')}
                ><td>{@render word('table row', name!)}</td><td>{@render word('table row', n!)}</td></tr
              >{/each}
          </tbody>
        </table>
        <p class="callout" style:background={on('callout')}>{@render word('callout', '+18 % over last winter')}</p>
      </div>
      <svg viewBox="0 0 120 84" aria-hidden="true">
        {#each series as s, i (s.slot)}
          <rect x={4 + i * 19.5} y={78 - bars[i]!} width="15" height={bars[i]} fill={s.hex} />
          {#if weak.includes(s.slot)}<path d={`M${4 + i * 19.5} ${70 - bars[i]!}h15l-7.5 6Z`} fill={look.text.hex} />{/if}
        {/each}
        <path d="M0 78H120" stroke={look.text.hex} stroke-width="0.8" />
      </svg>
    </div>
  </div>
</div>
<div class="sheet" style:background={on('title card')} data-specimen>
  <div class="inner card">
    <p class="line" style:background={type('title card line')} class:marked={at === 'title card line'}></p>
    <p>{@render word('title card', 'The last boat', 'huge')}</p>
    <p>{@render word('title card', 'A film of the night crew')}</p>
  </div>
</div>
<div class="sheet" style:background={look.ground.hex} data-specimen>
  <table class="times">
    <thead>
      <tr style:background={on('timetable head')}
        >{#each ['Leaves', 'For', 'Quay'] as h (h)}<th>{@render word('timetable head', h)}</th>{/each}</tr
      >
    </thead>
    <tbody>
      {#each rows as r, i (i)}
        <tr style:background={i % 2 ? on('slide text') : on('timetable row')}
          >{#each r as cell, k (k)}<td>{@render word(i % 2 ? 'slide text' : 'timetable row', cell)}</td>{/each}</tr
        >
      {/each}
    </tbody>
  </table>
</div>
<div class="sheet split" data-specimen>
  <div class="inner page" style:background={look.ground.hex} style:color={look.text.hex}>
    <p>{@render word('web heading', 'Book a crossing', 'title')}</p>
    <p>{@render word('slide text', 'Cabins open six weeks ahead.')} {@render word('web link', 'See the timetable', 'link-like')}</p>
    <p><span class="button" style:background={on('web button')}>{@render word('web button', 'Buy tickets')}</span></p>
  </div>
  <div class="inner sign" style:background={on('sign')}>
    <p style:color={type('sign')} class:marked={at === 'sign'} data-part="sign">
      <svg viewBox="0 0 40 40" aria-hidden="true"><path d="M4 24L20 8V17H36V31H20V40Z" fill="currentColor" /></svg>
      <b>Quay 3</b>
    </p>
  </div>
</div>

<style>
  .sheet {
    container-type: inline-size;
    overflow: hidden;
  }
  .sheet + .sheet {
    margin-top: 0.6rem;
  }
  .inner,
  .times {
    font-size: max(2.7cqw, 0.6rem);
    line-height: 1.35;
  }
  .slide {
    padding: 4cqw;
  }
  .title {
    font-size: 1.9em;
    font-weight: 700;
    line-height: 1.15;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4cqw;
    margin-top: 1.5cqw;
    align-items: end;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    margin-top: 1.5cqw;
    text-align: left;
  }
  th,
  td {
    padding: 0.25em 0.6em;
  }
  .callout {
    display: inline-block;
    margin-top: 2cqw;
    padding: 0.3em 0.7em;
    font-weight: 700;
  }
  .card {
    padding: 6cqw 6cqw 7cqw;
  }
  .line {
    width: 18cqw;
    height: 1.1cqw;
    margin-bottom: 3cqw;
  }
  .huge {
    font-size: 2.9em;
    font-weight: 700;
    line-height: 1.1;
  }
  .times {
    margin: 0;
  }
  .split {
    display: grid;
    grid-template-columns: 3fr 2fr;
  }
  .page {
    padding: 4cqw;
  }
  .page p + p {
    margin-top: 1.6cqw;
  }
  .link-like {
    text-decoration: underline;
  }
  .button {
    display: inline-block;
    padding: 0.45em 1.1em;
    font-weight: 700;
  }
  .sign {
    display: grid;
    place-items: center;
  }
  .sign p {
    display: flex;
    align-items: center;
    gap: 1.4cqw;
    padding: 1cqw 2cqw;
    font-size: 1.9em;
  }
  .sign svg {
    width: 1.4em;
  }
  .marked {
    outline: 2px solid #fff;
    outline-offset: 2px;
    box-shadow: 0 0 0 6px #111;
    box-decoration-break: clone;
  }
</style>
