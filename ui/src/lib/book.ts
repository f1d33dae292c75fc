import { api, need } from './api/client';
import { engine } from './engine';

/** Gives the core in the browser the ink book of a house. Asked before each use: a worker that was stopped has forgotten it. */
export async function useBook(house: number) {
  const b = await need(api.GET('/houses/{house}/ink-book', { params: { path: { house } } }));
  await engine.ask('book', b.own ? { name: b.name, csv: b.csv, meant: b.meant } : { name: '', csv: '', meant: b.meant });
}
