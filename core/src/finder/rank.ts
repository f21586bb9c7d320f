import { countUpTo, normalInverse } from '../distributions';
import type { FinderMeasure } from './measures';

/** A measure with how much its rank counts; a negative weight prefers low. */
export interface Weight {
  readonly measure: FinderMeasure;
  readonly weight: number;
}

/** Values of all candidates that were made, by measure. */
export interface Pool {
  readonly count: number;
  readonly column: (measure: FinderMeasure) => Float64Array;
}

/**
 * The rank of each value among all: the share of them that are less, with half of those that are the same, itself among them.
 *
 * @returns over 0 and under 1; NaN for NaN, which counts for nobody
 */
export function ranksOf(values: Float64Array): Float64Array {
  const sorted = values.filter((value) => !Number.isNaN(value)).sort();
  const count = sorted.length;
  // How many are less, for values that follow each other in order.
  const less = new Map<number, number>();
  const out = new Float64Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    if (Number.isNaN(value)) {
      out[i] = NaN;
      continue;
    }
    let rank = less.get(value);
    if (rank === undefined) {
      const below = countUpTo(sorted, value, true);
      const upTo = countUpTo(sorted, value);
      rank = (below + 0.5 * (upTo - below)) / count;
      // Many that are the same are looked for once.
      if (upTo - below > 1) less.set(value, rank);
    }
    out[i] = rank;
  }
  return out;
}

/** What a weight gives a rank: that itself, or where low is preferred what is missing of one. */
const shareOf = (rank: number, weight: number) => (weight < 0 ? 1 - rank : rank);

/** Candidates by their scores. */
export interface Ranking {
  /** 100 · Σ|w|·rank ÷ Σ|w|; NaN where a measure is not known. */
  readonly score: Float64Array;
  /** All that have a score, in falling order; ties by the return on risk. */
  readonly order: Uint32Array;
  /** By weight. */
  readonly ranks: readonly Float64Array[];
  /** How many have no score, by weight: those whose measure is not known. */
  readonly unknown: readonly number[];
}

/** Keeps the ranks of measures, which cost a sort each, while their pool is the same. */
export class Ranker {
  private readonly ranks = new Map<FinderMeasure, Float64Array>();

  constructor(private readonly pool: Pool) {}

  ranksOf(measure: FinderMeasure): Float64Array {
    const known = this.ranks.get(measure) ?? ranksOf(this.pool.column(measure));
    this.ranks.set(measure, known);
    return known;
  }

  rank(weights: readonly Weight[]): Ranking {
    const { count } = this.pool;
    const total = weights.reduce((sum, { weight }) => sum + Math.abs(weight), 0);
    const ranks = weights.map(({ measure }) => this.ranksOf(measure));
    const score = new Float64Array(count);
    weights.forEach(({ weight }, w) => {
      const by = (100 * Math.abs(weight)) / total;
      const own = ranks[w]!;
      for (let i = 0; i < count; i++) score[i]! += by * shareOf(own[i]!, weight);
    });
    if (!(total > 0)) score.fill(0);
    const returns = this.pool.column('returnOnRisk');
    const order = Uint32Array.from({ length: count }, (_, i) => i)
      .filter((i) => !Number.isNaN(score[i]!))
      .sort((a, b) => score[b]! - score[a]! || orLeast(returns[b]!) - orLeast(returns[a]!) || a - b);
    const unknown = ranks.map((own) => own.reduce((sum, rank) => sum + Number(Number.isNaN(rank)), 0));
    return { score, order, ranks, unknown };
  }
}

const orLeast = (value: number) => (Number.isNaN(value) ? -Number.MAX_VALUE : Math.min(value, Number.MAX_VALUE));

/** What each weight adds to the score of a candidate; they sum to it. */
export function sharesOf({ ranks }: Ranking, weights: readonly Weight[], at: number): number[] {
  const total = weights.reduce((sum, { weight }) => sum + Math.abs(weight), 0);
  return weights.map(({ weight }, w) => (100 * Math.abs(weight) * shareOf(ranks[w]![at]!, weight)) / total);
}

/** The least and the most that a measure may be. */
export interface MeasureLimit {
  readonly measure: FinderMeasure;
  readonly least?: number | undefined;
  readonly most?: number | undefined;
}

/** Whether values are within a limit, 1 or 0; what is not known is not. */
export function withinLimit(
  values: Float64Array,
  { least = -Infinity, most = Infinity }: Omit<MeasureLimit, 'measure'>,
): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let i = 0; i < values.length; i++) out[i] = Number(values[i]! >= least && values[i]! <= most);
  return out;
}

/** Whether a limit lets nothing through, whatever there is. */
export const isContradicted = ({ least = -Infinity, most = Infinity }: MeasureLimit) => least > most;

/** What is kept of an order. */
export interface Chosen {
  /** Candidates in their order. */
  readonly rows: Uint32Array;
  /** How many are within all limits. */
  readonly within: number;
  /** How many each limit leaves out alone. */
  readonly leftOut: readonly number[];
  /** Within the limits, but dominated, or not among the best of their group. */
  readonly dominated: number;
  readonly further: number;
}

export interface Choosing {
  /** Candidates within each limit, 1 or 0. */
  readonly limits: readonly Uint8Array[];
  /** The best so many of each group; all where that is not wanted. */
  readonly each?: number | undefined;
  readonly groups?: Groups | undefined;
  /** Whether those go that are worse in all weighted measures than another. */
  readonly isUndominated: boolean;
  /** Rows at most. */
  readonly most: number;
}

/** Candidates in groups: the number of each one's, and how many groups there are. */
export interface Groups {
  readonly of: Int32Array;
  readonly count: number;
}

const outside = (passes: Uint8Array) => {
  let count = 0;
  for (let i = 0; i < passes.length; i++) count += 1 - passes[i]!;
  return count;
};

/** Whether candidates are within all limits. */
function inAll(limits: readonly Uint8Array[], count: number): Uint8Array {
  const out = new Uint8Array(count).fill(1);
  for (const passes of limits) for (let i = 0; i < count; i++) out[i]! &= passes[i]!;
  return out;
}

/** Goes through an order and keeps what is within limits, not dominated, and among the best of its group. */
export function choose(
  { order, ranks, score: { length: count } }: Ranking,
  weights: readonly Weight[],
  { limits, each, groups, isUndominated, most }: Choosing,
): Chosen {
  const leftOut = limits.map(outside);
  const front = isUndominated ? new Front(ranks, weights) : null;
  const counts = new Int32Array(groups?.count ?? 0);
  const rows: number[] = [];
  let [within, dominated, further] = [0, 0, 0];
  const passes = inAll(limits, count);
  for (let i = 0; i < order.length; i++) {
    const at = order[i]!;
    if (passes[at] !== 1) continue;
    within++;
    if (front && !front.takes(at)) {
      dominated++;
      continue;
    }
    if (each !== undefined && groups && ++counts[groups.of[at]!]! > each) {
      further++;
      continue;
    }
    if (rows.length < most) rows.push(at);
  }
  return { rows: Uint32Array.from(rows), within, leftOut, dominated, further };
}

/**
 * Those so far that none is better than in all weighted measures. Taken in falling score, none of them is dominated by one that comes
 * later.
 */
class Front {
  /** Ranks of those in it, high preferred: so many beside each other for each. */
  private ranks = new Float64Array(1024);
  private readonly own: Float64Array;
  private count = 0;

  constructor(
    private readonly columns: readonly Float64Array[],
    private readonly weights: readonly Weight[],
  ) {
    this.own = new Float64Array(columns.length);
  }

  /** Takes one in unless another is no worse in any measure, and better in one. */
  takes(at: number): boolean {
    const { own, columns, weights, count } = this;
    const width = own.length;
    for (let w = 0; w < width; w++) own[w] = weights[w]!.weight < 0 ? -columns[w]![at]! : columns[w]![at]!;
    for (let place = 0; place < count; place++) {
      if (!this.isBetter(place * width)) continue;
      // Who has put one out puts others out: it is asked earlier the next time.
      this.swap(place, place >> 1);
      return false;
    }
    if ((count + 1) * width > this.ranks.length) {
      const larger = new Float64Array(2 * this.ranks.length);
      larger.set(this.ranks);
      this.ranks = larger;
    }
    this.ranks.set(own, count * width);
    this.count++;
    return true;
  }

  private isBetter(from: number): boolean {
    const { own, ranks } = this;
    let isMore = false;
    for (let w = 0; w < own.length; w++) {
      const gap = ranks[from + w]! - own[w]!;
      if (gap < 0) return false;
      if (gap > 0) isMore = true;
    }
    return isMore;
  }

  private swap(a: number, b: number): void {
    const { ranks } = this;
    const width = this.own.length;
    for (let w = 0; w < width; w++) {
      const kept = ranks[a * width + w]!;
      ranks[a * width + w] = ranks[b * width + w]!;
      ranks[b * width + w] = kept;
    }
  }
}

/**
 * How many standard errors the best of so many shows where none has an edge, were they independent (G. Blom, "Statistical estimates
 * and transformed beta-variables", 1958: the expected largest of normal variables). Candidates share their legs, so it is less.
 */
export function bestOfNone(count: number): number {
  return count > 1 ? normalInverse((count - 0.375) / (count + 0.25)) : 0;
}

/** How many candidates lie in even bins of a measure, between the first and the last hundredth of them. */
export interface Histogram {
  readonly from: number;
  readonly to: number;
  readonly counts: readonly number[];
  /** Values that are not known. */
  readonly unknown: number;
}

const TAIL = 0.01;

/** Where all but the outer hundredths of values lie; null of none. */
function reachOf(values: Float64Array): readonly [number, number] | null {
  const known = values.filter(Number.isFinite).sort();
  if (known.length === 0) return null;
  const at = (share: number) => known[Math.round(share * (known.length - 1))]!;
  return [at(TAIL), at(1 - TAIL)];
}

/** How many candidates lie where by two measures, between the outer hundredths of each. */
export interface Scatter {
  readonly x: readonly [from: number, to: number];
  readonly y: readonly [from: number, to: number];
  /** A row for each step of y, a column for each of x. */
  readonly counts: readonly (readonly number[])[];
}

/** Counts pairs of values in even bins; what lies beyond the ends is in the outer ones. Null where there is nothing to tell. */
export function scatterOf(across: Float64Array, up: Float64Array, bins: number): Scatter | null {
  const [x, y] = [reachOf(across), reachOf(up)];
  if (!x || !y) return null;
  const counts = Array.from({ length: bins }, () => new Array<number>(bins).fill(0));
  const place = (value: number, [from, to]: readonly [number, number]) =>
    to > from ? Math.min(bins - 1, Math.max(0, Math.floor(((value - from) / (to - from)) * bins))) : 0;
  for (let i = 0; i < across.length; i++) {
    if (!Number.isFinite(across[i]!) || !Number.isFinite(up[i]!)) continue;
    counts[place(up[i]!, y)]![place(across[i]!, x)]!++;
  }
  return { x, y, counts };
}

/** Bins of values; what lies beyond the ends is in the outer bins. Null where there is nothing to tell. */
export function histogramOf(values: Float64Array, bins: number): Histogram | null {
  const reach = reachOf(values);
  if (!reach) return null;
  const [from, to] = reach;
  const counts = new Array<number>(bins).fill(0);
  let known = 0;
  for (const value of values) {
    if (!Number.isFinite(value)) continue;
    known++;
    const place = to > from ? Math.floor(((value - from) / (to - from)) * bins) : 0;
    counts[Math.min(bins - 1, Math.max(0, place))]!++;
  }
  return { from, to, counts, unknown: values.length - known };
}
