import createClient, { type Middleware } from 'openapi-fetch';
import { away } from '../away.svelte';
import type { components, paths } from './schema';

export type Schema = components['schemas'];

let csrf = '';

/** Takes the token of the session, which every call that changes something sends along. */
export function useToken(token: string) {
  csrf = token;
}

/** What this page calls itself, so that it knows its own changes; how many wait for an answer, and when the last had one (milliseconds). */
export const page = {
  name: Array.from(crypto.getRandomValues(new Uint8Array(12)), (b) => b.toString(16).padStart(2, '0')).join(''),
  waiting: 0,
  answered: 0,
};
function answered() {
  page.waiting--;
  page.answered = Date.now();
}

const token: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') {
      request.headers.set('X-CSRF-Token', csrf);
      request.headers.set('X-Page', page.name);
      page.waiting++;
    }
    return request;
  },
  onResponse({ request }) {
    if (request.method !== 'GET') answered();
  },
  onError({ request }) {
    if (request.method !== 'GET') answered();
  },
};

/** Who is asked when the session has ended, or has another token: whether it goes on, as the same person. */
let ended: (signedOut: boolean) => Promise<boolean> = async () => false;

/** Says what is done when the session has ended while the page was open. */
export const onEnded = (ask: typeof ended) => (ended = ask);

/** Whether a request was not looked at since the session is over, or has another token by now. A wrong password names its field. */
const over = (p: Schema['Problem'] | null) => (p?.status === 401 && !p.field) || p?.code === 'page-out-of-date';

const problemOf = async (answer: Response) =>
  (await answer
    .clone()
    .json()
    .catch(() => null)) as Schema['Problem'] | null;

/**
 * Asks, and asks again when what was away is back: whatever only reads, and of what changes something what the server says was not done at
 * all. An answer that never came leaves it open whether a change was made. What came behind the end of the session waits until the same
 * person is signed in again.
 */
async function patient(request: Request): Promise<Response> {
  const reads = request.method === 'GET';
  for (;;) {
    const kept = request.clone();
    let answer: Response | undefined;
    try {
      answer = await fetch(request);
    } catch (e) {
      if (!reads) {
        void away.wait();
        throw e;
      }
    }
    if (answer && ![401, 403, 503].includes(answer.status)) return answer;
    const said = answer ? await problemOf(answer) : null;
    if (answer && over(said) && (await ended(answer.status === 401))) {
      request = kept;
      if (!reads) request.headers.set('X-CSRF-Token', csrf);
      continue;
    }
    if (answer && said?.code !== 'away') return answer;
    if (!(await away.wait())) return answer ?? fetch(kept);
    request = kept;
  }
}

export const api = createClient<paths>({ baseUrl: '/api', fetch: patient });
api.use(token);

/** What the server said was wrong: a sentence, and the field or items that it is about. */
export class Problem extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly field?: string,
    readonly items: Schema['ItemProblem'][] = [],
    readonly code = '',
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: Schema['Problem'];
  response: Response;
}

/** Waits for an answer and returns its data, or throws the problem. */
export async function need<T>(answer: Promise<Answer<T>>): Promise<T> {
  let a: Answer<T>;
  try {
    a = await answer;
  } catch {
    throw new Problem('The server does not answer. What you typed is still here; try again in a moment.', 0);
  }
  if (a.error !== undefined || !a.response.ok) {
    const p = a.error;
    throw new Problem(p?.title ?? 'Something went wrong; try again.', a.response.status, p?.field, p?.items, p?.code);
  }
  return a.data as T;
}

interface Upload {
  method?: string;
  progress?: (share: number) => void;
  signal?: AbortSignal;
  answer?: 'json' | 'blob';
  /** Told that the server asks to wait, in seconds. */
  waits?: (seconds: number) => void;
}

/** How often an upload that is asked to wait goes on by itself. */
const patience = 20;

/**
 * Sends a file, or a form with several, which the generated client does not, and returns the answer. Who is asked to wait waits and
 * goes on.
 */
export async function upload<T = void>(path: string, what: Blob | FormData, name: string, options: Upload = {}): Promise<T> {
  const form = what instanceof FormData ? what : new FormData();
  if (what instanceof Blob) form.append('file', what, name);
  for (let again = 0; ; again++) {
    const x = await send(path, form, name, options);
    if (x.status < 400) return x.response as T;
    const wait = Number(x.getResponseHeader('Retry-After'));
    if (x.status === 429 && wait > 0 && again < patience) {
      options.waits?.(wait);
      await pause(wait * 1000, options.signal);
      continue;
    }
    const said: unknown = x.response instanceof Blob ? JSON.parse((await x.response.text()) || 'null') : x.response;
    const p = said as Schema['Problem'] | null;
    if (over(p) && (await ended(x.status === 401))) continue;
    throw new Problem(p?.title ?? 'Something went wrong; try again.', x.status, p?.field, p?.items, p?.code);
  }
}

const pause = (ms: number, signal?: AbortSignal) =>
  new Promise<void>((done, fail) => {
    const timer = setTimeout(done, ms);
    signal?.addEventListener('abort', () => {
      clearTimeout(timer);
      fail(new Problem('It was given up.', 0));
    });
  });

/** One try. XMLHttpRequest, since fetch does not tell how far an upload is. */
function send(path: string, form: FormData, name: string, options: Upload): Promise<XMLHttpRequest> {
  return new Promise((done, fail) => {
    const x = new XMLHttpRequest();
    x.open(options.method ?? 'POST', `/api${path}`);
    x.setRequestHeader('X-CSRF-Token', csrf);
    x.setRequestHeader('X-Page', page.name);
    x.responseType = options.answer ?? 'json';
    x.upload.onprogress = (e) => options.progress?.(e.total ? e.loaded / e.total : 0);
    page.waiting++;
    x.onloadend = answered;
    x.onload = () => done(x);
    x.onerror = () => fail(new Problem(`The server did not take ${name}; try again.`, 0));
    x.onabort = () => fail(new Problem(`The upload of ${name} was given up.`, 0));
    if (options.signal?.aborted) {
      page.waiting--;
      return x.onabort(new ProgressEvent('abort'));
    }
    options.signal?.addEventListener('abort', () => x.abort());
    x.send(form);
  });
}

/** Hands what was made in the page to the browser, as a download. */
export function download(blob: Blob, name: string) {
  const a = document.createElement('a');
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 60_000);
}

export function sentence(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
