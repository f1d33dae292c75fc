import type { Schema } from './api/client';

// Whether this screen shows more than sRGB; a window may be moved to another one.
const query = typeof matchMedia === 'function' ? matchMedia('(color-gamut: p3)') : undefined;
let wide = $state(query?.matches ?? false);
query?.addEventListener('change', (e) => (wide = e.matches));

export const screen = {
  get wide() {
    return wide;
  },
  /** The color as this screen shows it best: beyond sRGB where it can, else its hex. */
  face(c: { hex: string; master?: Schema['ColorMaster'] }): string {
    return (wide && c.master?.css) || c.hex;
  },
};
