import { inAddress } from '../../lib/address.svelte';
import type { Schema } from '../../lib/api/client';
import { engine, newest } from '../../lib/engine';
import { house } from '../../lib/house.svelte';
import { choose, findable } from './shown';
import { orders, table } from './table.svelte';

/** What the ledger is narrowed to: words, a role, a status, closeness to a color; and what of all colors it shows then. Here says whether
 * the ledger is what is looked at. */
export function useNarrowing(all: () => Schema['ColorRow'][], here: () => boolean) {
  let filter = $state('');
  // The address has what the list is narrowed to, and the marks.
  inAddress(
    () => (here() ? house.path('library') : 'nowhere'), // other views are not narrowed
    () => ({
      words: filter,
      order: table.sort === 'hand' ? '' : table.sort,
      role: table.role,
      status: table.status,
      close: table.close,
      marked: all()
        .filter((c) => table.marked[c.id])
        .slice(0, 200)
        .map((c) => c.id)
        .join(','),
    }),
    (key, value) => {
      if (key === 'words') filter = value;
      else if (key === 'order') table.sort = orders.find((o) => o === value) ?? 'hand';
      else if (key === 'marked') for (const id of value.split(',')) table.marked[Number(id)] = true;
      else if (key === 'role' || key === 'status' || key === 'close') table[key] = value;
    },
  );

  // What can be found of each color, put together once and not at every key.
  const texts = $derived(all().map(findable));

  // "Close to": the distance of every color from the one typed, computed by the core.
  let far = $state.raw<{ deltaE: number; word: string }[] | null>(null);
  let farProblem = $state('');
  const measure = newest(
    async (a: { value: string; among: string[] }) =>
      a.value ? (await engine.ask('apart', { values: [a.value], among: a.among }))[0]! : null,
    (r) => ([far, farProblem] = [r, '']),
    (e) => ([far, farProblem] = [null, `${e.message}.`]),
  );
  $effect(() => {
    const typed = table.close.trim();
    const named = all().find((c) => c.name.toLowerCase() === typed.toLowerCase());
    measure({ value: named?.hex ?? typed, among: all().map((c) => c.hex) });
  });
  const shown = $derived(
    choose(all(), () => texts, { words: filter, role: table.role, status: table.status, sort: table.sort, far }),
  );

  // What the list is narrowed to or ordered by, if it is not the whole library by hand.
  const narrowed = $derived(
    [
      table.sort !== 'hand' && `by ${table.sort}`,
      table.role,
      table.status === 'draft' ? 'proposed' : table.status,
      table.close.trim() && `close to ${table.close}`,
    ]
      .filter(Boolean)
      .join(', ') || 'order and choice',
  );
  function showAll() {
    filter = '';
    table.close = '';
    table.role = '';
    table.status = '';
    table.sort = 'hand';
  }

  return {
    get words() {
      return filter;
    },
    set words(to: string) {
      filter = to;
    },
    get shown() {
      return shown;
    },
    /** What it is narrowed to or ordered by, in words. */
    get said() {
      return narrowed;
    },
    /** Why nothing is close to what was typed. */
    get problem() {
      return farProblem;
    },
    showAll,
  };
}

export type Narrowing = ReturnType<typeof useNarrowing>;
