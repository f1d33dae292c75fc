<script lang="ts">
  import { untrack } from 'svelte';
  import { opened } from '../../lib/focus';
  import Distance from '../../lib/Distance.svelte';
  import { house } from '../../lib/house.svelte';
  import { screen } from '../../lib/screen.svelte';
  import Spectrum from '../../lib/Spectrum.svelte';
  import Term from '../../lib/Term.svelte';
  import Value from '../../lib/Value.svelte';
  import type { Schema } from '../../lib/api/client';
  import Amend from './Amend.svelte';
  import OtherNotation from './OtherNotation.svelte';
  import VideoCodes from './VideoCodes.svelte';
  import type { SheetActs } from './sheet.svelte';

  // The values of a color: what decides, the hex, RGB, the build of the house's press and the ink, each with where it is from.
  let { s, acts }: { s: Schema['ColorSheet']; acts: SheetActs } = $props();

  const c = $derived(s.row);
  const master = $derived(c.master);
  const shownPress = $derived(c.press.press.replaceAll('-', ' '));
  const ownPaper = $derived(s.papers?.[s.presses.findIndex((p) => p.press === c.press.press)]);
  let plain = $state(''); // the hex that is being approved
  let build = $state('');
  const kinds = { screen: 'Screen', reading: 'Reading', build: 'Build', ink: 'Ink' };
  const labels = { screen: 'screen value beyond sRGB', reading: 'reading, Lab', build: 'CMYK build', ink: 'spot ink' };
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  // They begin at what is; what is typed stays when the sheet is read anew meanwhile.
  $effect(() => {
    if (acts.editing === 'hex') untrack(() => (plain = c.hex));
    else if (acts.editing === 'cmyk') untrack(() => (build = c.press.text));
  });
</script>

<dl class="values mt-2">
  {#snippet amending()}
    {#if acts.may}<button class="link" aria-expanded={acts.editing === 'value'} onclick={() => acts.edit('value')}>amend</button
      >{/if}
    <span class="badge"><Term of="master">master</Term></span>
  {/snippet}
  <dt>{master ? kinds[master.kind] : 'Hex'}</dt>
  <dd>
    {#if master}<span class="font-mono text-[0.87rem]"
        ><Value text={master.text} label={`${labels[master.kind]}, which decides`} /></span
      >{:else}<Value kind="hex" parts={c.rgb} large label="hex" />{/if}
  </dd>
  <dd class="end">{@render amending()}</dd>
  {#if master}
    {#if master.press || master.stock}<dd class="wide text-small">
        on {master.press ?? master.stock}{master.book ? `, of the ${master.book} book` : ''}; Lab
        <Value text={master.lab ?? ''} label="Lab" />
      </dd>{/if}
  {/if}
  {#if master?.spectrum}<dd class="wide"><Spectrum of={master.spectrum} /></dd>{/if}
  {#if acts.editing === 'value'}<dd class="wide">
      {#key acts.begin}<Amend id={c.id} was={s} begin={acts.begin} done={() => acts.edit('')} />{/key}
    </dd>{/if}
  {#if master}
    <dt>Hex</dt>
    <dd><Value kind="hex" parts={c.rgb} large label="hex" /></dd>
    <dd class="end"><span class="badge"><Term of={c.hexOrigin}>{c.hexOrigin}</Term></span></dd>
  {/if}
  {#if master && master.kind !== 'screen'}<dd class="wide text-small">
      <Distance value={master.deltaE} word={master.word} /> from the master{#if c.hexBy && c.hexOrigin === 'approved'}; by
        {c.hexBy}{c.hexAt ? `, ${day.format(new Date(c.hexAt))}` : ''}{/if}
    </dd>{/if}
  {#if master && acts.may}<dd class="wide flex flex-wrap gap-x-4 text-small">
      {#if house.keeper && c.hexOrigin !== 'approved'}<button
          class="link"
          disabled={acts.busy}
          onclick={() => acts.approveHex(c.hex)}>approve {c.hex}</button
        >{/if}
      {#if house.keeper}<button class="link" aria-expanded={acts.editing === 'hex'} onclick={() => acts.edit('hex')}
          >approve another hex</button
        >{/if}
      {#if house.keeper && c.hexOrigin === 'approved'}<button
          class="link"
          disabled={acts.busy}
          aria-label="Take back the hex"
          onclick={acts.dropHex}>take back</button
        >{/if}
      <button class="link" aria-label={`let it decide: ${c.hex}`} onclick={() => acts.letDecide(c.hex)}>let it decide</button>
    </dd>{/if}
  {#if acts.editing === 'hex'}<dd class="wide">
      <form
        class="mt-1 flex gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          void acts.approveHex(plain);
        }}
      >
        <input class="input flex-1 font-mono" aria-label="Hex for screens" {@attach opened} bind:value={plain} />
        <button class="btn btn-primary" disabled={acts.busy}>Approve</button>
      </form>
    </dd>{/if}
  {#if master?.css}<dd class="wide text-small">
      {screen.wide ? 'plain screens show' : 'this screen cannot show it; shown as'} <span class="font-mono">{c.hex}</span>,
      <Distance value={master.deltaE} word={master.word} /> from it
    </dd>{/if}

  <dt>RGB</dt>
  <dd><Value kind="rgb" parts={c.rgb} large label="RGB" /></dd>
  <dd class="end"></dd>
  <OtherNotation of={c.master?.css ?? c.hex} label={c.name} />
  {#if s.video}<dd class="wide text-small"><VideoCodes of={s.video} /></dd>{/if}

  <dt>CMYK</dt>
  <dd><Value kind="cmyk" parts={c.press.value} large label="CMYK" /></dd>
  <dd class="end"><span class="badge"><Term of={c.press.origin}>{c.press.origin}</Term></span></dd>
  <dd class="wide text-small">
    {shownPress}, <Term of="totalInk">total ink</Term>
    {c.press.totalInk}{#if ownPaper !== undefined}; <Term of="paper">with the paper’s own color</Term>
      {ownPaper.toFixed(1)} away{/if};
    {#if c.press.origin === 'master'}
      it decides, by {c.press.by}
    {:else if c.press.origin !== 'derived'}
      {c.press.origin === 'given' ? 'came with it, from' : 'by'}
      {c.press.by}{c.press.at ? `, ${day.format(new Date(c.press.at))}` : ''}; the profile itself gives <Value
        text={s.derived.wholeText}
        label="derived CMYK"
      />
    {:else}
      {s.derived.roundingDE > 0.05
        ? `best in whole percents, ${s.derived.roundingDE.toFixed(1)} from the exact one:`
        : 'best in whole percents, as good as the exact one:'}
      <Value text={s.derived.exactText} label="exact CMYK" />
    {/if}
    {#if !c.press.inGamut}<br /><b><Term of="gamut">Out of gamut</Term>:</b> no build on this press comes within 2.0 of it.{/if}
    {#if c.press.moved !== undefined}<br /><b>The master has moved by {c.press.moved.toFixed(1)} since this was approved.</b>{/if}
    {#if house.keeper && c.press.origin !== 'master'}
      <span class="mt-1 flex flex-wrap gap-x-4">
        {#if c.press.origin === 'given'}<button class="link" disabled={acts.busy} onclick={() => acts.approveBuild(c.press.text)}
            >approve {c.press.text}</button
          >{/if}
        {#if c.press.origin === 'derived'}<button
            class="link"
            disabled={acts.busy}
            onclick={() => acts.approveBuild(s.derived.wholeText)}>approve {s.derived.wholeText}</button
          >{/if}
        {#if c.press.moved !== undefined}<button class="link" disabled={acts.busy} onclick={() => acts.approveBuild(c.press.text)}
            >approve again</button
          >{/if}
        <button class="link" aria-expanded={acts.editing === 'cmyk'} onclick={() => acts.edit('cmyk')}>approve other numbers</button
        >
        {#if c.press.origin === 'approved'}<button class="link" disabled={acts.busy} onclick={() => acts.dropBuild()}
            >take back</button
          >{/if}
        <button
          class="link"
          aria-label={`let it decide: ${c.press.text}`}
          onclick={() => acts.letDecide(`cmyk(${c.press.text}) on ${c.press.press}`)}>let it decide</button
        >
      </span>
      {#if acts.editing === 'cmyk'}
        <form
          class="mt-2 flex gap-2"
          onsubmit={(e) => {
            e.preventDefault();
            void acts.approveBuild(build);
          }}
        >
          <input class="input flex-1 font-mono" aria-label="CMYK build" {@attach opened} bind:value={build} />
          <button class="btn btn-primary" disabled={acts.busy}>Approve</button>
        </form>
      {/if}
    {/if}
  </dd>

  <dt><Term of="spot">Spot</Term></dt>
  <dd><Value text={c.ink.code} large label="spot ink" /></dd>
  <dd class="end"><span class="badge"><Term of={c.ink.origin}>{c.ink.origin}</Term></span></dd>
  <dd class="wide text-small">
    {c.ink.name}, {c.ink.class}, {c.ink.stock}{c.ink.origin === 'derived'
      ? ''
      : `; ${c.ink.origin === 'given' ? 'from' : 'by'} ${c.ink.by}`}
    {#if c.ink.moved !== undefined}<br /><b>The master has moved by {c.ink.moved.toFixed(1)} since this was approved.</b>{/if}
    {#if c.ink.origin === 'approved' && house.keeper}<button class="ml-3 link" disabled={acts.busy} onclick={() => acts.dropInk()}
        >take back</button
      >{/if}
    {#if c.ink.origin === 'given' && house.keeper}<button
        class="ml-3 link"
        disabled={acts.busy}
        onclick={() => acts.approveInk(c.ink.code)}>approve</button
      >{/if}
    {#if c.ink.origin !== 'master' && acts.may}<button
        class="ml-3 link"
        aria-label={`let it decide: ${c.ink.code}`}
        onclick={() => acts.letDecide(`${c.ink.code} on ${c.ink.stock}`)}>let it decide</button
      >{/if}
  </dd>
</dl>

<style>
  .values {
    display: grid;
    grid-template-columns: 4.13rem minmax(0, 1fr) auto;
  }
  .values > dt {
    padding-top: 0.6rem;
    font-size: 0.93rem;
  }
  .values > dd {
    padding-top: 0.4rem;
  }
  .values > .end {
    display: flex;
    align-items: center;
    justify-content: flex-end;
    gap: 0.67rem;
  }
  .values > .wide {
    grid-column: 2 / -1;
    padding: 2px 0 0.4rem;
  }
  .values > dt:not(:first-child)::before {
    content: '';
    position: absolute;
    right: 1.33rem;
    width: calc(100% - 2.67rem);
    margin-top: -0.6rem;
    border-top: 1px solid color-mix(in srgb, var(--color-base-content) 40%, transparent);
  }
</style>
