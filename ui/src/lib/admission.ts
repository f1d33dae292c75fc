import { api, need, type Schema } from './api/client';
import type { Done } from './change.svelte';
import { house } from './house.svelte';

/** What came of an admission, how it is undone, and the way to the new colors. */
export function admitted(done: Schema['Admitted']['colors'], there: number, set: string, undo?: () => Promise<unknown>): Done {
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
export async function takeBack(done: Schema['Admitted']['colors']) {
  for (const c of done) {
    const at = { params: { path: { house: house.id, color: c.id }, query: { version: 1 } } };
    await need(api.DELETE('/houses/{house}/colors/{color}', at));
  }
}
