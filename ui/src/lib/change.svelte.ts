import { createMutation, useQueryClient } from '@tanstack/svelte-query';
import { Problem, sentence, upload } from './api/client';
import type { Way } from './back';
import { message, type Next } from './state.svelte';

/** What may have to be read anew after a change; a color shows up in ledger, sheet, tray and sets alike. */
export type Shown =
  | 'ledger'
  | 'tray'
  | 'loading'
  | 'public'
  | 'hooks'
  | 'suggestions'
  | 'sets'
  | 'recipients'
  | 'audits'
  | 'sheet'
  | 'starters'
  | 'gradients'
  | 'presses'
  | 'boards'
  | 'typefaces'
  | 'ink-book'
  | 'house'
  | 'account';

/** What to say when a change is done, and the way back where there is one. */
export interface Done {
  said: string;
  /** Requests that lead back, or, for what a request cannot hold, what does: that is there until the page is loaded anew. */
  undo?: Way[] | (() => Promise<unknown>) | undefined;
  /** What is said of the way back, when it was gone. */
  back?: string;
  /** Where it leads on the page, if not where one is. */
  goes?: string;
  next?: Next;
}

type Work = () => Promise<string | Done | void>;

/**
 * The one way to change something: busy while it lasts, the problem as a sentence, the items it is about, and everything that is
 * shown of it read anew, whatever came of it. Call it while a component is set up. With aloud, a problem is said in the corner,
 * for changes that have no place of their own.
 */
export function useChange(shown: Shown[], options: { aloud?: boolean } = {}) {
  const client = useQueryClient();
  let problem = $state('');
  let blamed = $state<Record<number, string>>({});
  let progress = $state<{ name: string; share: number; wait?: number } | null>(null);
  let giveUp: AbortController | null = null;

  const refresh = () => Promise.all(shown.map((key) => client.invalidateQueries({ queryKey: [key] })));

  function fail(e: unknown) {
    if (options.aloud) message.say(sentence(e));
    else problem = sentence(e);
    if (e instanceof Problem) blamed = Object.fromEntries(e.items.map((i) => [i.id, i.reason]));
  }

  function done(what: string | Done | void) {
    if (!what) return;
    const { said, undo, back, goes, next }: Done = typeof what === 'string' ? { said: what } : what;
    message.done({
      text: said,
      undo: undo?.length === 0 && Array.isArray(undo) ? undefined : undo,
      back,
      goes,
      shown: [...shown],
      next,
    });
  }

  const mutation = createMutation(() => ({
    mutationFn: (work: Work) => work(),
    onMutate: () => {
      problem = '';
      blamed = {};
    },
    onError: fail,
    onSuccess: done,
    onSettled: refresh,
  }));

  type Send = <T>(
    path: string,
    what: Blob | FormData,
    name: string,
    options?: { method?: string; answer?: 'json' | 'blob'; from?: number; to?: number },
  ) => Promise<T>;

  async function sending<T>(work: (send: Send) => Promise<T>): Promise<T> {
    const control = (giveUp = new AbortController());
    try {
      return await work((path, what, name, { method = 'POST', answer = 'json', from = 0, to = 1 } = {}) => {
        progress = { name, share: from };
        return upload(path, what, name, {
          method,
          answer,
          signal: control.signal,
          progress: (share) => (progress = { name, share: from + share * (to - from) }),
          waits: (seconds) => (progress = { name, share: from, wait: Math.ceil(seconds) }),
        });
      });
    } finally {
      progress = null;
    }
  }

  return {
    get busy() {
      return mutation.isPending;
    },
    get problem() {
      return problem;
    },
    set problem(text: string) {
      problem = text;
    },
    /** What is wrong with which item, by its number. */
    get blamed() {
      return blamed;
    },
    /** The file that is on its way, and the share of it that has arrived. */
    get progress() {
      return progress;
    },
    /** Does it; true if it went well. */
    async run(work: Work): Promise<boolean> {
      try {
        await mutation.mutateAsync(work);
        return true;
      } catch {
        return false; // it is said already
      }
    },
    /** Sends a file, as part of the work. */
    send<T>(path: string, file: Blob, name: string, method = 'POST', answer: 'json' | 'blob' = 'json'): Promise<T> {
      return sending(async (send) => send<T>(path, file, name, { method, answer }));
    },
    /** Sends several forms as one piece of work, given up as a whole. Each has a name, and the shares of all where it begins and ends. */
    sendAll: sending,
    /** Gives up what is being sent. */
    cancel: () => giveUp?.abort(),
    refresh,
  };
}

export type Change = ReturnType<typeof useChange>;
