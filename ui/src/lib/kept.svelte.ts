/** Where what is being typed or built waits, in this tab: it is there after Back, a reload or a visit to another station. */
const prefix = 'kept:';

const all = new Map<string, Kept<unknown>>();

class Kept<T> {
  #now = $state() as T;
  #first: string;
  #key: string;

  constructor(key: string, first: T) {
    this.#key = prefix + key;
    this.#first = JSON.stringify(first);
    let was = sessionStorage.getItem(this.#key) ?? this.#first;
    try {
      JSON.parse(was);
    } catch {
      was = this.#first;
    }
    this.#now = JSON.parse(was) as T;
    // Later, and so outside of the component that asked first: an effect that was begun inside of it no longer runs when it is gone.
    queueMicrotask(() =>
      $effect.root(() => {
        $effect(() => {
          const text = JSON.stringify(this.#now);
          if (text === this.#first) sessionStorage.removeItem(this.#key);
          else sessionStorage.setItem(this.#key, text);
        });
      }),
    );
  }

  get now(): T {
    return this.#now;
  }

  set now(v: T) {
    this.#now = v;
  }

  /** Whether there is anything that is not as it was at first. */
  get changed(): boolean {
    return JSON.stringify(this.#now) !== this.#first;
  }

  /** Used or thrown away. */
  clear() {
    this.#now = JSON.parse(this.#first) as T;
  }
}

export type { Kept };

/** What is kept under a name; every caller of one name shares it. */
export function kept<T>(key: string, first: T): Kept<T> {
  let k = all.get(key) as Kept<T> | undefined;
  if (!k) all.set(key, (k = new Kept(key, first)) as Kept<unknown>);
  return k;
}

const forgets: (() => void)[] = [];

/** Adds what is forgotten beside it. */
export const onForget = (f: () => void) => void forgets.push(f);

/** Forgets everything, for whoever signs in next. */
export function forget() {
  for (const f of forgets) f();
  for (const k of all.values()) k.clear();
  for (const key of Object.keys(sessionStorage)) if (key.startsWith(prefix)) sessionStorage.removeItem(key);
}
