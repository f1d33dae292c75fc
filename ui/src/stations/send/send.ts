import type { Schema } from '../../lib/api/client';
import { recipientKinds } from '../../lib/engine.gen';

/** Kinds of recipients, in plain words. */
export const kinds: Record<string, string> = Object.fromEntries(recipientKinds.map((k) => [k.name, k.label]));

/** How an edition gets there, in plain words. */
export const ways: Record<string, string> = {
  pickup: 'picks it up at an address',
  mail: 'gets a mail',
  hand: 'is handed it',
  application: 'its application takes it',
};

export const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
export const moment = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });

export const of = (n: number, what: string) => (n === 1 ? `1 ${what}` : `${n} ${what}s`);

/** How a recipient stands with a set. */
export function standing(h: Schema['Holding']): string {
  switch (h.state) {
    case 'never':
      return h.current ? 'holds no edition' : 'nothing fixed yet';
    case 'waiting':
      return fetched(h)
        ? `fetched edition ${h.sent}, and has not said that it is loaded`
        : `was sent edition ${h.sent}, nothing came back yet`;
    case 'unconfirmed':
      return `${h.steps > 1 ? `${of(h.steps, 'edition')} behind` : 'behind'}: was sent edition ${h.sent}, and never said that it is loaded`;
    case 'current':
      return `holds edition ${h.edition}`;
    case 'behind':
      return `${h.steps > 1 ? `${of(h.steps, 'edition')} behind` : 'behind'}: holds edition ${h.edition}`;
    case 'paused':
      return h.edition ? `paused; holds edition ${h.edition}` : 'paused';
    default:
      return 'the last sending was not taken';
  }
}

/** Whether somebody should do something about it. */
export const urgent = (h: Schema['Holding']) => h.state === 'behind' || h.state === 'unconfirmed' || h.state === 'failed';

/** What came last is a file that was fetched: nobody said that it is loaded. */
const fetched = (h: Schema['Holding']) => h.receipt?.way === 'pickup' && !!h.receipt.packing && !h.receipt.ok;

/** Whether it would get a notice again. */
export const remindable = (h: Schema['Holding']) => h.state === 'waiting' && h.ways.includes('mail');

/** What sending to some came to, told of all who get the sets: nobody is called current who has not said so. */
export function outcome(sets: { recipients: Schema['Holding'][] }[], sent: number[]): string {
  const all = sets.flatMap((s) => s.recipients).filter((h) => h.state !== 'paused' && h.current > 0);
  const names = (list: Schema['Holding'][]) => [...new Set(list.map((h) => h.name))].join(', ');
  const mine = all.filter((h) => sent.includes(h.recipient));
  const parts = [`Sent to ${of(sent.length, 'recipient')}`];
  const late = mine.filter(urgent);
  const open = mine.filter((h) => h.state === 'waiting');
  if (late.length > 0) parts.push(`not taken by ${names(late)}`);
  if (open.length > 0) parts.push(`not confirmed yet by ${names(open)}`);
  const others = all.filter((h) => !sent.includes(h.recipient) && h.state !== 'current');
  const some = (states: string[], said: string) => {
    const list = others.filter((h) => states.includes(h.state));
    if (list.length > 0) parts.push(`${said} ${names(list)}`);
  };
  some(['behind', 'unconfirmed', 'failed'], 'still behind:');
  some(['waiting'], 'not confirmed before by');
  some(['never'], 'never sent to');
  if (parts.length === 1) parts.push('everybody is current');
  return parts.join('; ');
}

/** The twelve slots of a theme in plain words. */
export const slotNames: Record<string, string> = {
  dk1: 'text',
  lt1: 'ground',
  dk2: 'text 2',
  lt2: 'ground 2',
  accent1: 'accent 1',
  accent2: 'accent 2',
  accent3: 'accent 3',
  accent4: 'accent 4',
  accent5: 'accent 5',
  accent6: 'accent 6',
  hlink: 'link',
  folHlink: 'link seen',
};
