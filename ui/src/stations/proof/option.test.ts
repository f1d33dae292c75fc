import { describe, expect, it } from 'vitest';
import type { Schema } from '../../lib/api/client';
import { exchanged, letter, painted, roles, ruled, type Option } from './option';

const paint = (name: string, hex: string, id?: number) => ({ name, hex, ...(id ? { id } : {}) });
const sound = paint('Deep Sound', '#0E3A53', 1);
const white = paint('Hull White', '#F7F5F0', 2);
const lamp = paint('Lamp', '#F2B632', 3);
const fog = paint('Fog', '#C9D1D3', 4);
const option: Option = { ground: sound, type: white, accents: [lamp, fog], typeface: 'spectral', size: 'medium', logo: false };

describe('an option', () => {
  it('names its places, the first accent as the button', () => {
    expect(roles(option).map((r) => `${r.key} ${r.name} ${r.paint.name}`)).toEqual([
      'ground ground Deep Sound',
      'type type Hull White',
      'accent0 button Lamp',
      'accent1 accent Fog',
    ]);
    expect(roles({ ...option, outline: fog }).map((r) => r.key)).toContain('outline');
  });

  it('takes another color in one place and stays as it was', () => {
    expect(painted(option, 'type', lamp).type).toBe(lamp);
    expect(painted(option, 'outline', lamp).outline).toBe(lamp);
    expect(painted(option, 'accent1', sound).accents).toEqual([lamp, sound]);
    expect(option.accents).toEqual([lamp, fog]);
  });

  it('exchanges ground and type, and back', () => {
    expect(exchanged(option).ground).toBe(white);
    expect(exchanged(exchanged(option))).toEqual(option);
  });

  it('is named by its place', () => {
    expect([0, 1, 7].map(letter)).toEqual(['A', 'B', 'H']);
  });

  it('knows the rules about its pairs, by their values', () => {
    const rule = (color: typeof sound, ground: typeof sound, may: boolean) =>
      ({ color, ground, may, says: '', least: 4.5, ratio: 5, holds: true, by: '', at: '' }) as unknown as Schema['PairRule'];
    const rules = [rule(white, sound, true), rule(sound, lamp, false), rule(lamp, sound, true), rule(fog, white, false)];
    const parts = [{ key: 'button', type: sound.hex, on: lamp.hex, ratio: 6, need: 4.5, passes: true }] as Schema['BoardPart'][];
    expect(ruled(option, parts, rules)).toEqual([rules[0], rules[1]]);
    expect(ruled(option, [], rules)).toEqual([rules[0]]);
  });
});
