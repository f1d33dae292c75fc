import { untrack } from 'svelte';

/** What can hold the focus inside the work. */
const focusable = 'a[href], button, input, select, textarea, summary, [tabindex]';
const fields = 'input:not([type=hidden]), select, textarea';

/** How many elements back the focus may return. */
const most = 12;

let open = 0;

/** Whether a form is open that was attached to opened(). */
export const formOpen = () => open > 0;

/**
 * For what a click opens, a form or its first field: typing goes there at once. (The autofocus of HTML yields to the button that
 * was clicked.)
 */
export function opened(node: HTMLElement) {
  const field = node.matches(fields) ? node : node.querySelector<HTMLElement>(fields);
  open++;
  untrack(() => field?.focus());
  return () => {
    open--;
  };
}

/** Elements that had the focus, the latest last. */
let trail: HTMLElement[] = [];

const usable = (e: HTMLElement) => e.isConnected && !e.matches(':disabled') && e.checkVisibility({ visibilityProperty: true });

/**
 * Keeps the focus inside the work: when what had it goes away or cannot be used any more, as a form that closes or a button that
 * has done its work, the focus goes to the latest element that had it and is still there, otherwise to the station. A focus that
 * somebody took away, with a click beside everything, stays away. busy tells that a change is under way, at whose end a button may
 * come back. Returns what stops it.
 */
export function keepFocus(busy: () => boolean) {
  let frame = 0;
  let lost = false;
  function held(e: FocusEvent) {
    const target = e.target as HTMLElement;
    if (!target.matches(focusable)) return;
    trail = [...trail.filter((t) => t !== target && t.isConnected), target].slice(-most);
    lost = false;
  }
  function settle() {
    frame = 0;
    const last = trail.at(-1);
    if (last && !usable(last)) lost = true;
    if (!lost) return;
    if (busy()) return look();
    const now = document.activeElement as HTMLElement | null;
    if (now && now !== document.body && usable(now)) return;
    // A sheet gives way to the sheet of what is shown next.
    const sheet = last?.tagName === 'ASIDE' ? document.querySelector<HTMLElement>('.work > aside') : null;
    const to = sheet ?? trail.findLast(usable) ?? document.querySelector('main');
    if (to?.tagName === 'MAIN' || to === sheet) to!.tabIndex = -1;
    to?.focus({ preventScroll: true });
  }
  function look() {
    frame ||= requestAnimationFrame(settle);
  }
  const watch = new MutationObserver(look);
  watch.observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ['disabled', 'hidden'] });
  document.addEventListener('focusin', held);
  return () => {
    watch.disconnect();
    document.removeEventListener('focusin', held);
    cancelAnimationFrame(frame);
  };
}

/** Brings the focus to the work of a station, or to the sheet beside it, from where the tab key goes on. False where there is none. */
export function goTo(what: 'main' | '.work > aside'): boolean {
  const to = document.querySelector<HTMLElement>(what);
  if (!to) return false;
  to.tabIndex = -1;
  to.focus();
  return true;
}

/** After a move by keys in a grid, the focus goes along to the row that is chosen now, if it was in the grid. */
export function followFocus() {
  const grid = document.activeElement?.closest('[role=grid]');
  if (grid)
    requestAnimationFrame(() => grid.querySelector<HTMLElement>('[role=row][aria-selected=true]')?.focus({ preventScroll: true }));
}
