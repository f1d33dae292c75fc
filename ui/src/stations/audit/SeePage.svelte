<script lang="ts">
  import Verdict from '../../lib/Verdict.svelte';
  import { named, type Found } from './audit.svelte';
  import { type Mark } from './marks';
  import Slide from './Slide.svelte';

  // A page of a judged file with its marks, beside another state of it where there is one.
  let {
    view,
    held,
    boxes,
    colors,
    number,
    chosen,
    width,
    shape,
    waits,
    alt,
    loaded,
    pick,
  }: {
    view: { picture?: string };
    held: string | undefined; // what it is held against
    boxes: Mark[];
    colors: Map<string, Found>;
    number: Map<string, number>; // of findings, by their keys
    chosen: string; // key
    width: string; // in pixels, "px" behind
    shape: number; // width for height
    waits: boolean; // another page is on its way
    alt: string;
    loaded: (e: Event) => void;
    pick: (key: string) => void;
  } = $props();

  /** Whether there is room for a tag above a mark. */
  const above = (b: Mark) => (b.y * parseFloat(width)) / shape > 28;
  const tagged = (b: Mark, i: number) => boxes.length <= 60 || boxes.findIndex((o) => o.key === b.key) === i;
</script>

<div class="relative align-top" style:width style:opacity={waits ? 0.5 : 1}>
  {#if held && view.picture}<Slide before={held} after={view.picture} {alt} {loaded} />
  {:else}<img class="block w-full" src={view.picture} onload={loaded} {alt} />{/if}
  {#each boxes as b, i (i)}
    {@const c = colors.get(b.key)}
    <button
      class="mark"
      class:chosen={b.key === chosen}
      style:left={`${b.x * 100}%`}
      style:top={`${b.y * 100}%`}
      style:width={`${b.width * 100}%`}
      style:height={`${b.height * 100}%`}
      tabindex="-1"
      aria-label={`${number.get(b.key) ?? ''} ${c?.verdict ?? ''} ${c ? named(c) : ''}`}
      onclick={() => pick(b.key)}
      >{#if tagged(b, i) && c}<span class="tag" class:over={above(b)} class:within={!above(b) && b.x + b.width > 0.9}
          >{number.get(b.key) ?? ''}<Verdict verdict={c.verdict} word={false} /></span
        >{/if}</button
    >
  {/each}
</div>

<style>
  .mark {
    position: absolute;
    outline: 2px solid #fff;
    box-shadow:
      0 0 0 4px #111,
      inset 0 0 0 0 #111;
    min-width: 4px;
    min-height: 4px;
    background: none;
    cursor: pointer;
  }
  .mark.chosen {
    outline-width: 3px;
    box-shadow:
      0 0 0 6px #111,
      0 0 0 8px #fff;
    z-index: 1;
  }
  .tag {
    position: absolute;
    left: calc(100% + 4px);
    top: -4px;
    display: flex;
    align-items: center;
    gap: 0.3rem;
    padding: 0 0.4rem;
    background: #111;
    color: #fff;
    font-weight: bold;
    font-size: 0.87rem;
    line-height: 1.5rem;
  }
  .tag.over {
    left: -4px;
    top: auto;
    bottom: calc(100% + 4px);
  }
  /* Above it is no room, and beside it none either. */
  .tag.within {
    left: 0;
    top: 0;
  }
</style>
