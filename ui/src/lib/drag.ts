import type { Attachment } from 'svelte/attachments';

/**
 * One drag and drop for every list: an item that is carried is let go on another one. Long lists exist in
 * part only, so each item knows its own key and nothing of the others. The keyboard has its own way in each list.
 */
export class Dragging<K> {
  #carried: K | undefined;

  constructor(readonly move: (carried: K, onto: K) => void) {}

  item(key: K, enabled: boolean): Attachment<HTMLElement> {
    return (node) => {
      node.draggable = enabled;
      if (!enabled) return;
      const over = (on: boolean) => node.toggleAttribute('data-over', on);
      const listeners: Record<string, (e: DragEvent) => void> = {
        dragstart: (e) => {
          this.#carried = key;
          if (e.dataTransfer) e.dataTransfer.effectAllowed = 'move';
          e.stopPropagation();
        },
        dragend: () => (this.#carried = undefined),
        dragover: (e) => {
          if (this.#carried === undefined || this.#carried === key) return;
          e.preventDefault();
          over(true);
        },
        dragleave: () => over(false),
        drop: (e) => {
          over(false);
          if (this.#carried === undefined || this.#carried === key) return;
          e.preventDefault();
          e.stopPropagation();
          this.move(this.#carried, key);
          this.#carried = undefined;
        },
      };
      for (const [type, listener] of Object.entries(listeners)) node.addEventListener(type, listener as EventListener);
      return () => {
        for (const [type, listener] of Object.entries(listeners)) node.removeEventListener(type, listener as EventListener);
      };
    };
  }
}

/** Takes what of files is dropped anywhere on a node, while the event lasts. */
function dropped(take: (data: DataTransfer) => void, enabled: () => boolean): Attachment<HTMLElement> {
  return (node) => {
    const over = (on: boolean) => node.toggleAttribute('data-files', on);
    const has = (e: DragEvent) => enabled() && e.dataTransfer?.types.includes('Files');
    const listeners: Record<string, (e: DragEvent) => void> = {
      dragover: (e) => {
        if (!has(e)) return;
        e.preventDefault();
        over(true);
      },
      dragleave: (e) => {
        if (!node.contains(e.relatedTarget as Node)) over(false);
      },
      drop: (e) => {
        over(false);
        if (!has(e)) return;
        e.preventDefault();
        take(e.dataTransfer!);
      },
    };
    for (const [type, listener] of Object.entries(listeners)) node.addEventListener(type, listener as EventListener);
    return () => {
      for (const [type, listener] of Object.entries(listeners)) node.removeEventListener(type, listener as EventListener);
    };
  };
}

/** Takes files that are dropped anywhere on a node. */
export const files = (take: (list: FileList) => void, enabled: () => boolean) => dropped((data) => take(data.files), enabled);

/** Gives one of a list's items the place of another; the ones between move up. */
export function moved<K>(list: K[], carried: K, onto: K): K[] {
  const to = list.indexOf(onto);
  const rest = list.filter((k) => k !== carried);
  rest.splice(to, 0, carried);
  return rest;
}

/** A file with its path in what was dropped or chosen. */
export interface Placed {
  path: string;
  file: File;
}

/** The files of a list as a file field gives them, with their folders where it knows them. */
export const placed = (list: FileList | null | undefined): Placed[] =>
  [...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file }));

/** What of a folder is nobody's work: as in archives (core/audit), hidden files and what programs put there for themselves. */
const aside = (name: string) => name.startsWith('.') || ['__MACOSX', 'node_modules', 'Thumbs.db'].includes(name);

/** Takes files and whole folders that are dropped anywhere on a node; what of the folders is left out is named. */
export const trees = (take: (list: Placed[], leftOut: string[]) => void, enabled: () => boolean) =>
  dropped((data) => {
    // The entries must be asked for while the event lasts.
    const entries = [...data.items].map((i) => i.webkitGetAsEntry());
    const plain = placed(data.files);
    if (!entries.some((entry) => entry?.isDirectory)) return take(plain, []);
    const leftOut: string[] = [];
    void Promise.all(entries.map((entry) => walk(entry, leftOut))).then((l) => take(l.flat(), leftOut));
  }, enabled);

async function walk(entry: FileSystemEntry | null, leftOut: string[]): Promise<Placed[]> {
  if (!entry) return [];
  const path = entry.fullPath.replace(/^\//, '');
  if (path.includes('/') && aside(entry.name)) {
    leftOut.push(path);
    return [];
  }
  if (entry.isFile) {
    const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
    return [{ path, file }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const out: Placed[] = [];
  for (;;) {
    const batch = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (batch.length === 0) return out;
    for (const inner of batch) out.push(...(await walk(inner, leftOut)));
  }
}
