import { describe, expect, it } from 'vitest';
import type { Schema } from '../../lib/api/client';
import { backwards } from './backwards';
import { choose, findable, underGroups, type Wanted, runOf } from './shown';

type Row = Schema['ColorRow'];

const row = (id: number, name: string, oklch: number[], more: Partial<Row> = {}): Row =>
  ({
    id,
    name,
    oklch,
    group: '',
    role: '',
    rule: '',
    status: 'approved',
    hex: '#112233',
    rgb: [17, 34, 51],
    aliases: [],
    tags: [],
    added: `2026-01-0${id}T00:00:00Z`,
    press: { text: '1 2 3 4' },
    ink: { code: `QN-000${id}`, name: 'Heath' },
    ...more,
  }) as Row;

const all = [
  row(1, 'Deep Sound', [0.33, 0.07, 230], { group: 'Hull', role: 'primary', aliases: ['Hull blue'] }),
  row(2, 'Fog', [0.85, 0.01, 200], { group: 'Hull', role: 'neutral', tags: ['web'] }),
  row(3, 'Buoy', [0.64, 0.19, 38], { group: 'Signals', role: 'primary' }),
  row(4, 'Old Funnel', [0.58, 0.19, 33], { group: 'Signals', status: 'retired' }),
];
const texts = all.map(findable);
const names = (want: Partial<Wanted>) =>
  choose(all, () => texts, { words: '', role: '', status: '', sort: 'hand', far: null, ...want }).map((s) => s.color.name);

describe('what the ledger shows', () => {
  it('finds by every word, wherever it stands', () => {
    expect(names({ words: 'HULL blue' })).toEqual(['Deep Sound']);
    expect(names({ words: 'qn-0003' })).toEqual(['Buoy']);
    expect(names({ words: 'web' })).toEqual(['Fog']);
    expect(names({ words: 'hull nothing' })).toEqual([]);
  });

  it('narrows by role and status together', () => {
    expect(names({ role: 'primary' })).toEqual(['Deep Sound', 'Buoy']);
    expect(names({ role: 'primary', status: 'retired' })).toEqual([]);
    expect(names({ status: 'retired' })).toEqual(['Old Funnel']);
  });

  it('sorts in each order, grays behind the hues', () => {
    expect(names({ sort: 'hand' })).toEqual(['Deep Sound', 'Fog', 'Buoy', 'Old Funnel']);
    expect(names({ sort: 'hue' })).toEqual(['Old Funnel', 'Buoy', 'Deep Sound', 'Fog']);
    expect(names({ sort: 'lightness' })).toEqual(['Fog', 'Buoy', 'Old Funnel', 'Deep Sound']);
    expect(names({ sort: 'name' })).toEqual(['Buoy', 'Deep Sound', 'Fog', 'Old Funnel']);
    expect(names({ sort: 'newest' })).toEqual(['Old Funnel', 'Buoy', 'Fog', 'Deep Sound']);
  });

  it('puts the closest first and leaves the far ones out', () => {
    const far = [40, 14.9, 3, 0].map((deltaE) => ({ deltaE, word: '' }));
    expect(names({ far })).toEqual(['Old Funnel', 'Buoy', 'Fog']);
    expect(names({ far: far.slice(1) })).toHaveLength(4); // of a list that is no longer shown
  });

  it('names each group once', () => {
    const shown = choose(all, () => texts, { words: '', role: '', status: '', sort: 'hand', far: null });
    expect(underGroups(shown).map((i) => ('group' in i ? i.group : i.color.name))).toEqual([
      'Hull',
      'Deep Sound',
      'Fog',
      'Signals',
      'Buoy',
      'Old Funnel',
    ]);
  });
});

describe('undoing what was done to many', () => {
  it('gives each what it had, those that had the same together', () => {
    expect(backwards('role', all)).toEqual([
      { colors: [1, 3], role: 'primary' },
      { colors: [2], role: 'neutral' },
      { colors: [4], role: '' },
    ]);
    expect(backwards('group', all).map((b) => b.group)).toEqual(['Hull', 'Signals']);
  });
});

describe('a run of marks', () => {
  it('goes from the first to the second in the order shown, either way', () => {
    expect(runOf([5, 3, 9, 1], 3, 1)).toEqual([3, 9, 1]);
    expect(runOf([5, 3, 9, 1], 1, 3)).toEqual([3, 9, 1]);
    expect(runOf([5, 3], 9, 3)).toEqual([3]);
  });
});
