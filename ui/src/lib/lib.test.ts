import { describe, expect, it } from 'vitest';
import { moved } from './drag';
import { Left } from './left';
import { newest } from './newest';
import { bytes, notations } from './notations';

describe('notations', () => {
  const written = (kind: keyof typeof notations, value: number[]) => notations[kind].map((n) => n.write(value));

  it('writes a value in each way that its name shows', () => {
    expect(written('hex', [14, 58, 83])).toEqual(notations.hex.map((n) => n.name));
    expect(written('rgb', [14, 58, 83])).toEqual(notations.rgb.map((n) => n.name));
    expect(written('cmyk', [96, 50, 20, 64])).toEqual(notations.cmyk.map((n) => n.name));
  });

  it('keeps the zeros of hex', () => expect(written('hex', [0, 1, 10])).toEqual(['#00010A', '#00010a', '00010A']));

  it('writes sizes as the server does', () => {
    expect([999, 1000, 104_857_600, 2e9].map(bytes)).toEqual(['999 bytes', '1.0 KB', '104.9 MB', '2.0 GB']);
  });
});

describe('how long it takes yet', () => {
  const told = (...seen: [share: number | undefined, seconds: number][]) => {
    const left = new Left();
    return seen.map(([share, seconds]) => left.words(share, 1000 * seconds)).at(-1);
  };

  it('is not foretold of too little', () => {
    expect(told([0, 0], [0.5, 2])).toBe('');
    expect(told([0, 0], [0.02, 30])).toBe('');
    expect(told([undefined, 0], [0.5, 20])).toBe('');
    expect(told([0, 0], [1, 30])).toBe('');
  });

  it('follows from how fast it went', () => {
    expect(told([0, 0], [0.5, 30])).toBe('about 30 seconds left');
    expect(told([0.4, 0], [0.5, 10])).toBe('about 50 seconds left');
    expect(told([0, 0], [0.5, 62])).toBe('about a minute left');
    expect(told([0, 0], [0.1, 60])).toBe('about 9 minutes left');
    expect(told([0, 0], [0.05, 1200])).toBe('about 6 hours left');
    expect(told([0, 0], [0.95, 30])).toBe('');
  });

  it('begins anew with another work', () => expect(told([0, 0], [0.9, 30], [0.1, 31], [0.2, 35])).toBe(''));
});

describe('dragging', () => {
  it('gives an item the place of the one it is let go on', () => {
    expect(moved(['a', 'b', 'c', 'd'], 'a', 'c')).toEqual(['b', 'c', 'a', 'd']);
    expect(moved(['a', 'b', 'c', 'd'], 'd', 'b')).toEqual(['a', 'd', 'b', 'c']);
    expect(moved(['a', 'b'], 'b', 'b')).toEqual(['a', 'b']);
  });
});

describe('asking for the newest only', () => {
  it('drops what was asked in between', async () => {
    const asked: number[] = [];
    const got: number[] = [];
    let let_go: () => void = () => undefined;
    const ask = newest(
      async (n: number) => {
        asked.push(n);
        await new Promise<void>((r) => (let_go = r));
        return n;
      },
      (n) => got.push(n),
      () => undefined,
    );
    for (const n of [1, 2, 3]) ask(n);
    let_go();
    await new Promise((r) => setTimeout(r));
    let_go();
    await new Promise((r) => setTimeout(r));
    expect([asked, got]).toEqual([
      [1, 3],
      [1, 3],
    ]);
  });
});
