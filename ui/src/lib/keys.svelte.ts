import { untrack } from 'svelte';
import { formOpen } from './focus';

/** A key of the station and what it does; shown by "?". What changes data takes a chord with Alt. */
export interface Key {
  key: string;
  alt?: boolean;
  does: string;
  run: () => void;
}

export const isLetter = (k: Key) => !k.alt && /^[a-z]$/i.test(k.key);

class Keys {
  #layers = $state<Key[][]>([]);
  help = $state(false);
  #letters = $state(localStorage.getItem('letters') === 'on');

  /** Whether single letters do something. They are off until somebody switches them on: a name typed astray would run them. */
  get letters() {
    return this.#letters;
  }

  set letters(on: boolean) {
    this.#letters = on;
    localStorage.setItem('letters', on ? 'on' : 'off');
  }

  get all() {
    return this.#layers.flat();
  }

  /** Adds keys for as long as a component lives; call it in an effect. */
  add(list: Key[]) {
    // The effect that adds keys must not depend on the list that it changes.
    untrack(() => (this.#layers = [...this.#layers, list]));
    return () => untrack(() => (this.#layers = this.#layers.filter((l) => l !== list)));
  }

  /** Runs the newest key that matches, unless somebody is typing or holds a modifier. */
  press(e: KeyboardEvent) {
    const target = e.target as HTMLElement | null;
    const typing = target?.closest('input:not([type=checkbox]), textarea, select, [contenteditable]');
    if (e.key === 'Escape' && this.help) {
      this.help = false;
      return;
    }
    if (typing || e.ctrlKey || e.metaKey) return;
    if (e.key === '?' && !e.altKey) {
      this.help = !this.help;
      e.preventDefault();
      return;
    }
    // With Alt some keyboards write another character; the key itself is meant.
    const pressed = (e.altKey && /^Key([A-Z])$/.exec(e.code)?.[1]) || e.key;
    const hit = this.all.toReversed().find((k) => k.key.toLowerCase() === pressed.toLowerCase() && !!k.alt === e.altKey);
    if (!hit || (isLetter(hit) && (!this.letters || formOpen()))) return;
    // Enter and the arrows belong to a focused button or link first.
    if (e.key === 'Enter' && target?.closest('button, a, summary')) return;
    e.preventDefault();
    hit.run();
  }
}

export const keys = new Keys();
