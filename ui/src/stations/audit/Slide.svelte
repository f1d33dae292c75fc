<script lang="ts">
  // A page before and after, one over the other, with a line between them that is slid: left of it as it is, right of it as it would be.
  let { before, after, alt, loaded }: { before: string; after: string; alt: string; loaded: (e: Event) => void } = $props();
  let at = $state(50); // percent of the width
  let whole = $state<HTMLElement>();

  const to = (percent: number) => (at = Math.min(100, Math.max(0, percent)));
  function drag(e: PointerEvent) {
    if (!(e.buttons & 1) || !whole) return;
    const box = whole.getBoundingClientRect();
    to((100 * (e.clientX - box.left)) / box.width);
  }
  function hold(e: PointerEvent & { currentTarget: HTMLElement }) {
    e.currentTarget.setPointerCapture(e.pointerId);
    drag(e);
  }
  const steps: Record<string, number> = { ArrowLeft: -2, ArrowRight: 2, PageDown: -10, PageUp: 10, Home: -100, End: 100 };
  function key(e: KeyboardEvent) {
    const by = steps[e.key];
    if (by === undefined) return;
    e.preventDefault();
    e.stopPropagation(); // the same keys turn pages
    to(at + by);
  }
</script>

<div bind:this={whole}>
  <img class="block w-full" src={before} {alt} onload={loaded} />
  <img class="absolute inset-0 block h-full w-full" style:clip-path={`inset(0 0 0 ${at}%)`} src={after} alt="" />
  <div
    class="line"
    style:left={`${at}%`}
    role="slider"
    tabindex="0"
    aria-label="Line between before, on its left, and after"
    aria-valuemin="0"
    aria-valuemax="100"
    aria-valuenow={Math.round(at)}
    aria-valuetext={`${Math.round(at)} percent before`}
    onpointerdown={hold}
    onpointermove={drag}
    onkeydown={key}
  >
    <span class="word right-[calc(50%+0.5rem)]">before</span><span class="word left-[calc(50%+0.5rem)]">after</span>
  </div>
</div>

<style>
  .line {
    position: absolute;
    z-index: 2;
    top: 0;
    bottom: 0;
    width: 2rem;
    margin-left: -1rem;
    cursor: ew-resize;
    touch-action: none;
    background: linear-gradient(
      to right,
      transparent calc(50% - 3px),
      #fff 0,
      #fff calc(50% - 1px),
      #111 0,
      #111 calc(50% + 1px),
      #fff 0,
      #fff calc(50% + 3px),
      transparent 0
    );
  }
  .word {
    position: absolute;
    bottom: 0.3rem;
    padding: 0 0.4rem;
    background: #111;
    color: #fff;
    font-weight: bold;
    font-size: 0.87rem;
    line-height: 1.5rem;
    pointer-events: none;
  }
</style>
