import type { Message, Reply } from '../engine/worker';
import type { Opened, Questions } from './engine.gen';

export { newest } from './newest';

// The way to the core in the browser. The formulas are those of the server: the same Go code, compiled to WebAssembly.

export type {
  HeldAnswer,
  HeldMatch,
  KeptApart,
  Look,
  Scale,
  Member,
  Near,
  Opened,
  PairAnswer,
  Proofed,
  Specimen,
  Spot,
  Vision,
} from './engine.gen';

class Engine {
  #worker: Worker | undefined;
  #waiting = new Map<
    number,
    { resolve: (r: Reply) => void; reject: (e: Error) => void; told?: ((share: number) => void) | undefined }
  >();
  #next = 0;

  /** Begins to load the core, if nobody has yet; the page works before it is there. */
  load() {
    if (this.#worker) return this.#worker;
    const worker = new Worker(new URL('../engine/worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Reply>) => {
      const w = this.#waiting.get(data.id);
      if (data.share !== undefined) return w?.told?.(data.share);
      this.#waiting.delete(data.id);
      if (data.failed !== undefined) w?.reject(new Error(`The computation could not be loaded or failed (${data.failed})`));
      else w?.resolve(data);
      if (data.lost && this.#worker === worker) this.cancel(); // the next question tries again
    };
    worker.onerror = () => {
      for (const w of this.#waiting.values()) w.reject(new Error('The computation could not be loaded; try again'));
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

  #send(message: Omit<Message, 'id'>, transfer: Transferable[] = [], told?: (share: number) => void): Promise<Reply> {
    const worker = this.load();
    const id = ++this.#next;
    return new Promise((resolve, reject) => {
      this.#waiting.set(id, { resolve, reject, told });
      worker.postMessage({ id, ...message } satisfies Message, transfer);
    });
  }

  /** Where the profile of a press is that a question is about, if it does not ship, goes along; told hears how far a long answer is. */
  async ask<Q extends keyof Questions>(
    question: Q,
    args: Questions[Q][0],
    profile?: string,
    told?: (share: number) => void,
  ): Promise<Questions[Q][1]> {
    const press = 'press' in args ? args.press : undefined;
    return read(await this.#send({ question, args: JSON.stringify(args), press, ...(profile ? { profile } : {}) }, [], told));
  }

  /** Decodes a picture and keeps it for sampling until it is closed. */
  async open(file: Blob): Promise<Opened> {
    const picture = await file.arrayBuffer();
    return read(await this.#send({ picture }, [picture]));
  }

  /** The pixels of an opened picture as the core sees them: upright and in sRGB. */
  async pixels(opened: Pick<Opened, 'id' | 'width' | 'height'>): Promise<ImageData> {
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
