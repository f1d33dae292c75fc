import type { FetchOptions } from 'openapi-fetch';
import type { FilterKeys, HttpMethod, PathsWithMethod } from 'openapi-typescript-helpers';
import { api, need, Problem, type Schema } from './api/client';
import type { paths } from './api/schema';
import { house } from './house.svelte';

/** One request of the way back from a change. It can be kept: a reload does not lose it. */
export interface Way {
  method: HttpMethod;
  path: string;
  init: unknown;
  /** What a GET has to answer still, part by part, or the way is barred: somebody changed it since. */
  still?: Record<string, unknown>;
}

/**
 * A request of the way back. Those of things with versions name the one that the change made, so that nobody's later change is written
 * over.
 */
export const way = <M extends HttpMethod, P extends PathsWithMethod<paths, M>>(
  method: M,
  path: P,
  init: FetchOptions<FilterKeys<paths[P], M>>,
): Way => ({ method, path, init: JSON.parse(JSON.stringify(init)) });

/** Bars the way back where something without a version is not any more what the change made of it. */
export const still = <P extends PathsWithMethod<paths, 'get'>>(
  path: P,
  init: FetchOptions<FilterKeys<paths[P], 'get'>>,
  parts: object,
): Way => ({ ...way('get', path, init), still: JSON.parse(JSON.stringify(parts)) });

type Any = (method: string, path: string, init: unknown) => Promise<{ data?: unknown; response: Response }>;

/** Goes the way back, one request after the other. */
export async function goBack(ways: Way[]): Promise<void> {
  for (const w of ways) {
    const got = await need((api.request as unknown as Any)(w.method, w.path, w.init));
    const now = (got ?? {}) as Record<string, unknown>;
    for (const [part, was] of Object.entries(w.still ?? {}))
      if (JSON.stringify(now[part]) !== JSON.stringify(was))
        throw new Problem('It was changed since then.', 409, undefined, [], 'changed-meanwhile');
  }
}

/**
 * Makes a color what it was before a change of it: as its history has it. None where the history does not hold it whole, or for
 * contributors.
 */
export function colorBack(was: Schema['ColorSheet'], now: { version: number }): Way[] | undefined {
  const event = was.history[0];
  if (!event?.kept || !house.keeper) return undefined;
  const path = { house: house.id, color: was.row.id };
  return [
    way('post', '/houses/{house}/colors/{color}/back', { params: { path }, body: { version: now.version, event: event.id } }),
  ];
}

/** Gives sets the colors back that they had before a change of several things. */
export async function setsBack(before: Schema['SwatchSet'][] | undefined): Promise<Way[]> {
  const now = await need(api.GET('/houses/{house}/sets', { params: { path: { house: house.id } } }));
  return now.flatMap((s) => {
    const was = before?.find((o) => o.id === s.id);
    const colors = was?.colors.map((c) => c.id) ?? [];
    if (!was || String(colors) === String(s.colors.map((c) => c.id))) return [];
    const body = { name: s.name, version: s.version, colors };
    return [way('put', '/houses/{house}/sets/{set}', { params: { path: { house: house.id, set: s.id } }, body })];
  });
}
