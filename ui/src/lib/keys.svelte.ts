import { untrack } from 'svelte';

/** A key of the station and what it does; shown by "?". */
export interface Key {
  key: string;
  does: string;
  run: () => void;
}

class Keys {
  #layers = $state<Key[][]>([]);
  help = $state(false);

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
    if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === '?') {
      this.help = !this.help;
      e.preventDefault();
      return;
    }
    const hit = this.all.toReversed().find((k) => k.key.toLowerCase() === e.key.toLowerCase());
    if (!hit) return;
    // Enter and the arrows belong to a focused button or link first.
    if (e.key === 'Enter' && target?.closest('button, a, summary')) return;
    e.preventDefault();
    hit.run();
  }
}

export const keys = new Keys();
