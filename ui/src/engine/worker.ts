/// <reference lib="webworker" />
// The core's own thread: it loads the WebAssembly once and answers one message after the other, so that neither a picture
// nor a slow start holds up the page.
import './wasm_exec.js';
import coreUrl from './core.wasm?url';
import coatedUrl from './coated.icc?url';
import newsprintUrl from './newsprint.icc?url';
import uncoatedUrl from './uncoated.icc?url';

export interface Message {
  id: number;
  question?: string;
  args?: string;
  press?: string; // that the question is about
  profile?: string; // where its profile is, if it does not ship
  picture?: ArrayBuffer; // a picture file to open
  pixels?: number; // the picture whose pixels are wanted
}

export interface Reply {
  id: number;
  answer?: string;
  pixels?: Uint8ClampedArray<ArrayBuffer>;
  failed?: string;
}

interface Core {
  Go: new () => { importObject: WebAssembly.Imports; run(instance: WebAssembly.Instance): Promise<void> };
  coreReady(): void;
  coreCall(question: string, args: string): string;
  corePress(name: string, profile: Uint8Array): string | null;
  coreOpen(data: Uint8Array): string;
  corePixels(id: number): Uint8ClampedArray<ArrayBuffer>;
}

const core = globalThis as unknown as Core & DedicatedWorkerGlobalScope;

const profiles: Record<string, string> = { coated: coatedUrl, uncoated: uncoatedUrl, newsprint: newsprintUrl };
const presses: Record<string, Promise<void> | undefined> = {};

async function bytes(url: string): Promise<Uint8Array> {
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`${answer.status} for ${url}`);
  return new Uint8Array(await answer.arrayBuffer());
}

const started = new Promise<void>((resolve, reject) => {
  core.coreReady = resolve;
  const go = new core.Go();
  WebAssembly.instantiateStreaming(fetch(coreUrl), go.importObject).then(({ instance }) => void go.run(instance), reject);
});

/** Loads the profile of a press once, when it is asked for. */
async function press(name: string, url = profiles[name]) {
  const load = async () => {
    const [profile] = await Promise.all([bytes(url!), started]);
    const problem = core.corePress(name, profile);
    if (problem) throw new Error(problem);
  };
  if (url) await (presses[name] ??= load());
}

// The coated press is the one that the core itself works with.
const loaded = Promise.all([started, press('coated')]);

core.onmessage = async ({ data }: MessageEvent<Message>) => {
  const reply: Reply = { id: data.id };
  try {
    await loaded;
    if (data.press) await press(data.press, data.profile);
    if (data.picture) reply.answer = core.coreOpen(new Uint8Array(data.picture));
    else if (data.pixels !== undefined) reply.pixels = core.corePixels(data.pixels);
    else reply.answer = core.coreCall(data.question ?? '', data.args ?? '{}');
  } catch (e) {
    reply.failed = e instanceof Error ? e.message : String(e);
  }
  core.postMessage(reply, reply.pixels ? [reply.pixels.buffer] : []);
};
