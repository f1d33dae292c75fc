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
  share?: number; // how much of the answer is there: another reply follows
  lost?: boolean; // the core itself could not be loaded
}

interface Core {
  Go: new () => { importObject: WebAssembly.Imports; run(instance: WebAssembly.Instance): Promise<void> };
  coreReady(): void;
  coreTold(share: number): void;
  coreCall(question: string, args: string): string;
  corePress(name: string, profile: Uint8Array): string | null;
  coreOpen(data: Uint8Array): string;
  corePixels(id: number): Uint8ClampedArray<ArrayBuffer>;
}

const core = globalThis as unknown as Core & DedicatedWorkerGlobalScope;

const profiles: Record<string, string> = { coated: coatedUrl, uncoated: uncoatedUrl, newsprint: newsprintUrl };
const presses: Record<string, { url: string; loaded: Promise<void> } | undefined> = {};

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

/** Loads the profile of a press when it is asked for: once, unless that failed, or its address is another one. */
async function press(name: string, url = profiles[name]) {
  const load = async () => {
    const [profile] = await Promise.all([bytes(url!), started]);
    const problem = core.corePress(name, profile);
    if (problem) throw new Error(problem);
  };
  if (!url) return;
  if (presses[name]?.url !== url) presses[name] = { url, loaded: load() };
  try {
    await presses[name]!.loaded;
  } catch (e) {
    if (presses[name]?.url === url) delete presses[name];
    throw e;
  }
}


let asked = 0; // the question that is being answered
core.coreTold = (share) => core.postMessage({ id: asked, share } satisfies Reply);

core.onmessage = async ({ data }: MessageEvent<Message>) => {
  const reply: Reply = { id: data.id };
  try {
    try {
      await Promise.all([started, press('coated')]); // the press that the core itself works with
    } catch (e) {
      reply.lost = true;
      throw e;
    }
    if (data.press) await press(data.press, data.profile);
    asked = data.id;
    if (data.picture) reply.answer = core.coreOpen(new Uint8Array(data.picture));
    else if (data.pixels !== undefined) reply.pixels = core.corePixels(data.pixels);
    else reply.answer = core.coreCall(data.question ?? '', data.args ?? '{}');
  } catch (e) {
    reply.failed = e instanceof Error ? e.message : String(e);
  }
  core.postMessage(reply, reply.pixels ? [reply.pixels.buffer] : []);
};
