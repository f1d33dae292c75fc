import { way, type Way } from './back';
import type { Schema } from './api/client';
import type { Done } from './change.svelte';
import { house } from './house.svelte';

/** What came of an admission, how it is undone, and the way to the new colors. */
export function admitted(done: Schema['Admitted']['colors'], there: number, set: string, undo?: Way[]): Done {
  const [first] = done;
  const what = !first ? 'Nothing new' : done.length === 1 ? first.name : `${done.length} colors`;
  const how = !first ? '' : house.keeper ? ' admitted to the library' : ' proposed; a keeper approves';
  const where = set ? `, and on the swatch set ${set}` : '';
  return {
    said: `${what}${how}${where}${there > 0 ? `; ${there} there already` : ''}`,
    next: first && { name: done.length === 1 ? 'show it' : 'show the first', href: house.path(`library/${first.id}`) },
    undo: first && house.keeper ? undo : undefined,
  };
}

/** Takes colors back that were just admitted, as they were admitted: what was changed since stays. */
export const takeBack = (done: Schema['Admitted']['colors']): Way[] =>
  done.map((c) =>
    way('delete', '/houses/{house}/colors/{color}', { params: { path: { house: house.id, color: c.id }, query: { version: 1 } } }),
  );
