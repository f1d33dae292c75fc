import type { Message, Reply } from '../engine/worker';

// The way to the core in the browser. The formulas are those of the server: the same Go code, compiled to WebAssembly.

export interface OKLCH {
  l: number;
  c: number;
  h: number;
}

export interface InkNear {
  code: string;
  name: string;
  hex: string;
  deltaE: number;
  word: string;
}

/** All that there is to know of a color; see engine.Look in cmd/corewasm. */
export interface Look {
  hex: string;
  rgb: [number, number, number];
  hsl: [number, number, number];
  oklch: OKLCH;
  lab: [string, string, string];
  outside: boolean;
  press: { name: string; exact: number[]; whole: number[]; total: number; hex: string; deltaE: number; word: string; inGamut: boolean; direction: string };
  inks: InkNear[];
  white: number;
  black: number;
  deltaE: number;
  word: string;
}

export interface Member {
  hex: string;
  turn: number;
  lift: number;
  chroma: number;
  free: boolean;
}

export interface Scale {
  steps: { name: number; hex: string; master: boolean }[];
  tints: string[];
  shades: string[];
  tones: string[];
}

export interface Contrast {
  ratio: number;
  text: string;
  large: string;
  graphics: boolean;
  nearest?: string;
}

export interface Vision {
  seen: string[];
  confusable: { a: number; b: number; deltaE: number; simulated: number }[];
}

export interface Spot {
  hex: string;
  x: number;
  y: number;
  share: number;
}

export interface Near {
  at: number;
  deltaE: number;
  word: string;
}

export interface Opened {
  id: number;
  width: number;
  height: number;
  format: string;
  profile: string;
  note: string;
  chart: Spot[];
}

interface Questions {
  look: [{ value?: string; oklch?: OKLCH; press?: string; stock?: string; from?: string }, Look];
  book: [{ name: string; csv: string }, boolean];
  inks: [{ value: string; stock?: string; n: number }, InkNear[]];
  harmony: [{ value: string; wheel: string; scheme?: string; members?: Member[] }, Member[]];
  scale: [{ value: string; percents: number[] }, Scale];
  contrast: [{ value: string; ground: string; want?: number }, Contrast];
  vision: [{ values: string[]; kind: string; severity: number }, Vision];
  near: [{ values: string[]; among: string[] }, Near[]];
  apart: [{ values: string[]; among: string[] }, { deltaE: number; word: string }[][]];
  sample: [{ id: number; x: number; y: number; window: number }, Spot];
  colors: [{ id: number; n: number }, Spot[]];
  close: [{ id: number }, boolean];
}

class Engine {
  #worker: Worker | undefined;
  #waiting = new Map<number, { resolve: (r: Reply) => void; reject: (e: Error) => void }>();
  #next = 0;

  /** Begins to load the core, if nobody has yet; the page works before it is there. */
  load() {
    if (this.#worker) return this.#worker;
    const worker = new Worker(new URL('../engine/worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Reply>) => {
      const w = this.#waiting.get(data.id);
      this.#waiting.delete(data.id);
      if (data.failed !== undefined) w?.reject(new Error(`The computation could not be loaded or failed (${data.failed}); reload the page.`));
      else w?.resolve(data);
    };
    worker.onerror = () => {
      for (const w of this.#waiting.values()) w.reject(new Error('The computation could not be loaded; reload the page.'));
      this.#waiting.clear();
      this.#worker = undefined; // the next question tries again
    };
    return (this.#worker = worker);
  }

  /** Gives up what is under way, pictures that were opened included; the next question starts anew. */
  cancel() {
    this.#worker?.terminate();
    this.#worker = undefined;
    for (const w of this.#waiting.values()) w.reject(new Error('Given up'));
    this.#waiting.clear();
  }

  #send(message: Omit<Message, 'id'>, transfer: Transferable[] = []): Promise<Reply> {
    const worker = this.load();
    const id = ++this.#next;
    return new Promise((resolve, reject) => {
      this.#waiting.set(id, { resolve, reject });
      worker.postMessage({ id, ...message } satisfies Message, transfer);
    });
  }

  async ask<Q extends keyof Questions>(question: Q, args: Questions[Q][0]): Promise<Questions[Q][1]> {
    return read(await this.#send({ question, args: JSON.stringify(args) }));
  }

  /** Decodes a picture and keeps it for sampling until it is closed. */
  async open(file: Blob): Promise<Opened> {
    const picture = await file.arrayBuffer();
    return read(await this.#send({ picture }, [picture]));
  }

  /** The pixels of an opened picture as the core sees them: upright and in sRGB. */
  async pixels(opened: Opened): Promise<ImageData> {
    const { pixels } = await this.#send({ pixels: opened.id });
    return new ImageData(pixels!, opened.width, opened.height);
  }
}

function read<T>(reply: Reply): T {
  const v = JSON.parse(reply.answer ?? 'null') as T & { error?: string };
  if (v !== null && typeof v === 'object' && 'error' in v) throw new Error(v.error);
  return v;
}

export const engine = new Engine();

/**
 * Asks only for the newest state of something that moves: while one answer is on its way, the questions that come in
 * between are dropped but for the last.
 */
export function newest<A, R>(ask: (a: A) => Promise<R>, take: (r: R) => void, fail: (e: Error) => void): (a: A) => void {
  let busy = false;
  let next: { a: A } | undefined;
  const run = async (a: A) => {
    busy = true;
    try {
      take(await ask(a));
    } catch (e) {
      fail(e as Error);
    }
    busy = false;
    if (next) {
      const { a } = next;
      next = undefined;
      void run(a);
    }
  };
  return (a) => {
    if (busy) next = { a };
    else void run(a);
  };
}
