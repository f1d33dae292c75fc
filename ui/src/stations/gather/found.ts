import type { Schema } from '../../lib/api/client';

export type InFile = Schema['ColorInFile'];

/** A color that one or several files hold. */
export interface FoundRow {
  key: string;
  color: InFile;
  files: string[];
  /**
   * What is taken only if one says so: a slot of a theme, or another name that says nothing, which the file does not use while it uses
   * others; what a document paints with beside the colors that it writes down; what only its pictures show.
   */
  idle: boolean;
}

export type Order = 'use' | 'file' | 'light';

/** What tells colors of files apart: what decides them, and for a screen its value. */
const value = (c: InFile) => c.master?.value ?? c.hex;

/** The rows of a file, in its order. */
export function rowsOf(file: string, n: number, found: Schema['FoundFile']): FoundRow[] {
  const using = found.colors.some((c) => c.uses);
  const beside = found.colors.some((c) => !c.picture);
  const written = found.colors.some((c) => c.written);
  return found.colors.map((color, i) => ({
    key: `${n} ${i}`,
    color,
    files: [file],
    idle: written ? !color.written : (using && color.generic && !color.uses) || (!!color.picture && beside),
  }));
}

/** The rows of several files as one: each value once, with all of its uses, under the first name that says something. */
export function together(lists: FoundRow[][]): FoundRow[] {
  const by = new Map<string, FoundRow>();
  for (const row of lists.flat()) {
    const had = by.get(value(row.color));
    if (!had) {
      by.set(value(row.color), { ...row, color: { ...row.color }, files: [...row.files] });
      continue;
    }
    const [a, b] = [had.color, row.color];
    if (a.generic && !b.generic) [a.name, a.generic] = [b.name, false];
    a.picture &&= b.picture;
    a.uses = (a.uses ?? 0) + (b.uses ?? 0) || undefined;
    a.places = (a.places ?? 0) + (b.places ?? 0) || undefined;
    a.where = [...(a.where ?? []), ...(b.where ?? [])].slice(0, 3);
    a.cmyk ??= b.cmyk;
    a.spot ??= b.spot;
    had.idle &&= row.idle;
    if (!had.files.includes(row.files[0]!)) had.files.push(...row.files);
  }
  return [...by.values()];
}

/** How light a hex looks, for an order: relative luminance. */
function light(hex: string): number {
  const linear = [1, 3, 5].map((i) => {
    const v = parseInt(hex.slice(i, i + 2), 16) / 255;
    return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * linear[0]! + 0.7152 * linear[1]! + 0.0722 * linear[2]!;
}

/** The rows in an order; equal ones stay as they were. */
export function ordered(rows: FoundRow[], order: Order): FoundRow[] {
  const by = {
    use: (a: FoundRow, b: FoundRow) =>
      Number(!!a.color.picture) - Number(!!b.color.picture) || (b.color.uses ?? 0) - (a.color.uses ?? 0),
    light: (a: FoundRow, b: FoundRow) => light(b.color.hex) - light(a.color.hex),
    file: () => 0,
  }[order];
  return [...rows].sort(by);
}

/** A name for a set, of the name of a file: without its folder and ending, as words. */
export function setName(file: string): string {
  const words = file
    .replace(/^.*[\\/]/, '')
    .replace(/\.[a-z0-9]{1,8}$/i, '')
    .replace(/[_\-.+ ]+/g, ' ')
    .trim();
  return words.length < 2 ? '' : (words[0]!.toUpperCase() + words.slice(1)).slice(0, 60).trim();
}
