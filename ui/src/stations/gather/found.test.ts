import { describe, expect, it } from 'vitest';
import type { Schema } from '../../lib/api/client';
import { ordered, rowsOf, together } from './found';

const color = (name: string, hex: string, uses?: number, generic = name === '') =>
  ({ name, hex, uses, generic, notes: [], where: uses ? [`${name || hex} here`] : undefined }) as Schema['ColorInFile'];
const file = (...colors: Schema['ColorInFile'][]) => ({ colors }) as Schema['FoundFile'];

describe('colors of files', () => {
  it('a slot that nothing uses is idle, a variable and a lone theme are not', () => {
    const deck = rowsOf('a.pptx', 0, file(color('accent1', '#E2572B', 3, true), color('accent2', '#0E3A53', undefined, true)));
    expect(deck.map((r) => r.idle)).toEqual([false, true]);
    const css = rowsOf('a.css', 0, file(color('buoy', '#E2572B'), color('', '#123456', 2)));
    expect(css.map((r) => r.idle)).toEqual([false, false]);
    expect(rowsOf('a.thmx', 0, file(color('accent1', '#E2572B', undefined, true)))[0]!.idle).toBe(false);
  });

  it('what only pictures show is idle beside other colors, and last by use', () => {
    const shown = { ...color('', '#123456', 9), picture: true };
    const deck = rowsOf('a.pptx', 0, file(shown, color('buoy', '#E2572B', 1)));
    expect(deck.map((r) => r.idle)).toEqual([true, false]);
    expect(ordered(deck, 'use').map((r) => r.color.hex)).toEqual(['#E2572B', '#123456']);
    expect(rowsOf('a.docx', 0, file(shown))[0]!.idle).toBe(false);
    const used = together([deck, rowsOf('b.css', 1, file(color('', '#123456', 2)))]);
    expect([used[0]!.idle, used[0]!.color.picture]).toEqual([false, undefined]);
  });

  it('several files together have each value once, with its uses and the name that says something', () => {
    const a = rowsOf('a.css', 0, file(color('', '#E2572B', 2), color('sea', '#0E3A53')));
    const b = rowsOf('b.css', 1, file(color('buoy', '#E2572B', 3), color('foam', '#F4F7F5', 1)));
    const all = together([a, b]);
    expect(all.map((r) => [r.color.name, r.color.uses, r.files])).toEqual([
      ['buoy', 5, ['a.css', 'b.css']],
      ['sea', undefined, ['a.css']],
      ['foam', 1, ['b.css']],
    ]);
    expect(a[0]!.color.uses).toBe(2);
  });

  it('orders by use, by lightness and as the file has them', () => {
    const rows = rowsOf('a', 0, file(color('a', '#000000', 1), color('b', '#FFFFFF'), color('c', '#808080', 9)));
    const names = (order: 'use' | 'file' | 'light') => ordered(rows, order).map((r) => r.color.name);
    expect(names('use')).toEqual(['c', 'a', 'b']);
    expect(names('light')).toEqual(['b', 'c', 'a']);
    expect(names('file')).toEqual(['a', 'b', 'c']);
  });
});
