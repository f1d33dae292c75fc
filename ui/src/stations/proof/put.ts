import type { Part } from '../../lib/subject.svelte';
import { bring } from '../gather/incoming.svelte';

/** Puts a color of the subject, changed for the sake of another one, on the tray. Returns what to say. */
export function putChanged(hex: string, was: Part, how: { name: string; why: string }, other: Part, longest = 60) {
  const name = [...`${was.name} ${how.name} ${other.name}`].slice(0, longest).join('');
  const source = `${was.name} ${was.hex}, changed to ${how.why} ${other.name} ${other.hex}`;
  return bring([{ value: hex, name, origin: 'proof', source }], '', false);
}
