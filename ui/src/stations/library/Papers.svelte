<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import Term from '../../lib/Term.svelte';
  import Value from '../../lib/Value.svelte';
  import type { SheetActs } from './sheet.svelte';

  // Other builds of the color, a line each: same looks with more or less black, and the builds of the other presses. What can be done with
  // one, and what else there is to know of it, is behind its line.
  let { s, acts }: { s: Schema['ColorSheet']; acts: SheetActs } = $props();

  const c = $derived(s.row);
  const others = $derived(s.presses.filter((p) => p.press !== c.press.press));
  const variants = $derived(
    c.press.origin === 'master'
      ? []
      : [
          ...s.derived.variants.map((v) => ({
            name: `${v.black} black`,
            text: v.text,
            about: `total ink ${v.totalInk}`,
            far: undefined,
          })),
          ...(s.derived.blackOnly && s.derived.blackOnly.text !== c.press.text
            ? [
                {
                  name: 'black alone',
                  text: s.derived.blackOnly.text,
                  about: 'type and fine lines in one ink stay sharp',
                  far: s.derived.blackOnly,
                },
              ]
            : []),
        ],
  );
  let open = $state('');
  let other = $state(''); // the press whose own numbers are being approved
  let build = $state('');
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const toggle = (key: string) => ([open, other] = [open === key ? '' : key, '']);
</script>

{#snippet more(key: string)}
  <button class="link min-h-[1.6rem]" aria-expanded={open === key} aria-label={`More about ${key}`} onclick={() => toggle(key)}
    >{open === key ? 'less' : 'more'}</button
  >
{/snippet}

{#if others.length + variants.length > 0}
  <h3>Other builds</h3>
  <ul class="text-small">
    {#each variants as v (v.name)}
      <li class="rule border-t py-1">
        <div class="line">
          <span><Term of="black">{v.name}</Term></span>
          <span
            ><Value text={v.text} label={`CMYK with ${v.name}`} />{#if v.far}&nbsp; <Distance
                value={v.far.deltaE}
                word={v.far.word}
              />{/if}</span
          >
          {@render more(v.name)}
        </div>
        {#if open === v.name}
          <p class="more">
            {v.about}
            {#if house.keeper}<button
                class="link"
                disabled={acts.busy}
                aria-label={`Approve ${v.text}`}
                onclick={() => acts.approveBuild(v.text)}>approve</button
              >{/if}
          </p>
        {/if}
      </li>
    {/each}
    {#each others as p (p.press)}
      {@const paperDE = s.papers?.[s.presses.indexOf(p)]}
      {@const name = p.press.replaceAll('-', ' ')}
      <li class="rule border-t py-1">
        <div class="line">
          <b class="break-words">{name}</b>
          <span
            ><Value kind="cmyk" parts={p.value} label={`CMYK for ${p.press}`} /> &nbsp;<Distance value={p.deltaE} word={p.word} />
            {p.origin === 'derived' ? '' : p.origin}{#if p.moved !== undefined}<b class="block"
                >The master has moved by {p.moved.toFixed(1)} since this was approved.</b
              >{/if}</span
          >
          {@render more(p.press)}
        </div>
        {#if open === p.press}
          <p class="more">
            <Term of={p.origin === 'master' ? 'master' : p.origin}>{p.origin}</Term>{p.by
              ? ` by ${p.by}${p.at ? `, ${day.format(new Date(p.at))}` : ''}`
              : ''}; total ink {p.totalInk}{#if paperDE !== undefined}; <Term of="paper"
                >with the paper’s own color {paperDE.toFixed(1)} away</Term
              >{/if}{#if !p.inGamut}; <Term of="gamut">out of gamut</Term>{/if}
          </p>
          {#if house.keeper && p.origin !== 'master'}
            <p class="more flex flex-wrap gap-x-4">
              {#if p.origin === 'derived' || p.origin === 'given' || p.moved !== undefined}<button
                  class="link"
                  disabled={acts.busy}
                  aria-label={`Approve ${p.text} for ${p.press}`}
                  onclick={() => acts.approveBuild(p.text, p.press)}>approve{p.moved !== undefined ? ' again' : ''}</button
                >{/if}
              <button
                class="link"
                aria-expanded={other === p.press}
                aria-label={`Approve other numbers for ${p.press}`}
                onclick={() => {
                  other = other === p.press ? '' : p.press;
                  build = p.text;
                }}>other numbers</button
              >
              {#if p.origin === 'approved'}<button
                  class="link"
                  disabled={acts.busy}
                  aria-label={`Take back the approval for ${p.press}`}
                  onclick={() => acts.dropBuild(p.press)}>take back</button
                >{/if}
              <button
                class="link"
                aria-label={`let it decide: ${p.text} on ${p.press}`}
                onclick={() => acts.letDecide(`cmyk(${p.text}) on ${p.press}`)}>let it decide</button
              >
            </p>
            {#if other === p.press}
              <form
                class="more flex gap-2"
                onsubmit={(e) => {
                  e.preventDefault();
                  void acts.approveBuild(build, p.press).then((done) => done && (other = ''));
                }}
              >
                <input
                  class="input flex-1 font-mono"
                  aria-label={`CMYK build for ${p.press}`}
                  {@attach opened}
                  bind:value={build}
                  onkeydown={(e) => {
                    if (e.key !== 'Escape') return;
                    e.preventDefault();
                    other = '';
                  }}
                />
                <button class="btn btn-primary" disabled={acts.busy}>Approve</button>
              </form>
            {/if}
          {/if}
        {/if}
      </li>
    {/each}
  </ul>
{/if}

<style>
  .line {
    display: grid;
    grid-template-columns: 5.4rem minmax(0, 1fr) auto;
    align-items: baseline;
    column-gap: 0.5rem;
  }
  .more {
    margin: 0.2rem 0 0.2rem 5.9rem;
  }
</style>
