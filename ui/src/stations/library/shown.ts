import type { Schema } from '../../lib/api/client';

// Which colors the ledger shows, and in which order.

type Row = Schema['ColorRow'];
type Far = { deltaE: number; word: string };

export interface Shown {
  color: Row;
  far?: Far; // from the color that "close to" names
}

/** A row of the ledger, or the group above the rows that follow. */
export type Item = { group: string } | Shown;

export interface Wanted {
  words: string;
  role: string; // empty for any
  status: string;
  sort: 'hand' | 'hue' | 'lightness' | 'name' | 'newest';
  far: Far[] | null; // of each color, where "close to" was asked
}

/** Everything that a color can be found by, in small letters. */
export function findable(c: Row): string {
  const words = [
    c.name,
    ...c.aliases,
    ...c.tags,
    c.group,
    c.role,
    c.rule,
    c.status,
    c.hex,
    ...c.rgb,
    c.press.text,
    c.ink.code,
    c.ink.name,
  ];
  return words.join(' ').toLowerCase();
}

/** How far "close to" looks, in ΔE00. */
export const closeLimit = 15;

// Grays have no hue worth sorting by; they stand behind the colors.
const gray = (s: Shown) => (s.color.oklch[1]! < 0.02 ? 1 : 0);

const orders: Record<Exclude<Wanted['sort'], 'hand'>, (a: Shown, b: Shown) => number> = {
  hue: (a, b) => gray(a) - gray(b) || a.color.oklch[2]! - b.color.oklch[2]!,
  lightness: (a, b) => b.color.oklch[0]! - a.color.oklch[0]!,
  name: (a, b) => a.color.name.localeCompare(b.color.name, 'en'),
  newest: (a, b) => b.color.added.localeCompare(a.color.added) || b.color.id - a.color.id,
};

/**
 * The colors that are wanted, in the order that is wanted; texts gives what each can be found by, which is put together when it is
 * asked for first.
 */
export function choose(all: Row[], texts: () => string[], want: Wanted): Shown[] {
  const words = want.words.toLowerCase().split(/\s+/).filter(Boolean);
  const text = words.length > 0 ? texts() : [];
  const far = want.far?.length === all.length ? want.far : null; // it may belong to the list of before
  const out: Shown[] = [];
  all.forEach((color, i) => {
    if (want.role && color.role !== want.role) return;
    if (want.status && color.status !== want.status) return;
    if (far && far[i]!.deltaE > closeLimit) return;
    if (!words.every((w) => text[i]!.includes(w))) return;
    out.push({ color, far: far?.[i] });
  });
  if (far) return out.sort((a, b) => a.far!.deltaE - b.far!.deltaE);
  return want.sort === 'hand' ? out : out.sort(orders[want.sort]);
}

/** Puts the name of each group above its colors. */
export function underGroups(list: Shown[]): Item[] {
  const out: Item[] = [];
  let group: string | undefined;
  for (const s of list) {
    if (s.color.group !== group) {
      group = s.color.group;
      out.push({ group });
    }
    out.push(s);
  }
  return out;
}

/** The ids from one to another in the order in which they are shown, both with them; the second alone where the first is not shown. */
export function runOf(shown: number[], from: number, to: number): number[] {
  const [a, b] = [shown.indexOf(from), shown.indexOf(to)];
  return a < 0 || b < 0 ? [to] : shown.slice(Math.min(a, b), Math.max(a, b) + 1);
}
