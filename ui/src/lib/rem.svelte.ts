// How many pixels one rem has, for what has to be computed in pixels: it follows the text size that somebody set in the browser.
let px = $state(15);

if (typeof ResizeObserver === 'function' && typeof document !== 'undefined') {
  const probe = document.createElement('div');
  probe.style.cssText = 'position:absolute;visibility:hidden;width:10rem;height:0;pointer-events:none';
  new ResizeObserver(() => (px = probe.getBoundingClientRect().width / 10 || 15)).observe(probe);
  document.documentElement.append(probe);
}

// Below this width the pages are those of a phone; app.css has the same.
const narrow = typeof matchMedia === 'function' ? matchMedia('(max-width: 30rem)') : undefined;
let phone = $state(narrow?.matches ?? false);
narrow?.addEventListener('change', (e) => (phone = e.matches));

export const rem = {
  get px() {
    return px;
  },
  get phone() {
    return phone;
  },
};
