import { createQuery } from '@tanstack/svelte-query';
import { api, need, type Schema } from '../../lib/api/client';
import { colorBack, setsBack, way } from '../../lib/back';
import { useChange } from '../../lib/change.svelte';
import { house } from '../../lib/house.svelte';
import { navigate } from '../../lib/router';

/** What of a color is being typed on its sheet. */
export type Editing = '' | 'value' | 'hex' | 'about' | 'cmyk' | 'retire' | 'name' | 'merge';

/** A color's sheet as its parts share it: the color, what of it is being typed, and what can be done with it. Each act tells whether it
 * was done. */
export function useSheet(id: () => number) {
  const at = () => ({ house: house.id, color: id() });
  const sheet = createQuery(() => ({
    queryKey: ['sheet', house.id, id()],
    queryFn: () => need(api.GET('/houses/{house}/colors/{color}', { params: { path: at() } })),
  }));
  const s = $derived(sheet.data);
  const changing = useChange(['sheet', 'ledger', 'sets']);
  const removing = useChange(['sheet', 'ledger', 'sets']);
  let editing = $state<Editing>('');
  let begin = $state('');

  const attempt = (said: string, f: () => Promise<Schema['ColorSheet']>, then?: () => void) =>
    changing.run(async () => {
      const was = s!;
      const now = await f();
      then?.();
      editing = '';
      return { said, undo: colorBack(was, now) };
    });
  const version = () => s!.version;
  const press = () => s!.row.press.press;
  const stock = () => s!.row.ink.stock;

  return {
    get problem() {
      return sheet.isError ? sheet.error.message : '';
    },
    get s() {
      return s;
    },
    /** A keeper changes every color, a contributor the own proposal. */
    get may() {
      return house.keeper || !!s?.own;
    },
    changing,
    removing,
    get busy() {
      return changing.busy;
    },
    get editing() {
      return editing;
    },
    /** With what the amendment begins that is open. */
    get begin() {
      return begin;
    },
    /** Opens the form of something, or closes it. */
    edit(what: Editing) {
      editing = editing === what ? '' : what;
      changing.problem = '';
      begin = '';
    },
    close: () => (editing = ''),
    /** Opens the amendment by which another value decides, with everything that this means before it does. */
    letDecide(value: string) {
      begin = value;
      editing = 'value';
    },

    change: (said: string, body: Omit<Schema['ColorChange'], 'version'> & { version?: number }, then?: () => void) =>
      attempt(
        said,
        () => need(api.PATCH('/houses/{house}/colors/{color}', { params: { path: at() }, body: { version: version(), ...body } })),
        then,
      ),
    approveBuild: (value: string, on = press()) =>
      attempt(`CMYK ${value} approved for ${on}`, () =>
        need(
          api.PUT('/houses/{house}/colors/{color}/builds/{press}', {
            params: { path: { ...at(), press: on } },
            body: { version: version(), value },
          }),
        ),
      ),
    dropBuild: (on = press()) =>
      attempt('The build is derived again', () =>
        need(
          api.DELETE('/houses/{house}/colors/{color}/builds/{press}', {
            params: { path: { ...at(), press: on }, query: { version: version() } },
          }),
        ),
      ),
    approveHex: (value: string) =>
      attempt(`${value} approved for screens`, () =>
        need(api.PUT('/houses/{house}/colors/{color}/hex', { params: { path: at() }, body: { version: version(), value } })),
      ),
    dropHex: () =>
      attempt('The hex follows from the master again', () =>
        need(api.DELETE('/houses/{house}/colors/{color}/hex', { params: { path: at(), query: { version: version() } } })),
      ),
    approveInk: (code: string, on = stock()) =>
      attempt(`${code} approved on ${on} stock`, () =>
        need(
          api.PUT('/houses/{house}/colors/{color}/spots/{stock}', {
            params: { path: { ...at(), stock: on } },
            body: { version: version(), code },
          }),
        ),
      ),
    dropInk: (on = stock()) =>
      attempt('The ink is derived again', () =>
        need(
          api.DELETE('/houses/{house}/colors/{color}/spots/{stock}', {
            params: { path: { ...at(), stock: on }, query: { version: version() } },
          }),
        ),
      ),
    bringBack: (event: number) =>
      attempt('Brought back', () =>
        need(api.POST('/houses/{house}/colors/{color}/back', { params: { path: at() }, body: { version: version(), event } })),
      ),
    /** Puts the successor into the sets that hold the retired color. */
    succeed: (name: string, sets: string[]) =>
      changing.run(async () => {
        const [said, path] = [`${name} took its place in ${sets.join(', ')}`, at()];
        const before = await need(api.GET('/houses/{house}/sets', { params: { path } }));
        await need(api.POST('/houses/{house}/colors/{color}/succeed', { params: { path }, body: { version: version() } }));
        return { said, undo: await setsBack(before) };
      }),
    /** For a color that was admitted by mistake; the server refuses one that somebody holds, and says who. */
    remove: () =>
      removing.run(async () => {
        const [name, path] = [s!.row.name, at()];
        await need(api.DELETE('/houses/{house}/colors/{color}', { params: { path, query: { version: version() } } }));
        void navigate('/h/:house/library', { params: { house: String(path.house) }, replace: true });
        return {
          said: `${name} removed`,
          undo: [way('post', '/houses/{house}/colors/{color}/unremove', { params: { path } })],
          back: `${name} is back`,
        };
      }),
    merge: (into: { id: number; name: string }) =>
      removing.run(async () => {
        const [name, path] = [s!.row.name, at()];
        const merged = await need(
          api.POST('/houses/{house}/colors/{color}/merge', {
            params: { path },
            body: { version: version(), into: into.id },
          }),
        );
        void navigate('/h/:house/library/:color', {
          params: { house: String(path.house), color: String(into.id) },
          replace: true,
        });
        const back = { house: path.house, way: merged.back! };
        return {
          said: `${name} is ${into.name} now; its name stays as an alias`,
          undo: [way('post', '/houses/{house}/ways-back/{way}', { params: { path: back } })],
          back: `${name} and ${into.name} are two colors again`,
        };
      }),
  };
}

export type SheetActs = ReturnType<typeof useSheet>;
