import { api, need, sentence, upload, type Schema } from '../../lib/api/client';
import type { Done } from '../../lib/change.svelte';
import { admitted, takeBack } from '../../lib/admission';
import type { Placed } from '../../lib/drag';
import { house } from '../../lib/house.svelte';

const pictures = /^image\/(png|jpeg|webp|gif|tiff|bmp)$/;

/** What was dropped, chosen or pasted and waits in the ways "picture" and "file". */
class Incoming {
  picture = $state.raw<File | null>(null);
  files = $state<{ file: string; found?: Schema['FoundFile']; problem?: string }[]>([]);
  busy = $state(0);
  /** What of a folder was not read, since it is nobody's work. */
  leftOut = $state<string[]>([]);

  /** Takes files in; a single picture is looked at closely, everything else is read on the server. Returns the way to go. */
  async take(list: Placed[], leftOut: string[] = []): Promise<'picture' | 'file' | undefined> {
    if (list.length === 0 && leftOut.length === 0) return undefined;
    if (list.length === 1 && pictures.test(list[0]!.file.type)) {
      this.picture = list[0]!.file;
      return 'picture';
    }
    this.files = [];
    this.leftOut = leftOut;
    this.busy = list.length;
    void this.#read(list, ++this.#turn);
    return 'file';
  }

  #turn = 0;

  async #read(list: Placed[], turn: number) {
    for (const { path, file } of list) {
      const entry: (typeof this.files)[number] = { file: path };
      try {
        entry.found = await upload<Schema['FoundFile']>(`/houses/${house.id}/files`, file, file.name);
      } catch (e) {
        entry.problem = sentence(e);
      }
      if (turn !== this.#turn) return; // others were dropped meanwhile
      this.files.push(entry);
      this.busy--;
    }
  }
}

export const incoming = new Incoming();

/** Under which what is typed in this house is kept. */
export const draftKey = () => `gather-${house.id}`;

/** Puts colors on the tray; with a set, admits them at once and puts them on it. Returns what to say. */
export async function bring(colors: Schema['NewCandidate'][], set: string, replace: boolean): Promise<string | Done> {
  const path = { params: { path: { house: house.id } } };
  const before = new Set((await need(api.GET('/houses/{house}/tray', path))).map((c) => c.id));
  const tray = await need(api.POST('/houses/{house}/tray/colors', { ...path, body: { colors } }));
  if (!set.trim()) return colors.length === 1 ? '1 color is on the tray' : `${colors.length} colors are on the tray`;
  const fresh = tray.filter((c) => !before.has(c.id));
  // A value that the library has already is not admitted a second time: the library's own color joins the set.
  const use: Schema['Stand'][] = [];
  const items: number[] = [];
  for (const c of fresh) {
    const same = c.notes.find((n) => n.color && (n.kind === 'same-value' || (n.kind === 'name-taken' && n.color.hex === c.hex)));
    if (same?.color) use.push({ item: c.id, color: same.color.id });
    else items.push(c.id);
  }
  const body = { items, use, set: set.trim(), replace };
  const done = await need(api.POST('/houses/{house}/tray/admit', { ...path, body }));
  return admitted(done, use.length, set.trim(), takeBack(done.colors));
}
