import { forget } from './kept.svelte';
import { notations, type NotationKind } from './notations';
import { goBack, type Way } from './back';
import { toClipboard } from './clipboard';
import { forgetSlips } from './slips';
import { api, need, onEnded, Problem, sentence, useToken, type Schema } from './api/client';

/** Who is signed in; undefined until the server has answered, null for nobody. */
class Session {
  now = $state<Schema['Session'] | null | undefined>(undefined);

  async load() {
    if (location.search === '?signed-in') {
      localStorage.setItem('signed-in', 'yes'); // through the provider
      history.replaceState(null, '', '/');
    }
    // Nobody is asked who never signed in from this browser.
    if (!localStorage.getItem('signed-in')) {
      this.now = null;
      return;
    }
    try {
      this.take(await need(api.GET('/session')));
    } catch (e) {
      if (!(e instanceof Problem && e.status === 401)) throw e;
      localStorage.removeItem('signed-in');
      this.now = null;
    }
  }

  /** Whether it ended while the page was open: then one signs in over the page, and what was typed stays. */
  ended = $state(false);
  #waiting: ((goesOn: boolean) => void)[] = [];

  constructor() {
    onEnded(async (signedOut) => {
      if (!this.now) return false;
      if (await this.#goesOn()) return true; // in another tab
      if (!signedOut) return false;
      this.ended = true;
      return new Promise((done) => this.#waiting.push(done));
    });
  }

  /** Asks whether the same person is signed in by now. */
  async #goesOn(): Promise<boolean> {
    const answer = await fetch('/api/session').catch(() => null);
    const s = answer?.ok ? ((await answer.json()) as Schema['Session']) : null;
    if (!s || s.email !== this.now?.email) return false;
    this.take(s);
    return true;
  }

  /** Looks whether one signed in elsewhere meanwhile. */
  look = () => void (this.ended && this.#goesOn());

  /** Gives up what was typed. */
  leave() {
    void forgetSlips();
    forget();
    message.forget();
    this.now = null;
    this.#end(false);
  }

  #end(goesOn: boolean) {
    this.ended = false;
    for (const done of this.#waiting.splice(0)) done(goesOn);
  }

  take(s: Schema['Session']) {
    if (this.ended && this.now && s.email !== this.now.email) {
      void forgetSlips();
      forget(); // somebody else: nothing of the page is theirs
      location.assign('/');
      return;
    }
    useToken(s.csrf);
    if (this.ended) this.#end(true);
    localStorage.setItem('signed-in', 'yes');
    const before = this.now?.email;
    this.now = s;
    if (before !== s.email) message.remember();
  }

  async signIn(email: string, password: string, code = '', passkey?: Schema['Shown']) {
    const s = await need(api.POST('/session', { body: { email, password, code: code || undefined, passkey } }));
    await forgetSlips(); // of whoever was here before
    this.take(s);
  }

  async signOut() {
    await need(api.DELETE('/session'));
    await forgetSlips();
    forget();
    message.forget();
    localStorage.removeItem('signed-in');
    this.now = null;
  }
}

export const session = new Session();

/** The surround that colors are shown in. */
export const booths = ['white', 'gray', 'black'] as const;
export type Booth = (typeof booths)[number];

class BoothState {
  now = $state<Booth>('gray');

  constructor() {
    const kept = localStorage.getItem('booth');
    this.set(booths.find((b) => b === kept) ?? 'gray');
  }

  set(b: Booth) {
    this.now = b;
    localStorage.setItem('booth', b);
    document.documentElement.dataset.theme = b;
  }

  next() {
    this.set(booths[(booths.indexOf(this.now) + 1) % booths.length] ?? 'gray');
  }
}

export const booth = new BoothState();

interface Said {
  text: string;
  undo?: () => void | Promise<void>;
  /** Where one would go on. */
  next?: Next;
}

export interface Next {
  name: string;
  href: string;
}

/** What was done by oneself, with the way back where there is one. */
export interface Lately {
  text: string;
  at: number; // milliseconds
  undo?: Way[] | (() => Promise<unknown>) | undefined;
  back?: string | undefined;
  goes?: string | undefined;
  shown: string[]; // what is read anew after it
}

/** For how long what was done is told of, in milliseconds, and how much of it. */
const remembered = 24 * 3600_000;
const most = 30;

/**
 * One short message at a time, with a way back where there is one. What was done stays for a day under the person's name, also when the
 * page is loaded anew.
 */
class Message {
  now = $state<Said | null>(null);
  lately = $state.raw<Lately[]>([]);
  /** Reads anew what is shown of something; the page says how. */
  refresh: (shown: string[]) => Promise<unknown> = async () => undefined;
  go: (href: string) => unknown = () => undefined;
  #timer: ReturnType<typeof setTimeout> | undefined;

  say(text: string, undo?: () => void | Promise<void>, next?: Next) {
    clearTimeout(this.#timer);
    this.now = { text, undo, next };
    this.#timer = setTimeout(() => (this.now = null), undo || next ? 12000 : 4000);
  }

  /** Says what was done, and remembers it. */
  done({ next, ...what }: Omit<Lately, 'at'> & { next?: Next | undefined }) {
    const entry = { ...what, at: Date.now() };
    this.#keep([entry, ...this.lately]);
    this.say(what.text, what.undo && (() => this.takeBack(entry)), next);
  }

  /** Whether a way back is there still. */
  open = (ways: Way[]) => this.lately.some((l) => JSON.stringify(l.undo) === JSON.stringify(ways));

  /** Forgets a way back that was gone elsewhere on the page. */
  close(ways: Way[]) {
    this.#keep(this.lately.filter((l) => JSON.stringify(l.undo) !== JSON.stringify(ways)));
  }

  /** Takes back what was done. Where that cannot be, it stays in the list. */
  async takeBack(entry: Lately) {
    const { undo, back } = entry;
    if (!undo || !this.lately.includes(entry)) return; // it is being taken back already
    this.#keep(this.lately.filter((l) => l !== entry));
    let said: unknown;
    try {
      said = Array.isArray(undo) ? await goBack(undo) : await undo();
    } catch (e) {
      const since = e instanceof Problem && e.code === 'changed-meanwhile';
      said = since ? 'It was changed since then. It stays as it is now.' : sentence(e);
      this.#keep([entry, ...this.lately].sort((a, b) => b.at - a.at));
    }
    await this.refresh(entry.shown); // before it is said: the page shows what the sentence says
    if (entry.goes && !this.lately.includes(entry)) this.go(entry.goes);
    this.say(typeof said === 'string' ? said : (back ?? 'It is as it was'));
  }

  #key = () => `done:${session.now?.email ?? ''}`;

  #keep(list: Lately[]) {
    this.lately = list.filter((l) => l.at > Date.now() - remembered).slice(0, most);
    const kept = this.lately.map((l) => (Array.isArray(l.undo) ? l : { ...l, undo: undefined }));
    try {
      localStorage.setItem(this.#key(), JSON.stringify(kept));
    } catch {
      localStorage.removeItem(this.#key()); // there is no room for it
    }
  }

  /** Remembers what the person did who has just signed in, or came back. */
  remember() {
    try {
      this.#keep(JSON.parse(localStorage.getItem(this.#key()) ?? '[]') as Lately[]);
    } catch {
      this.#keep([]);
    }
  }

  /** Forgets it, for whoever signs in next. */
  forget() {
    localStorage.removeItem(this.#key());
    this.lately = [];
  }

  clear() {
    this.now = null;
  }
}

export const message = new Message();

/** Puts a value on the clipboard and says so. */
export async function copy(text: string, called = text) {
  if (!(await toClipboard(text))) {
    message.say(`Your browser does not allow copying; the value is ${text}`);
    return;
  }
  message.say(`${called} copied`);
}

/** The notation that values are shown and copied in: what somebody chose, else what the house offers first. */
class NotationChoice {
  #own = $state<Partial<Record<NotationKind, number>>>({});
  /** What the house offers first, of hex, rgb and cmyk. */
  first = $state<number[]>([]);

  constructor() {
    try {
      Object.assign(this.#own, JSON.parse(localStorage.getItem('notations') ?? '{}'));
    } catch {
      localStorage.removeItem('notations');
    }
  }

  get now(): Record<NotationKind, number> {
    const [hex = 0, rgb = 0, cmyk = 0] = this.first;
    return { hex, rgb, cmyk, ...this.#own };
  }

  choose(kind: NotationKind, index: number) {
    this.#own[kind] = index;
    localStorage.setItem('notations', JSON.stringify(this.#own));
  }

  write(kind: NotationKind, value: number[]): string {
    const list = notations[kind];
    return (list[this.now[kind]] ?? list[0]!).write(value);
  }
}

export const notation = new NotationChoice();
