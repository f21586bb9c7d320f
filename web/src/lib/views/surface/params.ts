import {
  GRID_QUANTITIES,
  PAIR_UNITS,
  type ExpiryClass,
  type GridQuantity,
  type PairUnit,
  type Side,
} from '@umwelt/core';
import { isExpiry } from '$lib/address';
import { defineParams, flag, oneOf, plain, sizeOf, someOf, texts, type Joint } from '$lib/address/params';

export const AXES = ['strike', 'forward', 'log', 'standardized', 'delta'] as const;
export type Axis = (typeof AXES)[number];

/** Which contracts the skew shows at each strike. */
export const SKEW_SIDES = ['otm', 'call', 'put', 'both'] as const;
export type SkewSides = (typeof SKEW_SIDES)[number];

/** What stands upright in the skew. */
export const SKEW_SCALES = ['vol', 'shape', 'variance'] as const;
export type SkewScale = (typeof SKEW_SCALES)[number];

export const EXPIRY_CLASSES = ['weekly', 'monthly', 'quarterly'] as const satisfies readonly ExpiryClass[];

/**
 * Which vol of each expiry the term structure shows: `atm`, or that of a put or call at a forward delta in per cent, such as
 * `put25`.
 */
export type TermReading = 'atm' | `put${number}` | `call${number}`;

/** What is drawn beside the vols of the term structure. */
export const TERM_LAYERS = ['steps', 'maturities', 'realized', 'band'] as const;
export type TermLayer = (typeof TERM_LAYERS)[number];

/** What the main panel shows. */
export const SURFACE_VIEWS = ['skew', 'map', 'pairs', 'measures'] as const;
export type SurfaceView = (typeof SURFACE_VIEWS)[number];

/** More lines than that could not be told apart. */
export const MOST_BESIDE = 4;

/** How a quantity over strikes and times is drawn: as colours, as a body, or as lines by strike. */
export const MAP_FORMS = ['heat', 'body', 'lines'] as const;
export type MapForm = (typeof MAP_FORMS)[number];

/** What the lower panel shows. */
export const SURFACE_PANELS = ['expiries', 'density', 'arbitrage', 'aside', 'deliveries'] as const;
export type SurfacePanel = (typeof SURFACE_PANELS)[number];

export interface SurfaceParams {
  /** Axis of the skew. */
  axis: Axis;
  sides: SkewSides;
  scale: SkewScale;
  /** Whether the upright axis of the skew is logarithmic. */
  isLog: boolean;
  /** Whether the distances of the quotes from the curve are shown under the skew. */
  hasMisses: boolean;
  /** Underlyings whose curves are drawn beside those of the one in view. */
  beside: readonly string[];
  main: SurfaceView;
  quantity: GridQuantity;
  form: MapForm;
  /** Whose Greeks the map shows. */
  mapSide: Side;
  /** Whether the map shows how far it is from the ghost. */
  isDifference: boolean;
  panel: SurfacePanel;
  /** Whether the band of the past lies under the skew. */
  hasBand: boolean;
  /** The expiries of the term structure. */
  classes: readonly ExpiryClass[];
  reading: TermReading;
  layers: readonly TermLayer[];
  /** Names of expiries that the skew leaves out. */
  hidden: readonly string[];
  /** How far from the forward the strikes of a pair are. */
  pairUnit: PairUnit;
  pairSize: number;
}

/** A reading of the term structure: deltas between 1 and 50. */
export function readingOf(text: string | null): TermReading {
  const [, side, digits] = /^(put|call)(\d{1,2})$/.exec(text ?? '') ?? [];
  const delta = Number(digits);
  return side && delta >= 1 && delta <= 50 ? (`${side}${delta}` as TermReading) : 'atm';
}

const MOST_OF_PAIRS: Readonly<Record<PairUnit, number>> = { steps: 100, percent: 99, deviations: 10 };

/** The distance of a pair, such as `5 percent`: whole steps, less than all of the forward, no more than ten deviations. */
const pair: Joint<SurfaceParams> = {
  name: 'pair',
  usual: { pairUnit: 'percent', pairSize: 5 },
  read: (text) => {
    const read = sizeOf(text, PAIR_UNITS, (unit) => MOST_OF_PAIRS[unit]);
    const isSense = read !== null && (read.unit !== 'steps' || Number.isInteger(read.size));
    return isSense ? { pairUnit: read.unit, pairSize: read.size } : pair.usual;
  },
  write: ({ pairUnit, pairSize }) => `${pairSize} ${pairUnit}`,
};

export const PARAMS = defineParams<SurfaceParams, 'pairUnit' | 'pairSize'>(
  {
    axis: oneOf('axis', AXES, 'strike'),
    sides: oneOf('sides', SKEW_SIDES, 'otm'),
    scale: oneOf('scale', SKEW_SCALES, 'vol'),
    isLog: flag('upright', 'log'),
    hasMisses: flag('misses', 'shown'),
    beside: texts('beside', ',', MOST_BESIDE),
    main: oneOf('view', SURFACE_VIEWS, 'skew'),
    quantity: oneOf('of', GRID_QUANTITIES, 'vol'),
    form: oneOf('as', MAP_FORMS, 'heat'),
    mapSide: oneOf('of-side', ['call', 'put'], 'call'),
    isDifference: flag('less', 'ghost'),
    panel: oneOf('panel', SURFACE_PANELS, 'expiries'),
    hasBand: flag('band', 'shown'),
    classes: someOf('classes', EXPIRY_CLASSES, EXPIRY_CLASSES),
    reading: { name: 'reading', usual: 'atm', read: readingOf, write: plain },
    layers: someOf('layers', TERM_LAYERS, ['realized']),
    hidden: texts('hidden', ',', Infinity, isExpiry),
  },
  { joint: [pair], ofUnderlying: ['hidden'] },
);
