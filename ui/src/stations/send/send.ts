import type { Schema } from '../../lib/api/client';

/** Kinds of recipients, in plain words. */
export const kinds: Record<string, string> = {
  office: 'office suite',
  video: 'video application',
  web: 'web team',
  print: 'print shop',
  client: 'client',
  other: 'other',
};

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
      return `was sent edition ${h.receipt?.edition}, nothing came back yet`;
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
export const urgent = (h: Schema['Holding']) => h.state === 'behind' || h.state === 'failed';

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
