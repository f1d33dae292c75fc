// Made from cmd/corewasm/engine by `make generate`; do not edit.

export interface Apart {
  deltaE: number;
  word: string;
}

export interface Begin {
  kind: string;
  space: string;
  at: number[];
  place: number[];
}

export interface BookArgs {
  name: string;
  csv: string;
  meant: string[];
}

export interface ColorsArgs {
  id: number;
  n?: number;
}

export interface Contrast {
  ratio: number;
  text: string;
  large: string;
  graphics: boolean;
  nearest?: string;
}

export interface ContrastArgs {
  value: string;
  ground: string;
  want?: number;
}

export interface DistancesArgs {
  id: number;
  side: number;
  value: string;
}

export interface GradientArgs {
  values: string[];
}

export interface Harmony {
  members: Member[];
  note: string;
}

export interface HarmonyArgs {
  value: string;
  wheel: string;
  scheme?: string;
  count?: number;
  members?: Member[];
  spread?: boolean;
}

export interface HeldAnswer {
  picture: Reduced;
  matches: HeldMatch[];
  unanswered: Unanswered[];
}

export interface HeldArgs {
  id: number;
  side: number;
  values: string[];
}

export interface HeldMatch {
  share: number;
  own: string;
  deltaE: number;
  word: string;
  x: number;
  y: number;
}

export interface InPlaceArgs {
  id: number;
  side: number;
  only: number;
}

export interface Ink {
  code: string;
  name: string;
  class: string;
  hex: string;
  deltaE: number;
  word: string;
}

export interface InkArgs {
  value: string;
  stock?: string;
  n: number;
}

export interface KeepApartArgs {
  a: string;
  b: string;
  kind: string;
  severity: number;
  any: boolean;
}

export interface KeptApart {
  ok: boolean;
  first: boolean;
  hex: string;
  seen: string;
  deltaE: number;
  word: string;
}

export interface Look {
  hex: string;
  rgb: [number, number, number];
  hsl: [number, number, number];
  hsb: [number, number, number];
  oklch: OKLCH;
  lab: [string, string, string];
  outside: boolean;
  exact: string;
  dulled: number;
  dull: string;
  edge: number;
  press: Press;
  inks: Ink[];
  white: number;
  black: number;
  deltaE: number;
  word: string;
}

export interface LookArgs {
  value?: string;
  oklch?: OKLCH;
  cmyk?: [number, number, number, number];
  press?: string;
  stock?: string;
  from?: string;
}

export interface Member {
  hex: string;
  turn: number;
  lift: number;
  chroma: number;
  free: boolean;
}

export interface Mended {
  hex: string;
  shown: string;
  deltaE: number;
  word: string;
}

export interface NamesArgs {
  values: string[];
  taken: string[];
}

export interface Near {
  at: number;
  deltaE: number;
  word: string;
}

export interface NearArgs {
  values: string[];
  among: string[];
}

export interface OKLCH {
  l: number;
  c: number;
  h: number;
}

export interface Opened {
  id: number;
  width: number;
  height: number;
  format: string;
  profile: string;
  note: string;
  inks: boolean;
  chart: Spot[];
  flat: Spot[];
}

export interface Pair {
  a: number;
  b: number;
  deltaE: number;
  simulated: number;
  light: number;
}

export interface PairAnswer {
  ratio: number;
  shown: string;
  want: number;
  type?: Mended;
  ground?: Mended;
  among: Type[];
}

export interface PairArgs {
  type: string;
  ground: string;
  want: number;
  among: string[];
}

export interface PointArgs {
  id: number;
  x: number;
  y: number;
  window: number;
}

export interface Press {
  name: string;
  exact: [number, number, number, number];
  whole: [number, number, number, number];
  total: number;
  hex: string;
  deltaE: number;
  word: string;
  inGamut: boolean;
  direction: string;
}

export interface ProofArgs {
  id: number;
  press: string;
  intent: number;
  bpc: boolean;
  paper: boolean;
  limit: number;
  side: number;
  own?: boolean;
  marks: boolean;
}

export interface Proofed {
  width: number;
  height: number;
  reduced: boolean;
  screen: number;
  print: number;
  gamut: number;
  ink: number;
  outOfGamut: number;
  overInk: number;
  heaviest: number;
  x: number;
  y: number;
}

export interface Reduced {
  id: number;
  width: number;
  height: number;
}

export interface Scale {
  steps: Step[];
  tints: string[];
  shades: string[];
  tones: string[];
}

export interface ScaleArgs {
  value: string;
  percents: number[];
}

export interface SeenAnswer {
  ordinary: Reduced;
  seen: Reduced;
}

export interface SeenArgs {
  id: number;
  side: number;
  kind: string;
  severity: number;
}

export interface Specimen {
  at: number;
  plain: string;
  on: Type[];
}

export interface SpecimenArgs {
  values: string[];
}

export interface Spot {
  hex: string;
  wide?: string;
  x: number;
  y: number;
  share: number;
}

export interface Step {
  name: number;
  hex: string;
  master: boolean;
}

export interface Type {
  at: number;
  ratio: number;
  shown: string;
  use: string;
}

export interface Unanswered {
  area: HeldMatch;
  nearest: number;
}

export interface Vision {
  seen: string[];
  confusable: Pair[];
}

export interface VisionArgs {
  values: string[];
  kind: string;
  severity: number;
}

export interface Written {
  name: string;
  about: string;
  text: string;
}

export interface WrittenArgs {
  value: string;
}

export interface Questions {
  apart: [NearArgs, Apart[][]];
  book: [BookArgs, boolean];
  close: [ColorsArgs, boolean];
  colors: [ColorsArgs, Spot[]];
  contrast: [ContrastArgs, Contrast];
  distances: [DistancesArgs, Reduced];
  gradients: [GradientArgs, Begin[]];
  harmony: [HarmonyArgs, Harmony];
  held: [HeldArgs, HeldAnswer];
  inks: [InkArgs, Ink[]];
  inplace: [InPlaceArgs, Reduced];
  keepapart: [KeepApartArgs, KeptApart];
  look: [LookArgs, Look];
  names: [NamesArgs, string[]];
  near: [NearArgs, Near[]];
  pair: [PairArgs, PairAnswer];
  proof: [ProofArgs, Proofed];
  sample: [PointArgs, Spot];
  scale: [ScaleArgs, Scale];
  seen: [SeenArgs, SeenAnswer];
  specimen: [SpecimenArgs, Specimen[]];
  vision: [VisionArgs, Vision];
  written: [WrittenArgs, Written[]];
}

/** The verdicts (core/audit/verdict.go), those first that want a decision. */
export const verdicts = [
  {
    "word": "drifted",
    "means": "not the brand value, but so close that it was surely meant",
    "fine": false,
    "known": true,
    "level": "warning",
    "shape": {
      "fill": "M1 15L15 1H1Z",
      "line": "",
      "tile": "linear-gradient(135deg, transparent 50%, ink 50%) 0 0 / 14px 14px"
    }
  },
  {
    "word": "retired",
    "means": "a color that was replaced, or close to one",
    "fine": false,
    "known": true,
    "level": "error",
    "shape": {
      "fill": "",
      "line": "M1 1l14 14M15 1L1 15",
      "tile": "linear-gradient(45deg, transparent 46%, ink 46% 54%, transparent 54%) 0 0 / 14px 14px, linear-gradient(135deg, transparent 46%, ink 46% 54%, transparent 54%) 0 0 / 14px 14px"
    }
  },
  {
    "word": "off-brand",
    "means": "none of the library's",
    "fine": false,
    "known": true,
    "level": "error",
    "shape": {
      "fill": "",
      "line": "",
      "tile": ""
    }
  },
  {
    "word": "unjudged",
    "means": "may be a color, and what it is cannot be told",
    "fine": false,
    "known": false,
    "level": "note",
    "shape": {
      "fill": "M3.5 4.5a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM7 4.5a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM10.5 4.5a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM3.5 8a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM7 8a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM10.5 8a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM3.5 11.5a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM7 11.5a1 1 0 1 0 2 0a1 1 0 1 0 -2 0ZM10.5 11.5a1 1 0 1 0 2 0a1 1 0 1 0 -2 0Z",
      "line": "",
      "tile": "radial-gradient(circle, ink 1px, transparent 1.5px) 0 0 / 5px 5px"
    }
  },
  {
    "word": "excused",
    "means": "differs on purpose, for a reason that is on record",
    "fine": true,
    "known": true,
    "level": "note",
    "shape": {
      "fill": "M5.5 8a2.5 2.5 0 1 0 5 0a2.5 2.5 0 1 0 -5 0Z",
      "line": "",
      "tile": "radial-gradient(circle, ink 2.5px, transparent 3px) 0 0 / 14px 14px"
    }
  },
  {
    "word": "on-brand",
    "means": "exactly a library color",
    "fine": true,
    "known": true,
    "level": "none",
    "shape": {
      "fill": "M1 1H15V15H1Z",
      "line": "",
      "tile": "ink"
    }
  }
] as const;

/** The kinds of recipients (keep/send/recipients.go). */
export const recipientKinds = [
  {
    "name": "office",
    "label": "office suite"
  },
  {
    "name": "video",
    "label": "video application"
  },
  {
    "name": "web",
    "label": "web team"
  },
  {
    "name": "print",
    "label": "print shop"
  },
  {
    "name": "client",
    "label": "client"
  },
  {
    "name": "other",
    "label": "other"
  }
] as const;
