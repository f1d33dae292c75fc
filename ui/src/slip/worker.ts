// Keeps the slip going without the network: its page and what belongs to it, and the last state of the colors that it saw. It controls
// pages below /slip/ only. What an account sees is forgotten when it signs out (lib/slips.ts), or when the server says that nobody is
// signed in any more.

interface Extendable extends Event {
  waitUntil(done: Promise<unknown>): void;
}
interface Fetching extends Extendable {
  readonly request: Request;
  respondWith(answer: Promise<Response>): void;
}
interface Worker {
  addEventListener(kind: 'install' | 'activate', then: (e: Extendable) => void): void;
  addEventListener(kind: 'fetch', then: (e: Fetching) => void): void;
  skipWaiting(): Promise<void>;
  readonly clients: { claim(): Promise<void> };
  readonly location: Location;
}
const worker = self as unknown as Worker;

const shell = 'slip-shell'; // the page, its scripts, styles and typefaces
const ofAccount = 'slip-account';
const ofPickup = 'slip-pickup';
/** How long the network may take before what was seen last is shown, in milliseconds. */
const patience = 6000;

worker.addEventListener('install', () => void worker.skipWaiting());
worker.addEventListener('activate', (e) => e.waitUntil(worker.clients.claim()));
worker.addEventListener('fetch', (e) => {
  const { request } = e;
  const at = new URL(request.url);
  if (request.method !== 'GET' || at.origin !== worker.location.origin) return;
  if (request.mode === 'navigate') e.respondWith(fresh(request, shell, '/slip/', e));
  else if (at.pathname.startsWith('/assets/') || at.pathname.startsWith('/slip/')) e.respondWith(once(request));
  else if (/^\/api\/houses\/\d+\/(colors|sets)$/.test(at.pathname)) e.respondWith(fresh(request, ofAccount, request, e));
  else if (/^\/api\/p\/[^/]+$/.test(at.pathname)) e.respondWith(fresh(request, ofPickup, request, e));
});

/** What never changes under its name is asked for once. */
async function once(request: Request): Promise<Response> {
  const kept = await (await caches.open(shell)).match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok && answer.headers.get('Cache-Control')?.includes('immutable'))
    await (await caches.open(shell)).put(request, answer.clone());
  return answer;
}

/** The answer of the server, which is kept with its time; where the network gives none, what was kept. */
async function fresh(request: Request, name: string, key: RequestInfo, e: Extendable): Promise<Response> {
  const cache = await caches.open(name);
  const asked = fetch(request).then(async (answer) => {
    if (answer.ok) await cache.put(key, await dated(answer.clone()));
    // Nobody is signed in any more, or what lay there is gone: then it is not to be seen without the network either.
    else if (answer.status === 401) await caches.delete(ofAccount);
    else if ([403, 404, 410].includes(answer.status)) await cache.delete(key);
    return answer;
  });
  e.waitUntil(asked.catch(() => undefined));
  const late = new Promise<undefined>((done) => setTimeout(() => done(undefined), patience));
  const answer = await Promise.race([asked, late]).catch(() => undefined);
  if (answer && ![502, 503, 504].includes(answer.status)) return answer;
  return (await cache.match(key)) ?? answer ?? asked;
}

async function dated(answer: Response): Promise<Response> {
  const headers = new Headers(answer.headers);
  headers.delete('Content-Encoding'); // it is unpacked by now
  headers.set('X-Seen', new Date().toISOString());
  return new Response(await answer.blob(), { status: answer.status, headers });
}
