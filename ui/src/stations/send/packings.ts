import { createQuery } from '@tanstack/svelte-query';
import { api, need, type Schema } from '../../lib/api/client';
import { fits } from '../../lib/fits';
import { house } from '../../lib/house.svelte';

/** Everything that an edition can be packed as, with what most recipients of each kind take in this house. */
export const usePackings = () =>
  createQuery(() => ({
    queryKey: ['packings', house.id],
    queryFn: () => need(api.GET('/houses/{house}/packings', { params: { path: { house: house.id } } })),
    staleTime: 60_000,
  }));

/** How files are loaded, in the words that ship and in the house's. */
export const useLoading = () =>
  createQuery(() => ({
    queryKey: ['loading', house.id],
    queryFn: () => need(api.GET('/houses/{house}/loading', { params: { path: { house: house.id } } })),
  }));

/** What recipients could not load and nobody settled. */
export const useTroubles = () =>
  createQuery(() => ({
    queryKey: ['recipients', house.id, 'troubles'],
    queryFn: () => need(api.GET('/houses/{house}/troubles', { params: { path: { house: house.id } } })),
    enabled: house.keeper,
  }));

/** Kinds of applications, in the order in which they are offered. */
export const uses = [
  { key: 'any', name: 'All in one, and to key in' },
  { key: 'office', name: 'Office suites' },
  { key: 'drawing', name: 'Drawing programs and tables' },
  { key: 'print', name: 'Print' },
  { key: 'web', name: 'Web' },
  { key: 'video', name: 'Video' },
  { key: 'client', name: 'To look at' },
];

/** Whether a packing is what somebody calls by these words: "slides", "captions", ".css". */
export function called(p: Schema['Packing'], words: string): boolean {
  return fits(words, p.label, p.name, p.extension, uses.find((u) => u.key === p.for)?.name, ...p.words);
}

/** The open links for anybody. */
export const usePublic = () =>
  createQuery(() => ({
    queryKey: ['public', house.id],
    queryFn: () => need(api.GET('/houses/{house}/public', { params: { path: { house: house.id } } })),
    enabled: house.keeper,
  }));

const inDays = (n: number) => () => {
  const end = new Date();
  end.setDate(end.getDate() + n);
  end.setHours(23, 59, 59, 0);
  return end.toISOString();
};

/** Until when a public link is open. */
export const untils: { name: string; at: () => string | undefined }[] = [
  { name: 'for good', at: () => undefined },
  { name: 'for a week', at: inDays(7) },
  { name: 'for a month', at: inDays(31) },
  { name: 'for a year', at: inDays(365) },
];
