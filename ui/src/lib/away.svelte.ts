/**
 * Whether the server or its database is away at this moment. Whoever meets it says so here; the page asks until it is back and then goes on
 * by itself.
 */
class Away {
  now = $state(false);
  #waiting: (() => void)[] = [];
  #asking = false;

  /** Notes that it is away, and resolves when it is back; false after a minute and a half. */
  async wait(): Promise<boolean> {
    this.now = true;
    const back = new Promise<boolean>((done) => {
      const timer = setTimeout(() => done(false), 90_000);
      this.#waiting.push(() => {
        clearTimeout(timer);
        done(true);
      });
    });
    void this.#ask();
    return back;
  }

  async #ask() {
    if (this.#asking) return;
    this.#asking = true;
    while (this.now) {
      await new Promise((done) => setTimeout(done, 1000));
      const ready = await fetch('/ready').then(
        (r) => r.ok,
        () => false,
      );
      if (!ready) continue;
      this.now = false;
      for (const go of this.#waiting.splice(0)) go();
    }
    this.#asking = false;
  }
}

export const away = new Away();
