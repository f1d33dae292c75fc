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

/** Takes files that are dropped anywhere on a node. */
export function files(take: (list: FileList) => void, enabled: () => boolean): Attachment<HTMLElement> {
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
        take(e.dataTransfer!.files);
      },
    };
    for (const [type, listener] of Object.entries(listeners)) node.addEventListener(type, listener as EventListener);
    return () => {
      for (const [type, listener] of Object.entries(listeners)) node.removeEventListener(type, listener as EventListener);
    };
  };
}

/** Gives one of a list's items the place of another; the ones between move up. */
export function moved<K>(list: K[], carried: K, onto: K): K[] {
  const to = list.indexOf(onto);
  const rest = list.filter((k) => k !== carried);
  rest.splice(to, 0, carried);
  return rest;
}
