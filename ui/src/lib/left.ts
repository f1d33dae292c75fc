const soon = 8; // seconds that are looked at before anything is foretold
const enough = 0.04; // of the work

/** Foretells how long work will take yet, by how fast the share of it that is done has grown. A share that falls begins another work. */
export class Left {
  #begin?: { at: number; share: number };
  #last = 0;

  /** The words for it at a time in milliseconds; empty as long as too little is known, or next to nothing is left. */
  words(share: number | undefined, now: number): string {
    if (share === undefined || share < this.#last) this.#begin = undefined;
    this.#last = share ?? 0;
    if (share === undefined) return '';
    this.#begin ??= { at: now, share };
    const seconds = (now - this.#begin.at) / 1000;
    const done = share - this.#begin.share;
    if (seconds < soon || done < enough || share >= 1) return '';
    return about((seconds / done) * (1 - share));
  }
}

/** "about 40 seconds left", in steps that do not pretend to know more than they do. */
function about(seconds: number): string {
  if (seconds < 10) return '';
  if (seconds < 55) return `about ${Math.round(seconds / 10) * 10} seconds left`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 2) return 'about a minute left';
  return minutes < 100 ? `about ${minutes} minutes left` : `about ${Math.round(minutes / 60)} hours left`;
}
