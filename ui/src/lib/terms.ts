/** Words of the trade, each explained in one sentence where it stands. */
export const terms = {
  master: 'The value that decides what this color is; all others follow from it or were approved beside it.',
  approved: 'A person signed this value for this press or ink, and it stays when the master changes.',
  derived: 'Computed from the master for this press or ink; it follows when the master changes.',
  given: 'It came with the color, and nobody has signed it yet.',
  gamut: 'The gamut is all that a screen or a press can show; what is outside of it comes out as the nearest that it can.',
  totalInk: 'The four percentages together; paper takes only so much ink before it stays wet or prints through.',
  paper: 'Other distances are as an eye sees them that is used to the sheet; beside a screen the paper’s own color counts too.',
  black: 'The same look from more black and less of the other inks, or the other way round; printers prefer one or the other.',
  difference: 'ΔE00, the CIEDE2000 difference: under 1 nobody sees it, from 2 most people do, and from 5 it is another color.',
  tint: 'A tint is the color with white, a shade with black, a tone with gray, a sheer see-through over a ground.',
  steps: 'From very light to very dark in even steps for the eye, named 50 to 950; the color itself is the step nearest to it.',
  spot: 'One ink mixed for this color alone, printed instead of a build of four; its number stands in the ink book.',
  legal: 'Numbers that a broadcaster takes; what is beyond is clipped on some screens.',
} as const;

export type TermName = keyof typeof terms;
