import { sentence } from '../../lib/api/client';
import { engine, type Opened } from '../../lib/engine';

/** The picture that the proof's views look at: opened once, it stays for as long as the page is open. */
class ProofPicture {
  file = $state.raw<File | undefined>();
  /** The file as the browser shows it by itself, while the core decodes it. */
  url = $state('');
  opened = $state.raw<Opened | undefined>();
  problem = $state('');
  busy = $state(false);

  async take(file: File | undefined) {
    if (!file) return;
    if (this.opened) engine.ask('close', { id: this.opened.id }).catch(() => undefined); // it may be gone with the core that had it
    if (this.url) URL.revokeObjectURL(this.url);
    [this.file, this.opened, this.problem, this.busy] = [file, undefined, '', true];
    this.url = URL.createObjectURL(file);
    try {
      const opened = await engine.open(file);
      if (this.file === file) this.opened = opened;
      else void engine.ask('close', { id: opened.id });
    } catch (e) {
      if (this.file === file) [this.problem, this.file] = [`${file.name}: ${sentence(e)}.`, undefined];
    }
    if (this.file === file || !this.file) this.busy = false;
  }
}

export const picture = new ProofPicture();

/** Draws pixels on a canvas, in their own size. */
export const draw = (image: ImageData | undefined) => (canvas: HTMLCanvasElement) => {
  if (!image) return;
  [canvas.width, canvas.height] = [image.width, image.height];
  canvas.getContext('2d')!.putImageData(image, 0, 0);
};

/** Fetches a picture that the core made, and lets the core forget it. */
export async function fetched(made: { id: number; width: number; height: number }): Promise<ImageData> {
  const image = await engine.pixels(made);
  void engine.ask('close', { id: made.id });
  return image;
}

/** A name for a file that is made of another one: "deck.jpg" becomes "deck, as proposed.png". */
export const called = (name: string, what: string, ending: string) => `${name.replace(/\.[^.]*$/, '')}, ${what}.${ending}`;
