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
