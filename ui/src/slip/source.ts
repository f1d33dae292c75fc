import type { components } from '../lib/api/schema';
import { notations } from '../lib/notations';

type Schema = components['schemas'];

/** A color as the slip shows it. */
export interface Patch {
  key: string;
  name: string;
  hex: string;
  rgb: number[];
  /** A CMYK build, and in words what it is for and where it comes from. */
  cmyk?: number[] | undefined;
  print?: string | undefined;
  /** The code of an ink, likewise. */
  ink?: string | undefined;
  spot?: string | undefined;
  also: string[];
  retired?: string | undefined;
}

/** What lies at an address of a slip. */
export interface Content {
  title: string;
  /** The others that one can choose from here, by their addresses. */
  others: { at: string; name: string }[];
  patches: Patch[];
  /** "Edition 2" at a pickup. */
  edition: string;
  /** When the server last said so, where that is not now. */
  seen?: Date | undefined;
}

/** Where a slip is: of a house, or of a pickup, and which set of it. */
export function place(path: string): { house?: number; token?: string; set?: number } | undefined {
  const m = /^\/slip\/(?:h\/(\d+)|p\/([^/]+))(?:\/(\d+))?$/.exec(path);
  return m ? { house: m[1] ? Number(m[1]) : undefined, token: m[2], set: m[3] ? Number(m[3]) : undefined } : undefined;
}

/** Why nothing is to be seen. */
export class Closed extends Error {}

async function ask<T>(path: string): Promise<{ body: T; seen?: Date | undefined }> {
  const answer = await fetch(path, { headers: { Accept: 'application/json' } }).catch(() => {
    throw new Closed('There is no network, and this was not seen before.');
  });
  if (answer.status === 401) throw new Closed('Nobody is signed in.');
  if (!answer.ok) {
    const problem = (await answer.json().catch(() => ({}))) as { title?: string };
    throw new Closed(problem.title ?? `The server answers with ${answer.status}.`);
  }
  const at = answer.headers.get('X-Seen');
  return { body: (await answer.json()) as T, seen: at ? new Date(at) : undefined };
}

/** Reads what lies at the address of a slip. */
export async function read(path: string): Promise<Content> {
  const at = place(path);
  if (at?.house) return ofHouse(at.house, at.set);
  if (at?.token) return ofPickup(at.token, at.set);
  throw new Closed('This address leads to no slip.');
}

const older = (a?: Date, b?: Date) => (a && b ? (a < b ? a : b) : (a ?? b));

async function ofHouse(house: number, set?: number): Promise<Content> {
  const [colors, sets] = await Promise.all([
    ask<Schema['Ledger']>(`/api/houses/${house}/colors`),
    ask<Schema['SwatchSet'][]>(`/api/houses/${house}/sets`),
  ]);
  const by = new Map(colors.body.colors.map((c) => [c.id, patchOf(c)]));
  const chosen = sets.body.find((s) => s.id === set);
  if (set && !chosen) throw new Closed('There is no such swatch set any more.');
  const patches = chosen ? chosen.colors.flatMap((c) => by.get(c.id) ?? []) : [...by.values()];
  return {
    title: chosen?.name ?? 'Library',
    others: [
      { at: `/slip/h/${house}`, name: 'Library' },
      ...sets.body.map((s) => ({ at: `/slip/h/${house}/${s.id}`, name: s.name })),
    ],
    patches,
    edition: '',
    seen: older(colors.seen, sets.seen),
  };
}

function patchOf(c: Schema['ColorRow']): Patch {
  return {
    key: String(c.id),
    name: c.name,
    hex: c.hex,
    rgb: c.rgb,
    cmyk: c.press.value,
    print: `${c.press.press}, ${c.press.origin}`,
    ink: c.ink.code,
    spot: `${c.ink.stock}, ${c.ink.origin}`,
    also: c.aliases,
    retired: c.status === 'retired' ? (c.successor ? `retired, use ${c.successor.name}` : 'retired') : undefined,
  };
}

async function ofPickup(token: string, set?: number): Promise<Content> {
  const { body, seen } = await ask<Schema['Pickup']>(`/api/p/${token}`);
  const chosen = body.sets.find((s) => s.id === set) ?? (set ? undefined : body.sets[0]);
  if (!chosen) throw new Closed(set ? 'This set does not lie here any more.' : 'Nothing lies here yet.');
  return {
    title: chosen.name,
    others: body.sets.map((s) => ({ at: s.id > 0 ? `/slip/p/${token}/${s.id}` : `/slip/p/${token}`, name: s.name })),
    patches: (chosen.colors ?? []).map((c, i) => ({
      key: `${i} ${c.name}`,
      name: c.name,
      hex: c.hex,
      rgb: c.rgb,
      cmyk: c.cmyk,
      print: c.press && `${c.press}, approved`,
      ink: c.spot,
      spot: c.stock && `${c.stock}, approved`,
      also: [],
    })),
    edition: chosen.edition > 0 ? `Edition ${chosen.edition}` : chosen.id > 0 ? 'No edition yet' : '',
    seen,
  };
}

/** A way to write a patch: whole, or number by number into one field each. */
export interface Writing {
  name: string;
  /** What is copied, one after the other; none where the color has no such value. */
  parts: (p: Patch) => string[];
  /** What is to be known of the value. */
  note?: (p: Patch) => string | undefined;
}

/** The ways to write, by the keys that the choice is kept under. */
export const writings: Record<string, Writing> = {
  ...Object.fromEntries(notations.hex.map((n, i) => [`hex${i}`, { name: n.name, parts: (p: Patch) => [n.write(p.rgb)] }])),
  ...Object.fromEntries(notations.rgb.map((n, i) => [`rgb${i}`, { name: n.name, parts: (p: Patch) => [n.write(p.rgb)] }])),
  numbers: { name: 'R, G, B apart', parts: (p) => p.rgb.map(String) },
  ...Object.fromEntries(
    notations.cmyk.map((n, i) => [
      `cmyk${i}`,
      { name: n.name, parts: (p: Patch) => (p.cmyk ? [n.write(p.cmyk)] : []), note: (p: Patch) => p.print },
    ]),
  ),
  inks: { name: 'C, M, Y, K apart', parts: (p) => p.cmyk?.map(String) ?? [], note: (p) => p.print },
  ink: { name: 'spot ink', parts: (p) => (p.ink ? [p.ink] : []), note: (p) => p.spot },
};

/** The patches that a text finds, by name, other name or the beginning of a value. */
export function findPatches(patches: Patch[], text: string): Patch[] {
  const wanted = text.trim().toLowerCase();
  if (!wanted) return patches;
  const hex = wanted.replace('#', '');
  return patches.filter(
    (p) =>
      [p.name, ...p.also].some((n) => n.toLowerCase().includes(wanted)) ||
      p.hex.slice(1).toLowerCase().startsWith(hex) ||
      p.ink?.toLowerCase().includes(wanted),
  );
}

/** What one looked at, to tell what changed since: the values by key. */
export type Seen = Record<string, string>;

export const seenOf = (patches: Patch[]): Seen =>
  Object.fromEntries(patches.map((p) => [p.key, [p.name, p.hex, p.cmyk?.join(' '), p.ink].join('|')]));

/** Which patches are new or other than they were; none where nothing was looked at. */
export function changedSince(before: Seen | undefined, patches: Patch[]): string[] {
  if (!before) return [];
  const now = seenOf(patches);
  return patches.filter((p) => before[p.key] !== now[p.key]).map((p) => p.key);
}

/** How many are not there any more. */
export const goneSince = (before: Seen | undefined, patches: Patch[]): number =>
  before ? Object.keys(before).filter((k) => !patches.some((p) => p.key === k)).length : 0;

/** How long ago something was, in words. */
export function ago(then: Date, now = new Date()): string {
  const minutes = Math.max(0, Math.round((now.getTime() - then.getTime()) / 60_000));
  const said = (n: number, what: string) => (n === 1 ? `1 ${what} ago` : `${n} ${what}s ago`);
  if (minutes < 1) return 'just now';
  if (minutes < 60) return said(minutes, 'minute');
  if (minutes < 48 * 60) return said(Math.round(minutes / 60), 'hour');
  return said(Math.round(minutes / (24 * 60)), 'day');
}
