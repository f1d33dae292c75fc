import type { Look } from '../../lib/engine';

/** A slider: what it says, how far it goes, and how its number is written. */
interface Part {
  name: string;
  max: number;
  step: number;
  write: (v: number) => string;
}

interface ModelOf {
  name: string;
  parts: Part[];
  /** Where its sliders stand for a color. */
  of: (l: Look) => number[];
  /** What is asked of the core for where its sliders stand; press is that of a build, hex the color as it is. */
  ask: (v: number[], was: { press: string; hex: string }) => Question;
}

type Question =
  { value: string } | { oklch: { l: number; c: number; h: number } } | { cmyk: [number, number, number, number]; press: string };

/** The color in every model that one may think in. */
const all = {
  lch: {
    name: 'lightness, chroma, hue',
    parts: [
      { name: 'Lightness', max: 1, step: 0.002, write: (v: number) => (v * 100).toFixed(1) },
      { name: 'Chroma', max: 0.33, step: 0.001, write: (v: number) => v.toFixed(3) },
      { name: 'Hue', max: 360, step: 0.5, write: (v: number) => `${v.toFixed(0)}°` },
    ],
    of: (l: Look) => [l.oklch.l, l.oklch.c, l.oklch.h],
    ask: (v: number[]) => ({ oklch: { l: v[0]!, c: v[1]!, h: v[2]! } }),
  },
  hsb: {
    name: 'hue, saturation, brightness',
    parts: [
      { name: 'Hue', max: 360, step: 1, write: (v: number) => `${v.toFixed(0)}°` },
      { name: 'Saturation', max: 100, step: 1, write: (v: number) => `${v.toFixed(0)}%` },
      { name: 'Brightness', max: 100, step: 1, write: (v: number) => `${v.toFixed(0)}%` },
    ],
    of: (l: Look) => [...l.hsb],
    ask: (v: number[]) => ({ value: `hsb(${v[0]} ${v[1]}% ${v[2]}%)` }),
  },
  rgb: {
    name: 'red, green, blue',
    parts: ['Red', 'Green', 'Blue'].map((name) => ({ name, max: 255, step: 1, write: (v: number) => v.toFixed(0) })),
    of: (l: Look) => [...l.rgb],
    ask: (v: number[]) => ({ value: `rgb(${v.join(' ')})` }),
  },
  cmyk: {
    name: 'the inks of a build',
    parts: ['Cyan', 'Magenta', 'Yellow', 'Black'].map((name) => ({
      name,
      max: 100,
      step: 1,
      write: (v: number) => v.toFixed(0),
    })),
    of: (l: Look) => [...l.press.whole],
    ask: (v: number[], was: { press: string }) => ({ cmyk: v as [number, number, number, number], press: was.press }),
  },
  ink: {
    name: 'a spot ink of the book',
    parts: [] as Part[],
    of: () => [],
    ask: (_: number[], was: { hex: string }) => ({ value: was.hex }),
  },
};
export type Model = keyof typeof all;

export const models: Record<Model, ModelOf> = all;
