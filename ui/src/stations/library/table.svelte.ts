import { runOf } from './shown';

/** What the ledger shows and how; what a person chose stays with the browser. */
export const columns = [
  { key: 'screen', name: 'hex and RGB', head: 'Hex, RGB', width: '6.8rem' },
  { key: 'cmyk', name: 'CMYK', head: 'CMYK', width: '8.4rem' },
  { key: 'spot', name: 'spot ink', head: 'Spot', width: '5.47rem' },
  { key: 'press', name: 'distance to press', head: 'to press', width: '5.33rem' },
  { key: 'ink', name: 'distance to ink', head: 'to ink', width: '5.07rem' },
  { key: 'tags', name: 'tags and other names', head: 'Tags', width: '8rem' },
  { key: 'oklch', name: 'lightness, chroma, hue', head: 'OKLCH', width: '5.33rem' },
] as const;

export const orders = ['hand', 'hue', 'lightness', 'name', 'newest'] as const;

export type Column = (typeof columns)[number]['key'];

class Table {
  sort = $state<(typeof orders)[number]>('hand');
  role = $state('');
  status = $state('');
  close = $state('');
  marked = $state<Record<number, boolean>>({});
  printing = $state(false);
  columns = $state<Record<Column, boolean>>({
    screen: true,
    cmyk: true,
    spot: true,
    press: true,
    ink: true,
    tags: false,
    oklch: false,
  });

  constructor() {
    try {
      Object.assign(this.columns, JSON.parse(localStorage.getItem('columns') ?? '{}'));
    } catch {
      localStorage.removeItem('columns');
    }
  }

  #anchor = 0; // what was marked last, from which Shift takes the run

  mark(ids: number[], on: boolean) {
    for (const id of ids) this.marked[id] = on;
    this.#anchor = ids.at(-1) ?? this.#anchor;
  }

  /** Marks a color, or takes the mark from it; with the shown ones all from the one that was marked last, as that one is. */
  markOne(id: number, run?: number[], on = !this.marked[id]) {
    const from = this.#anchor;
    if (run && from) this.mark([...runOf(run, from, id).filter((i) => i !== id), id], !!this.marked[from] || on);
    else this.mark([id], on);
  }

  show(c: Column, on: boolean) {
    this.columns[c] = on;
    localStorage.setItem('columns', JSON.stringify(this.columns));
  }
}

export const table = new Table();
