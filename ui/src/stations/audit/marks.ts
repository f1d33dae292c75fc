import type { Schema } from '../../lib/api/client';

export type Mark = Schema['AuditBox'];

const wide = 900; // pixels across that a drawing is looked at with
const cell = 8;
const reach = [-2, -1, 0, 1, 2]; // cells apart that are one place
const seen = 6; // by which a channel has to differ
const most = 300;

async function pixels(address: string, width?: number, height?: number) {
  const img = new Image();
  img.src = address;
  await img.decode();
  const w = width ?? wide;
  const h = height ?? Math.max(1, Math.round((w * (img.naturalHeight || 1)) / (img.naturalWidth || 1)));
  const canvas = document.createElement('canvas');
  canvas.width = w;
  canvas.height = h;
  const on = canvas.getContext('2d', { willReadFrequently: true });
  if (!on) throw new Error('no canvas');
  on.fillStyle = '#fff';
  on.fillRect(0, 0, w, h);
  on.drawImage(img, 0, 0, w, h);
  return { w, h, data: on.getImageData(0, 0, w, h).data };
}

/** Where found colors stand in a drawing: where it differs from the same drawing with a code in place of each of them. */
export async function marksOf(
  shown: string,
  coded: string,
  codes: (Schema['AuditCode'] & { was: string })[],
): Promise<{ marks: Mark[]; more: number }> {
  const a = await pixels(shown);
  const b = await pixels(coded, a.w, a.h);
  const rgb = (hex: string) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16));
  const of = codes.map((c) => ({ key: c.key, is: rgb(c.hex), was: rgb(c.was) }));
  const near = (v: number[], data: Uint8ClampedArray, i: number, by: number) => v.every((n, k) => Math.abs(n - data[i + k]!) <= by);
  const across = Math.ceil(a.w / cell);
  const cells: Record<string, (number[] | undefined)[]> = {};
  for (let i = 0, p = 0; i < a.data.length; i += 4, p++) {
    const differs = [0, 1, 2].some((k) => Math.abs(a.data[i + k]! - b.data[i + k]!) > seen);
    if (!differs) continue;
    const key = of.find((c) => near(c.is, b.data, i, 12) && near(c.was, a.data, i, 60))?.key;
    if (!key) continue;
    const x = p % a.w;
    const y = Math.floor(p / a.w);
    const at = Math.floor(y / cell) * across + Math.floor(x / cell);
    const list = (cells[key] ??= []);
    const c = (list[at] ??= [x, y, x + 1, y + 1]);
    c[0] = Math.min(c[0]!, x);
    c[1] = Math.min(c[1]!, y);
    c[2] = Math.max(c[2]!, x + 1);
    c[3] = Math.max(c[3]!, y + 1);
  }
  const speck = (b: number[]) => (b[2]! - b[0]!) * (b[3]! - b[1]!) < 16;
  const out: Mark[] = [];
  let more = 0;
  for (const [key, list] of Object.entries(cells)) {
    const sure = list.some((c) => c && !speck(c));
    for (const i of Object.keys(list).map(Number)) {
      const first = list[i];
      if (!first) continue;
      const box = [...first];
      const next = [i];
      while (next.length > 0) {
        const at = next.pop()!;
        const c = list[at];
        if (!c) continue;
        list[at] = undefined;
        box[0] = Math.min(box[0]!, c[0]!);
        box[1] = Math.min(box[1]!, c[1]!);
        box[2] = Math.max(box[2]!, c[2]!);
        box[3] = Math.max(box[3]!, c[3]!);
        for (const dy of reach)
          for (const dx of reach) {
            const x = (at % across) + dx;
            const n = (Math.floor(at / across) + dy) * across + x;
            if (x >= 0 && x < across && list[n]) next.push(n);
          }
      }
      if (sure && speck(box)) continue; // an edge between two others that looks like it
      if (out.length === most) {
        more++;
        continue;
      }
      out.push({ key, x: box[0]! / a.w, y: box[1]! / a.h, width: (box[2]! - box[0]!) / a.w, height: (box[3]! - box[1]!) / a.h });
    }
  }
  return { marks: out, more };
}
