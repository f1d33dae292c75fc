import { way, type Way } from './back';
import type { Schema } from './api/client';
import type { Done } from './change.svelte';
import { house } from './house.svelte';

/** What came of an admission, how it is undone, and the way to the new colors. */
export function admitted(
  done: Pick<Schema['Admitted'], 'colors' | 'renewed' | 'suggested'>,
  there: number,
  set: string,
  undo?: Way[],
): Done {
  const [first] = done.colors;
  const renewed = done.renewed ?? [];
  const few = (list: { name: string }[]) => (list.length === 1 ? list[0]!.name : `${list.length} colors`);
  const parts = [
    renewed.length > 0 && `${few(renewed)} changed`,
    done.suggested && `${done.suggested === 1 ? 'a new value' : `${done.suggested} new values`} suggested; a keeper decides`,
    first && few(done.colors) + (house.keeper ? ' admitted to the library' : ' proposed; a keeper approves'),
  ].filter(Boolean);
  const where = set ? `, and on the swatch set ${set}` : '';
  const show = first ?? renewed[0];
  return {
    said: `${parts.join('; ') || 'Nothing new'}${where}${there > 0 ? `; ${there} there already` : ''}`,
    next: show && {
      name: done.colors.length + renewed.length === 1 ? 'show it' : 'show the first',
      href: house.path(`library/${show.id}`),
    },
    undo: show && house.keeper ? undo : undefined,
  };
}

/** Gives colors back what they were before they took on values. */
export const renewedBack = (done: Schema['RenewedColor'][] = []): Way[] => {
  const colors = done.map((c) => ({ color: c.id, version: c.version, event: c.event }));
  const params = { path: { house: house.id } };
  return colors.length === 0 ? [] : [way('post', '/houses/{house}/colors/back', { params, body: { colors } })];
};

/** Takes colors back that were just admitted, as they were admitted: what was changed since stays. */
export const takeBack = (done: Schema['Admitted']['colors']): Way[] =>
  done.map((c) =>
    way('delete', '/houses/{house}/colors/{color}', { params: { path: { house: house.id, color: c.id }, query: { version: 1 } } }),
  );
