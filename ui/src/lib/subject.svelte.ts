import { createQuery } from '@tanstack/svelte-query';
import { table } from '../stations/library/table.svelte';
import { api, need } from './api/client';
import { house, useLedger, useSets, useTray } from './house.svelte';

/** A color of a subject; one of the tray, and one of an edition, is not in the library as it is here. */
export interface Part {
  name: string;
  hex: string;
  id?: number;
}

/** What a proof looks at. */
export interface Subject {
  name: string;
  colors: Part[];
  /** Why there is nothing to look at, if there is not. */
  empty: string;
}

/** What can be a subject, by the word that the address carries. */
export interface Choice {
  key: string;
  name: string;
}

/** The subject that the address names: set-3, set-3-2 for its edition 2, tray, marked or approved. */
export function useSubject(key: () => string) {
  const ledger = useLedger();
  const sets = useSets();
  const tray = useTray();
  const parts = $derived(/^set-(\d+)(?:-(\d+))?$/.exec(key()));
  const set = $derived(parts ? sets.data?.find((s) => s.id === Number(parts[1])) : undefined);
  const number = $derived(Number(parts?.[2] ?? 0));
  const edition = createQuery(() => ({
    queryKey: ['edition', house.id, set?.id, number],
    queryFn: () =>
      need(
        api.GET('/houses/{house}/sets/{set}/editions/{number}', {
          params: { path: { house: house.id, set: set?.id ?? 0, number } },
        }),
      ),
    enabled: set !== undefined && number > 0,
    staleTime: Infinity, // an edition never changes
  }));
  const library = $derived(ledger.data?.colors ?? []);

  const now = $derived.by((): Subject | undefined => {
    switch (key()) {
      case 'tray':
        return (
          tray.data && {
            name: 'The tray',
            colors: tray.data.map((c) => ({ name: c.name || c.hex, hex: c.hex })),
            empty: 'The tray is empty.',
          }
        );
      case 'marked':
        return {
          name: 'Marked colors',
          colors: library.filter((c) => table.marked[c.id]),
          empty: 'No color is marked in the Library.',
        };
      case 'approved':
        return (
          ledger.data && {
            name: 'All approved colors',
            colors: library.filter((c) => c.status === 'approved'),
            empty: 'The library has no approved color yet.',
          }
        );
    }
    if (sets.data && !set) return { name: '', colors: [], empty: 'There is no such swatch set; choose another subject.' };
    if (!set) return undefined;
    if (number === 0) return { name: set.name, colors: set.colors, empty: `The swatch set ${set.name} is empty.` };
    if (edition.error)
      return { name: '', colors: [], empty: `The swatch set ${set.name} has no edition ${number}; choose another subject.` };
    return edition.data && { name: `${set.name}, edition ${number}`, colors: edition.data.colors, empty: 'This edition is empty.' };
  });

  const choices = $derived([
    ...(sets.data ?? []).flatMap((s): Choice[] => [
      { key: `set-${s.id}`, name: `${s.name}, as it is now` },
      ...s.editions.map((e) => ({ key: `set-${s.id}-${e.number}`, name: `${s.name}, edition ${e.number}` })),
    ]),
    { key: 'approved', name: 'all approved colors' },
    { key: 'marked', name: 'marked colors' },
    { key: 'tray', name: 'the tray' },
  ]);

  return {
    get now() {
      return now;
    },
    get choices() {
      return choices;
    },
    /** The subject that one most likely means: the first set that holds something, else all that is approved. */
    get first() {
      if (!sets.data) return undefined;
      const s = sets.data.find((s) => s.colors.length > 1);
      return s ? `set-${s.id}` : 'approved';
    },
    get library() {
      return library;
    },
  };
}
