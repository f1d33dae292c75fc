/// <reference lib="webworker" />
// The core's own thread: it loads the WebAssembly once and answers one message after the other, so that neither a picture
// nor a slow start holds up the page.
import './wasm_exec.js';
import coreUrl from './core.wasm?url';

export interface Message {
  id: number;
  question?: string;
  args?: string;
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
  coreOpen(data: Uint8Array): string;
  corePixels(id: number): Uint8ClampedArray<ArrayBuffer>;
}

const core = globalThis as unknown as Core & DedicatedWorkerGlobalScope;

const loaded = new Promise<void>((resolve, reject) => {
  core.coreReady = resolve;
  const go = new core.Go();
  WebAssembly.instantiateStreaming(fetch(coreUrl), go.importObject).then(({ instance }) => void go.run(instance), reject);
});

core.onmessage = async ({ data }: MessageEvent<Message>) => {
  const reply: Reply = { id: data.id };
  try {
    await loaded;
    if (data.picture) reply.answer = core.coreOpen(new Uint8Array(data.picture));
    else if (data.pixels !== undefined) reply.pixels = core.corePixels(data.pixels);
    else reply.answer = core.coreCall(data.question ?? '', data.args ?? '{}');
  } catch (e) {
    reply.failed = e instanceof Error ? e.message : String(e);
  }
  core.postMessage(reply, reply.pixels ? [reply.pixels.buffer] : []);
};
