import { describe, expect, it } from 'vitest';
import type { Schema } from '../../lib/api/client';
import { of, standing, urgent } from './send';

const holding = (h: Partial<Schema['Holding']>): Schema['Holding'] => ({
  recipient: 1,
  name: 'Film crew',
  kind: 'video',
  packings: [],
  ways: [],
  state: 'current',
  set: 1,
  setName: 'Core',
  current: 3,
  steps: 0,
  ...h,
});

describe('how a recipient stands', () => {
  it.each([
    [{ state: 'never' }, 'holds no edition'],
    [{ state: 'never', current: 0 }, 'nothing fixed yet'],
    [{ state: 'current', edition: 3 }, 'holds edition 3'],
    [{ state: 'behind', edition: 2, steps: 1 }, 'behind: holds edition 2'],
    [{ state: 'behind', edition: 1, steps: 2 }, '2 editions behind: holds edition 1'],
    [{ state: 'paused', edition: 1 }, 'paused; holds edition 1'],
    [{ state: 'paused' }, 'paused'],
    [{ state: 'failed', edition: 1 }, 'the last sending was not taken'],
  ] as [Partial<Schema['Holding']>, string][])('%j: %s', (h, words) => expect(standing(holding(h))).toBe(words));

  it('waits for what is on its way', () => {
    const receipt = { edition: 3, taken: 0, slots: 0, at: '', message: '', ok: false };
    expect(standing(holding({ state: 'waiting', receipt }))).toBe('was sent edition 3, nothing came back yet');
  });

  it('is urgent only where somebody should act', () => {
    const states = ['never', 'waiting', 'current', 'behind', 'failed', 'paused'] as const;
    expect(states.filter((state) => urgent(holding({ state })))).toEqual(['behind', 'failed']);
  });

  it('counts in words', () => expect([of(1, 'edition'), of(2, 'edition')]).toEqual(['1 edition', '2 editions']));
});
