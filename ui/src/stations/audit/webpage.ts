import type { Schema } from '../../lib/api/client';

type View = Schema['AuditView'];

const wide = 1200; // pixels that a page of the web has across here
const lines = 800; // that a window has down, for what a page measures by it
const tallest = 6000; // pixels of a page that are shown
const mark = 'data:text/html;base64,';

/**
 * A view whose pictures an image can show: a page of the web becomes a drawing that holds it. As an image it runs no scripts and fetches
 * nothing.
 */
export async function drawable(view: View): Promise<View> {
  if (!view.picture?.startsWith(mark)) return view;
  let tall: number;
  try {
    tall = await height(page(view.before ?? view.picture, tallest, true));
  } catch {
    return { ...view, form: 'lines', picture: undefined, why: 'This browser cannot show it as a page.' };
  }
  const drawing = (text?: string) => (text === undefined ? undefined : page(text, Math.min(tall, tallest)));
  const [picture, before, coded] = [drawing(view.picture), drawing(view.before), drawing(view.coded)];
  const notes = [view.why, tall > tallest ? `Only the first ${tallest.toLocaleString('en-US')} pixels down are shown.` : ''];
  return { ...view, picture, before, coded, why: notes.filter(Boolean).join(' ') || undefined };
}

/** The address of a drawing that holds a page of the web, whose text an address holds. To be measured, its ground ends where it does. */
function page(address: string, tall: number, measure = false): string {
  const bytes = Uint8Array.from(atob(address.slice(mark.length)), (c) => c.charCodeAt(0));
  const read = new DOMParser().parseFromString(new TextDecoder().decode(bytes), 'text/html');
  for (const e of read.querySelectorAll('script, noscript, iframe, object, embed, link, base, meta, template')) e.remove();
  const comments = read.createNodeIterator(read, NodeFilter.SHOW_COMMENT);
  for (let c = comments.nextNode(); c; c = comments.nextNode()) (c as Comment).remove();
  // Names that HTML takes and XML does not.
  for (const e of read.querySelectorAll('*')) {
    for (const a of [...e.attributes]) if (!a.namespaceURI && !/^[a-z_][\w.-]*$/i.test(a.name)) e.removeAttributeNode(a);
    if (!/^[a-z_][\w.-]*$/i.test(e.localName)) {
      const plain = read.createElement('span');
      plain.append(...e.childNodes);
      e.replaceWith(plain);
    }
  }
  for (const e of read.querySelectorAll('[style]')) e.setAttribute('style', measured(e.getAttribute('style') ?? ''));
  for (const e of read.querySelectorAll('style')) e.textContent = measured(e.textContent).replace(/:root\b/g, '.its-root');
  // A page is as tall as its window, and the ground of what it holds is its own.
  const html = read.documentElement;
  html.classList.add('its-root');
  const ground = read.createElement('style');
  const align = measure ? 'start' : 'stretch';
  ground.textContent = `html{display:grid;grid-template-columns:minmax(0,1fr);min-height:${tall}px;align-items:${align};background:#fff}`;
  read.head.prepend(ground);
  const text = new XMLSerializer().serializeToString(html);
  const held = `<foreignObject width="${wide}" height="${tall}">${text}</foreignObject>`;
  const drawing = `<svg xmlns="http://www.w3.org/2000/svg" width="${wide}" height="${tall}">${held}</svg>`;
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(clean(drawing))}`;
}

/** What is measured by the window has one. */
const measured = (css: string) => css.replace(/(\d*\.?\d+)[sld]?vh\b/g, (_, n: string) => `${(Number(n) * lines) / 100}px`);

/** Characters that HTML takes and XML does not. */
const clean = (text: string) => text.replace(/[\0-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]/g, '');

/** How tall a page is: behind its last row nothing changes. One that goes on is said to be taller than is shown. */
async function height(drawing: string): Promise<number> {
  const img = new Image();
  img.src = drawing;
  await img.decode();
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [300, tallest / 4];
  const on = canvas.getContext('2d', { willReadFrequently: true });
  if (!on) throw new Error('no canvas');
  on.drawImage(img, 0, 0, canvas.width, canvas.height);
  const { data } = on.getImageData(0, 0, canvas.width, canvas.height);
  const row = canvas.width * 4;
  const last = data.slice(data.length - row);
  let y = canvas.height - 1;
  while (y > 0 && last.every((v, i) => v === data[(y - 1) * row + i])) y--;
  if (y === canvas.height - 1) return tallest + 1;
  return Math.min(tallest, Math.max(400, 4 * y + 24));
}
