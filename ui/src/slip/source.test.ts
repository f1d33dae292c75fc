import { describe, expect, it } from 'vitest';
import { ago, changedSince, findPatches, goneSince, place, seenOf, writings, type Patch } from './source';

const patch = (name: string, hex: string, more: Partial<Patch> = {}): Patch => ({
  key: name,
  name,
  hex,
  rgb: [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)),
  also: [],
  ...more,
});
const sound = patch('Deep Sound', '#0E3A53', {
  cmyk: [96, 50, 20, 64],
  print: 'coated, approved',
  also: ['Hull blue'],
  ink: 'QN-0453',
});
const fog = patch('Fog', '#C9D1D3');

describe('the slip', () => {
  it('knows its addresses', () => {
    expect(place('/slip/h/3')).toEqual({ house: 3, token: undefined, set: undefined });
    expect(place('/slip/h/3/12')).toEqual({ house: 3, token: undefined, set: 12 });
    expect(place('/slip/p/abc-DEF_1/2')).toEqual({ house: undefined, token: 'abc-DEF_1', set: 2 });
    for (const other of ['/slip/', '/slip/h/x', '/slip/h/3/4/5', '/h/3']) expect(place(other)).toBeUndefined();
  });

  it('writes a color whole or number by number, and nothing where there is nothing', () => {
    const said = (p: Patch) => Object.fromEntries(Object.entries(writings).map(([key, w]) => [key, w.parts(p).join('+')]));
    expect(said(sound)).toEqual({
      hex0: '#0E3A53',
      hex1: '#0e3a53',
      hex2: '0E3A53',
      rgb0: '14 58 83',
      rgb1: '14, 58, 83',
      rgb2: 'rgb(14 58 83)',
      numbers: '14+58+83',
      cmyk0: '96 50 20 64',
      cmyk1: '96/50/20/64',
      cmyk2: 'C96 M50 Y20 K64',
      inks: '96+50+20+64',
      ink: 'QN-0453',
    });
    expect(said(fog)).toMatchObject({ cmyk0: '', inks: '', ink: '', numbers: '201+209+211' });
  });

  it('finds by name, other name, beginning of the hex and ink', () => {
    const names = (text: string) => findPatches([sound, fog], text).map((p) => p.name);
    expect(names('')).toEqual(['Deep Sound', 'Fog']);
    expect([names('SOUND'), names(' hull'), names('#0e3'), names('c9d1'), names('qn-0453'), names('red')]).toEqual([
      ['Deep Sound'],
      ['Deep Sound'],
      ['Deep Sound'],
      ['Fog'],
      ['Deep Sound'],
      [],
    ]);
  });

  it('says what is other than when one looked', () => {
    const before = seenOf([sound, fog]);
    expect(changedSince(undefined, [sound])).toEqual([]);
    expect(changedSince(before, [fog, sound])).toEqual([]);
    expect(changedSince(before, [{ ...sound, hex: '#0E3A54' }, fog, patch('Lamp', '#F2B632')])).toEqual(['Deep Sound', 'Lamp']);
    expect([goneSince(before, [fog]), goneSince(undefined, [])]).toEqual([1, 0]);
  });

  it('says how old it is', () => {
    const now = new Date('2026-12-01T12:00:00Z');
    const said = (minutes: number) => ago(new Date(now.getTime() - minutes * 60_000), now);
    expect([0, 1, 59, 60, 47 * 60, 49 * 60, 5 * 24 * 60].map(said)).toEqual([
      'just now',
      '1 minute ago',
      '59 minutes ago',
      '1 hour ago',
      '47 hours ago',
      '2 days ago',
      '5 days ago',
    ]);
  });
});
