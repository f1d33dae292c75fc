import type { Schema } from '../../lib/api/client';

export type Option = Schema['BoardOption'];
export type Paint = Schema['BoardPaint'];
export type Content = Schema['BoardContent'];

/** A place of an option that takes a color: ground, type, outline, or an accent by its number. */
export type Role = 'ground' | 'type' | 'outline' | `accent${number}`;

/** The places of an option with what stands in them. */
export function roles(o: Option): { key: Role; name: string; paint: Paint }[] {
  return [
    { key: 'ground', name: 'ground', paint: o.ground },
    { key: 'type', name: 'type', paint: o.type },
    ...(o.outline ? [{ key: 'outline' as const, name: 'outline', paint: o.outline }] : []),
    ...o.accents.map((paint, i) => ({ key: `accent${i}` as const, name: i === 0 ? 'button' : 'accent', paint })),
  ];
}

/** The option with another color in one of its places. */
export function painted(o: Option, role: Role, paint: Paint): Option {
  if (role === 'ground' || role === 'type' || role === 'outline') return { ...o, [role]: paint };
  const at = Number(role.slice(6));
  return { ...o, accents: o.accents.map((a, i) => (i === at ? paint : a)) };
}

/** The library's rules about pairs that stand on an option: its type on its ground, and the label on its button. */
export function ruled(o: Option, parts: Schema['BoardPart'][], pairs: Schema['PairRule'][]): Schema['PairRule'][] {
  const button = parts.find((p) => p.key === 'button');
  const stands = [[o.type.hex, o.ground.hex], ...(button ? [[button.type, button.on]] : [])];
  return pairs.filter((p) => stands.some(([type, on]) => type === p.color.hex && on === p.ground.hex));
}

/** The option with ground and type exchanged. */
export const exchanged = (o: Option): Option => ({ ...o, ground: o.type, type: o.ground });

export const letter = (at: number) => String.fromCharCode(65 + at);

/** A drawing as a PNG picture, made by the browser: what an SVG file may ask of its reader has no bounds on a server. */
export async function asPicture(file: File, wide = 1600): Promise<Blob> {
  if (file.type !== 'image/svg+xml' && !/\.svg$/i.test(file.name)) return file;
  const url = URL.createObjectURL(new Blob([await file.arrayBuffer()], { type: 'image/svg+xml' }));
  try {
    const img = new Image();
    img.src = url;
    await img.decode();
    const [w, h] = [img.naturalWidth || 300, img.naturalHeight || 150];
    const scale = Math.min(wide / w, 4000 / h);
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [Math.max(1, Math.round(w * scale)), Math.max(1, Math.round(h * scale))];
    canvas.getContext('2d')?.drawImage(img, 0, 0, canvas.width, canvas.height);
    return await new Promise((done, fail) =>
      canvas.toBlob((b) => (b ? done(b) : fail(new Error('The drawing cannot be shown'))), 'image/png'),
    );
  } catch {
    throw new Error(`${file.name} is no drawing that the browser can show`);
  } finally {
    URL.revokeObjectURL(url);
  }
}
