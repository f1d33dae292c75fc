/** Ways to write a value for the application it is copied into. Only text is put together here, nothing computed. */
export const notations = {
  hex: [
    { name: '#0E3A53', write: (v: number[]) => '#' + v.map(two).join('').toUpperCase() },
    { name: '#0e3a53', write: (v: number[]) => '#' + v.map(two).join('') },
    { name: '0E3A53', write: (v: number[]) => v.map(two).join('').toUpperCase() },
  ],
  rgb: [
    { name: '14 58 83', write: (v: number[]) => v.join(' ') },
    { name: '14, 58, 83', write: (v: number[]) => v.join(', ') },
    { name: 'rgb(14 58 83)', write: (v: number[]) => `rgb(${v.join(' ')})` },
  ],
  cmyk: [
    { name: '96 50 20 64', write: (v: number[]) => v.join(' ') },
    { name: '96/50/20/64', write: (v: number[]) => v.join('/') },
    { name: 'C96 M50 Y20 K64', write: (v: number[]) => v.map((n, i) => 'CMYK'.charAt(i) + n).join(' ') },
  ],
};

function two(n: number) {
  return n.toString(16).padStart(2, '0');
}

export type NotationKind = keyof typeof notations;

/** A size for a sentence, in powers of ten. */
export function bytes(n: number): string {
  if (n >= 1e9) return `${(n / 1e9).toFixed(1)} GB`;
  if (n >= 1e6) return `${(n / 1e6).toFixed(1)} MB`;
  return n >= 1e3 ? `${(n / 1e3).toFixed(1)} KB` : `${n} bytes`;
}
