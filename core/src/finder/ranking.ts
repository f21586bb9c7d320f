import { withinFormula, type CandidateFormula } from './formulas';
import type { Found } from './found';
import { FINDER_KINDS } from './kinds';
import type { FinderMeasure } from './measures';
import {
  bestOfNone,
  choose,
  histogramOf,
  Ranker,
  scatterOf,
  sharesOf,
  withinLimit,
  type Groups,
  type Histogram,
  type MeasureLimit,
  type Pool,
  type Ranking,
  type Scatter,
  type Weight,
} from './rank';
import { rowOf, type FoundRow } from './row';
import { columnOf } from './table';

const KINDS = FINDER_KINDS.length;
const MOST_LIMITS = 64;
/** Of a histogram, and of each side of a picture of two measures. */
const BINS = 36;

/** Of what the best so many are kept: of each kind and expiry of an underlying, of each underlying, or of each family. */
export const BEST_PER = ['expiry', 'underlying', 'family'] as const;
export type BestPer = (typeof BEST_PER)[number];

/** How candidates are ordered, and which of them are kept. */
export interface RankAsked {
  readonly weights: readonly Weight[];
  readonly limits: readonly MeasureLimit[];
  readonly formulas: readonly CandidateFormula[];
  /** Values of what formulas ask of an underlying, by its place among those found, the formula and the part. */
  readonly outside: (found: number, formula: number, part: number) => number;
  readonly each?: number | undefined;
  readonly per: BestPer;
  readonly isUndominated: boolean;
  readonly most: number;
}

/** What was found, in order, with what was left out. */
export interface RankedFound {
  readonly made: number;
  readonly within: number;
  /** By limit, then by formula: how many it leaves out alone. */
  readonly leftOut: readonly number[];
  /** By weight: how many have no score since it is not known of them. */
  readonly unknown: readonly number[];
  readonly dominated: number;
  readonly further: number;
  /** Standard errors that the best of so many would show without any edge. */
  readonly bestOfNone: number;
  /** Candidates that are kept, in order: their places among all. */
  readonly order: Uint32Array;
}

/** Orders what was found again and again: ranks and limits are kept while they are the same. */
export class FoundRanking {
  private readonly pool: Pool;
  private readonly starts: readonly number[];
  private readonly ranker: Ranker;
  private readonly columns = new Map<FinderMeasure, Float64Array>();
  private readonly limits = new Map<string, Uint8Array>();
  private readonly groups = new Map<BestPer, Groups>();
  private ranking: { key: string; ranking: Ranking } | null = null;

  constructor(readonly found: readonly Found[]) {
    const starts: number[] = [];
    let count = 0;
    for (const { table } of found) {
      starts.push(count);
      count += table.count;
    }
    this.starts = starts;
    this.pool = { count, column: (measure) => this.columnOf(measure) };
    this.ranker = new Ranker(this.pool);
  }

  private columnOf(measure: FinderMeasure): Float64Array {
    const [only] = this.found;
    if (only && this.found.length === 1) return columnOf(only.table, measure);
    const known = this.columns.get(measure);
    if (known) return known;
    const made = new Float64Array(this.pool.count);
    this.found.forEach(({ table }, i) => made.set(columnOf(table, measure), this.starts[i]));
    this.columns.set(measure, made);
    return made;
  }

  /** How many candidates there are of each value of a measure. */
  histogram(measure: FinderMeasure): Histogram | null {
    return histogramOf(this.columnOf(measure), BINS);
  }

  /** How many candidates lie where by two measures. */
  scatter(x: FinderMeasure, y: FinderMeasure): Scatter | null {
    return scatterOf(this.columnOf(x), this.columnOf(y), BINS);
  }

  private foundAt(at: number): number {
    let [low, high] = [0, this.starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle]! <= at) low = middle;
      else high = middle - 1;
    }
    return low;
  }

  private limitOf(limit: MeasureLimit): Uint8Array {
    const key = `${limit.measure} ${limit.least} ${limit.most}`;
    const known = this.limits.get(key) ?? withinLimit(this.columnOf(limit.measure), limit);
    this.limits.delete(key);
    this.limits.set(key, known);
    // A limit that is dragged leaves its steps behind.
    if (this.limits.size > MOST_LIMITS) this.limits.delete(this.limits.keys().next().value!);
    return known;
  }

  rank(asked: RankAsked): RankedFound {
    const { weights, each, per, isUndominated, most } = asked;
    const key = JSON.stringify(weights);
    if (this.ranking?.key !== key) this.ranking = { key, ranking: this.ranker.rank(weights) };
    const { ranking } = this.ranking;
    const formulas = asked.formulas.map((formula, f) =>
      withinFormula(formula, this.pool, (part) => this.spread((found) => asked.outside(found, f, part))),
    );
    const chosen = choose(ranking, weights, {
      limits: [...asked.limits.map((limit) => this.limitOf(limit)), ...formulas],
      ...{ each, groups: each === undefined ? undefined : this.groupsBy(per), isUndominated, most },
    });
    return {
      made: this.pool.count,
      ...{ within: chosen.within, leftOut: chosen.leftOut, unknown: ranking.unknown },
      ...{ dominated: chosen.dominated, further: chosen.further, bestOfNone: bestOfNone(this.pool.count) },
      order: chosen.rows,
    };
  }

  /** Rows of candidates by their places, with their scores as they were ranked last. */
  rows(order: Iterable<number>, weights: readonly Weight[]): FoundRow[] {
    const { ranking } = this.ranking!;
    return Array.from(order, (at) => {
      const place = this.foundAt(at);
      return rowOf(this.found[place]!, at - this.starts[place]!, {
        score: ranking.score[at]!,
        shares: sharesOf(ranking, weights, at),
      });
    });
  }

  /** A value of each underlying, for each of its candidates. */
  private spread(valueOf: (found: number) => number): Float64Array {
    const out = new Float64Array(this.pool.count);
    this.found.forEach(({ table }, i) => out.fill(valueOf(i), this.starts[i], this.starts[i]! + table.count));
    return out;
  }

  /** Candidates by what the best so many are kept of. */
  private groupsBy(per: BestPer): Groups {
    const known = this.groups.get(per);
    if (known) return known;
    const of = new Int32Array(this.pool.count);
    const numbers = new Map<string, number>();
    const numberOf = (name: string) => {
      const number = numbers.get(name) ?? numbers.size;
      numbers.set(name, number);
      return number;
    };
    this.found.forEach(({ table, symbol, family, expiries }, i) => {
      const start = this.starts[i]!;
      if (per !== 'expiry') {
        of.fill(numberOf(per === 'family' ? (family ?? symbol) : symbol), start, start + table.count);
        return;
      }
      // Named once for each kind and expiry, not for each candidate.
      const own = new Int32Array(KINDS * expiries.length).fill(-1);
      for (let at = 0; at < table.count; at++) {
        const place = table.kind[at]! * expiries.length + table.expiry[at]!;
        if (own[place]! < 0) own[place] = numberOf(`${symbol} ${place}`);
        of[start + at] = own[place]!;
      }
    });
    const made = { of, count: numbers.size };
    this.groups.set(per, made);
    return made;
  }
}
