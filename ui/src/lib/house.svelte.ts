import { createQuery } from '@tanstack/svelte-query';
import { api, need, type Schema } from './api/client';
import { route } from './router';
import { session } from './state.svelte';

export type Role = Schema['Role'];

/** What each role may, the least first; a higher one may all that a lower one may. */
export const mayAs: Record<Role, string> = {
  reader: 'looks, copies and downloads',
  contributor: 'gathers, proposes, audits and repaints, too',
  keeper: 'changes, approves, sends, and lets people in',
};
export const roles = Object.keys(mayAs) as Role[];
const reaches = (least: Role) => roles.indexOf(house.member?.role ?? 'reader') >= roles.indexOf(least);

/** The house of the address, and what the person may do in it. */
export const house = {
  get id() {
    return Number(route.params.house);
  },
  get member() {
    return session.now?.houses.find((h) => h.id === house.id);
  },
  get keeper() {
    return reaches('keeper');
  },
  get contributor() {
    return reaches('contributor');
  },
  path(rest: string) {
    return `/h/${house.id}/${rest}`;
  },
};

const here = () => ({ params: { path: { house: house.id } } });

export const useLedger = () =>
  createQuery(() => ({
    queryKey: ['ledger', house.id],
    queryFn: () => need(api.GET('/houses/{house}/colors', here())),
  }));

/** The roles of the house: four to begin with, and its own, which are those that its colors have. */
export function useRoles() {
  const ledger = useLedger();
  const list = $derived([
    ...new Set([
      'primary',
      'secondary',
      'accent',
      'neutral',
      ...(ledger.data?.colors ?? [])
        .map((c) => c.role)
        .filter(Boolean)
        .sort(),
    ]),
  ]);
  return {
    get list() {
      return list;
    },
  };
}

/** The rules about pairs; they are read anew with the ledger, since its values decide whether they hold. */
export const usePairs = () =>
  createQuery(() => ({
    queryKey: ['ledger', house.id, 'pairs'],
    queryFn: () => need(api.GET('/houses/{house}/pairs', here())),
  }));

export const useTray = () =>
  createQuery(() => ({ queryKey: ['tray', house.id], queryFn: () => need(api.GET('/houses/{house}/tray', here())) }));

export const useSets = () =>
  createQuery(() => ({ queryKey: ['sets', house.id], queryFn: () => need(api.GET('/houses/{house}/sets', here())) }));

export const useRecipients = () =>
  createQuery(() => ({
    queryKey: ['recipients', house.id],
    queryFn: () => need(api.GET('/houses/{house}/recipients', here())),
  }));

/** Suggested changes that wait for an answer: all of them for a keeper, a contributor's own. */
export const useSuggestions = () =>
  createQuery(() => ({
    queryKey: ['suggestions', house.id],
    queryFn: () => need(api.GET('/houses/{house}/suggestions', here())),
    enabled: house.contributor,
  }));

/** How much of each kind of input the server takes. */
export const useLimits = () =>
  createQuery(() => ({ queryKey: ['limits'], queryFn: () => need(api.GET('/limits')), staleTime: Infinity }));
