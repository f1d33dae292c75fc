<script lang="ts">
  import { tasks, type Step } from '../guide/tasks';
  import { follow, route } from './router';

  // What a link of the guide means on this page, framed until one presses something: an address with #show= says which task and step.
  let box = $state<{ top: number; left: number; width: number; height: number } | undefined>();

  function meant(): Step | undefined {
    const [, id, n] = /^#show=([a-z-]+)\.(\d+)$/.exec(location.hash) ?? [];
    return tasks.find((t) => t.id === id)?.steps[Number(n)];
  }
  function find(s: Step) {
    const fits = new RegExp(s.text ?? '');
    return [...document.querySelectorAll<HTMLElement>(s.on)].find((e) => e.checkVisibility() && fits.test(e.textContent.trim()));
  }
  // It stays wanted where the page leads on by itself, as the library does to its first color.
  let wanted = $state.raw<Step>();
  $effect(() => {
    void route.pathname;
    const now = meant();
    if (now) wanted = now;
  });
  $effect(() => {
    const what = wanted;
    if (!what) return;
    let tries = 0;
    const timer = setInterval(() => {
      const e = find(what);
      if (e && !box) {
        e.scrollIntoView({ block: 'center' });
        e.focus({ preventScroll: true });
      }
      if (e) {
        const r = e.getBoundingClientRect();
        box = { top: Math.max(4, r.top - 6), left: Math.max(4, r.left - 6), width: r.width + 12, height: r.height + 12 };
      }
      if (++tries > 60 && !e) clearInterval(timer);
    }, 150);
    return () => {
      clearInterval(timer);
      box = undefined;
    };
  });
  function done() {
    if (!box) return;
    wanted = undefined;
    if (!location.hash) return;
    void follow(`${location.pathname}${location.search}`, true);
  }
</script>

<svelte:window onpointerdown={done} onkeydown={(e) => e.key !== 'Tab' && done()} />

{#if box}
  <div
    class="frame"
    data-shown
    role="status"
    style:top={`${box.top}px`}
    style:left={`${box.left}px`}
    style:width={`${box.width}px`}
    style:height={`${box.height}px`}
  >
    <span>here</span>
  </div>
{/if}

<style>
  .frame {
    position: fixed;
    z-index: 60;
    pointer-events: none;
    outline: 3px solid #111;
    box-shadow: 0 0 0 6px #fff;
  }
  span {
    position: absolute;
    right: -3px;
    top: 100%;
    margin-top: 6px;
    padding: 0 0.6rem;
    background: #111;
    color: #fff;
    font-weight: 700;
  }
</style>
