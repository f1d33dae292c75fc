/** What is to be seen edge to edge: colors, faces, readings, points of a picture; two to six. */
export interface Compared {
  label: string;
  hex: string;
}

class Comparison {
  items = $state<Compared[]>([]);

  constructor() {
    try {
      this.items = JSON.parse(localStorage.getItem('comparison') ?? '[]');
    } catch {
      localStorage.removeItem('comparison');
    }
  }

  #keep() {
    localStorage.setItem('comparison', JSON.stringify(this.items));
  }

  /** Adds things; of more than six, the first ones go. */
  add(list: Compared[]) {
    const fresh = list.filter((c) => !this.items.some((o) => o.label === c.label && o.hex === c.hex));
    this.items = [...this.items, ...fresh].slice(-6);
    this.#keep();
  }

  set(list: Compared[]) {
    this.items = list.slice(0, 6);
    this.#keep();
  }
}

export const comparison = new Comparison();
