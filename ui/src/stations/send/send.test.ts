import { describe, expect, it } from 'vitest';
import type { Schema } from '../../lib/api/client';
import { of, outcome, standing, urgent } from './send';

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
    [{ state: 'unconfirmed', sent: 2, steps: 1 }, 'behind: was sent edition 2, and never said that it is loaded'],
    [{ state: 'paused', edition: 1 }, 'paused; holds edition 1'],
    [{ state: 'paused' }, 'paused'],
    [{ state: 'failed', edition: 1 }, 'the last sending was not taken'],
  ] as [Partial<Schema['Holding']>, string][])('%j: %s', (h, words) => expect(standing(holding(h))).toBe(words));

  it('waits for what is on its way', () => {
    const receipt = { edition: 3, taken: 0, slots: 0, at: '', message: '', ok: false };
    expect(standing(holding({ state: 'waiting', sent: 3, receipt }))).toBe('was sent edition 3, nothing came back yet');
    expect(standing(holding({ state: 'waiting', sent: 3, receipt: { ...receipt, way: 'pickup', packing: 'css' } }))).toBe(
      'fetched edition 3, and has not said that it is loaded',
    );
  });

  it('tells who is open after a sending', () => {
    const set = (...recipients: Schema['Holding'][]) => [{ recipients }];
    const a = holding({ recipient: 1, name: 'A' });
    const b = holding({ recipient: 2, name: 'B', state: 'waiting' });
    expect(outcome(set(a), [1])).toBe('Sent to 1 recipient; everybody is current');
    expect(outcome(set(a, b), [1, 2])).toBe('Sent to 2 recipients; not confirmed yet by B');
    expect(
      outcome(
        set(a, b, holding({ recipient: 3, name: 'C', state: 'never' }), holding({ recipient: 4, name: 'D', state: 'unconfirmed' })),
        [1],
      ),
    ).toBe('Sent to 1 recipient; still behind: D; not confirmed before by B; never sent to C');
    expect(outcome(set(a, holding({ recipient: 5, name: 'E', state: 'failed' })), [1, 5])).toBe(
      'Sent to 2 recipients; not taken by E',
    );
  });

  it('is urgent only where somebody should act', () => {
    const states = ['never', 'waiting', 'unconfirmed', 'current', 'behind', 'failed', 'paused'] as const;
    expect(states.filter((state) => urgent(holding({ state })))).toEqual(['unconfirmed', 'behind', 'failed']);
  });

  it('counts in words', () => expect([of(1, 'edition'), of(2, 'edition')]).toEqual(['1 edition', '2 editions']));
});
