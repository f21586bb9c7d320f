import type { FinderKind } from './kinds';
import { FINDER_KINDS } from './kinds';

/** Laws that an edge may be held to. */
export const EDGES = ['curve', 'past', 'ownVol', 'peers'] as const;
export type EdgeName = (typeof EDGES)[number];
/** What is told of each. */
const EDGE_PARTS = ['money', 'ofRisk', 'volPoints', 'error'] as const;
type EdgePart = (typeof EDGE_PARTS)[number];

/** Measures of a candidate by the path that they have in a row, each with what it is. Amounts are per unit of the underlying. */
const PLAIN = {
  days: 'to its first expiry, calendar days',
  cost: 'what it is entered at by the chosen fill, with the fees; negative where money is taken in',
  worst: 'bought at the ask, sold at the bid',
  mid: 'at the middle',
  best: 'bought at the bid, sold at the ask',
  width: 'the widest distance of a wing, or of its two strikes',
  maxProfit: 'at the first expiry; infinite where it has no end',
  maxLoss: 'at the first expiry, positive; infinite where it has no end',
  capital: 'at risk: the most that can be lost, or the worst cell of the stress where that has no end',
  rewardToRisk: 'most to gain over most to lose',
  returnOnRisk: 'most to gain over the capital at risk',
  annualized: 'that of a year, as simple interest',
  'evens.lower': 'the lowest break-even; none where it gains all the way down',
  'evens.upper': 'the highest one',
  evenDeviations: 'deviations from the forward to the nearest break-even',
  probabilityOfProfit: 'by the law of the curve',
  'odds.past': 'of a profit, by past moves',
  'odds.ownVol': 'of a profit, by one vol of one’s own',
  touch: 'odds that a sold strike is met on the way, by the curve',
  shortDelta: 'the largest delta on the forward of a sold leg, absolute; of all legs where none is sold',
  'greeks.delta': 'by the price',
  'greeks.gamma': 'twice by the price',
  'greeks.theta': 'a calendar day',
  'greeks.vega': 'a vol point',
  thetaPerVega: 'a day over a point of vol, whichever way that goes',
  costPerDelta: 'what is paid over the delta that it brings',
  volSpread: 'mean vol of what is sold less that of what is bought, weighted by vega',
  skew: 'for a point of the 25-delta risk reversal',
  curvature: 'for a point of the 25-delta butterfly',
  stress: 'the loss of its worst cell, positive',
  spread: 'from best to worst fill',
  spreadShare: 'that over the middle',
  'weakest.openInterest': 'of the leg with the least',
  'weakest.volume': 'of the leg with the least',
  'weakest.quality': 'of the expiry with the least, 0…100',
  announcements: 'in its life',
} as const;

const EDGE_WORDS: Readonly<Record<EdgeName, string>> = {
  curve: 'by the curve, each contract without the say of its own strike',
  past: 'by past moves of the same length',
  ownVol: 'by a vol of one’s own',
  peers: 'by the curve that the expiry borrows',
};
const PART_WORDS: Readonly<Record<EdgePart, string>> = {
  money: 'worth less what it is entered at',
  ofRisk: 'over the capital at risk',
  volPoints: 'over its vega, where legs do not cancel it',
  error: 'one standard error, in money',
};

type PlainMeasure = keyof typeof PLAIN;
export type FinderMeasure = PlainMeasure | `edges.${EdgeName}.${EdgePart}`;

/** All of them with what they are, in their order. */
export const FINDER_MEASURES = {
  ...PLAIN,
  ...Object.fromEntries(
    EDGES.flatMap((edge) =>
      EDGE_PARTS.map((part) => [`edges.${edge}.${part}`, `edge ${EDGE_WORDS[edge]}: ${PART_WORDS[part]}`]),
    ),
  ),
} as Readonly<Record<FinderMeasure, string>>;

export const MEASURE_KEYS = Object.keys(FINDER_MEASURES) as FinderMeasure[];

/** Place of a measure among the columns. */
export const PLACE = Object.fromEntries(MEASURE_KEYS.map((key, i) => [key, i])) as Readonly<
  Record<FinderMeasure, number>
>;

/** Legs of a candidate at most. */
export const MOST_LEGS = 4;

/** Candidates of an underlying, a column for each measure: per unit of the underlying, NaN for what is not known. */
export interface CandidateTable {
  readonly count: number;
  /** Places of the measures are those of {@link MEASURE_KEYS}. */
  readonly columns: readonly Float64Array[];
  /** Place of the kind among {@link FINDER_KINDS}. */
  readonly kind: Uint8Array;
  /** Contracts by their id, four a candidate; −1 where there are fewer. */
  readonly legs: Int32Array;
  readonly quantities: Int8Array;
  readonly held: Int8Array;
  /** Place of the first expiry among those that are looked through. */
  readonly expiry: Int32Array;
}

/** A column of a table. */
export const columnOf = (table: CandidateTable, measure: FinderMeasure): Float64Array => table.columns[PLACE[measure]]!;

export const kindAt = ({ kind }: CandidateTable, at: number): FinderKind => FINDER_KINDS[kind[at]!]!;

/** Bytes of a candidate. */
const BYTES = 8 * MEASURE_KEYS.length + 4 * MOST_LEGS + 4 + MOST_LEGS + 2;

/** Room for some candidates, in one piece: shared between threads where they can share. */
export function makeTable(count: number, isShared = false): CandidateTable {
  // Columns of doubles begin where doubles may.
  const size = BYTES * count + 64;
  return tableIn(isShared ? new SharedArrayBuffer(size) : new ArrayBuffer(size), count);
}

/** The table that lies in a piece of memory. */
export function tableIn(memory: ArrayBufferLike, count: number): CandidateTable {
  let at = 0;
  const take = <Column>(make: (offset: number) => Column, bytes: number): Column => {
    const made = make(at);
    at += bytes * count;
    return made;
  };
  const columns = MEASURE_KEYS.map(() => take((offset) => new Float64Array(memory, offset, count), 8));
  const legs = take((offset) => new Int32Array(memory, offset, MOST_LEGS * count), 4 * MOST_LEGS);
  const expiry = take((offset) => new Int32Array(memory, offset, count), 4);
  const quantities = take((offset) => new Int8Array(memory, offset, MOST_LEGS * count), MOST_LEGS);
  const held = take((offset) => new Int8Array(memory, offset, count), 1);
  const kind = take((offset) => new Uint8Array(memory, offset, count), 1);
  return { count, columns, kind, legs, quantities, held, expiry };
}
