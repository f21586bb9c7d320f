import type { ExpiryId } from '../contracts';
import { quantileOf } from '../distributions';
import { lognormalUndiscounted } from '../models';
import type { Candidates } from './candidates';
import { withinFormula, type CandidateFormula } from './formulas';
import { FINDER_KINDS, type FinderKind } from './kinds';
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
import { legsOf, type CandidateLeg } from './row';
import type { SolvedContracts } from './solved';
import { columnOf, kindAt, MOST_LEGS, type CandidateTable } from './table';
import { MEASURE_KEYS, type FinderMeasure } from './measures';

/** Past moves that a structure is drawn over: one in twenty each. */
const DOTS = 20;

/** An expiry as far as rows tell of it. */
export interface FoundExpiry extends ExpiryId {
  readonly days: number;
  readonly years: number;
  readonly forward: number;
  readonly discount: number;
  readonly deviation: number;
  /** Prices at the ends of past moves, one in twenty each; none where too few are held. */
  readonly dots: readonly number[];
  /** Past moves of that length that do not overlap. */
  readonly independent: number;
  /** The vol of one's own; NaN without. */
  readonly ownVol: number;
  /** What it settled at since; NaN where that is not known. */
  readonly settled: number;
}

/** What was found on an underlying, as it goes from thread to thread. */
export interface Found {
  readonly symbol: string;
  readonly family: string | null;
  /** Epoch milliseconds. */
  readonly asof: number;
  readonly price: number;
  readonly multiplier: number;
  readonly table: CandidateTable;
  readonly contracts: Pick<SolvedContracts, 'expiry' | 'sign' | 'strike' | 'mid' | 'vol' | 'openInterest' | 'volume'>;
  readonly expiries: readonly FoundExpiry[];
  readonly over: number;
  readonly expiriesOut: number;
  readonly quotesOut: number;
}

/** What is said of an underlying beside its candidates. */
export type FoundOn = Pick<Found, 'symbol' | 'family' | 'asof' | 'price' | 'multiplier'>;

/**
 * What was found, without what it was solved with.
 *
 * @param settledAt what an expiry settled at; NaN where that is not known
 */
export function foundOf(
  { solved, table, over, expiriesOut, quotesOut }: Candidates,
  on: FoundOn,
  settledAt: (expiry: ExpiryId) => number = () => NaN,
): Found {
  const { expiry, sign, strike, mid, vol, openInterest, volume } = solved.contracts;
  return {
    ...{ ...on, table, over, expiriesOut, quotesOut },
    contracts: { expiry, sign, strike, mid, vol, openInterest, volume },
    expiries: solved.expiries.map(({ fit, deviation, past, ownVol }) => ({
      ...{ expiry: fit.expiry, settlement: fit.settlement, days: fit.days, years: fit.years, forward: fit.forward },
      ...{ discount: fit.discount, deviation, ownVol, settled: settledAt(fit), independent: past?.independent ?? 0 },
      dots: past ? Array.from({ length: DOTS }, (_, i) => quantileOf(past.prices, (i + 0.5) / DOTS)) : [],
    })),
  };
}

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

/** A leg of a row with what is known of its contract. */
export type FoundLeg = CandidateLeg & {
  readonly mid: number;
  readonly vol: number;
  readonly openInterest: number;
  readonly volume: number;
};

/** A row: what, how it is drawn, and why it stands where it does. */
export interface FoundRow {
  readonly symbol: string;
  readonly multiplier: number;
  readonly price: number;
  readonly kind: FinderKind;
  readonly legs: readonly FoundLeg[];
  readonly measures: Readonly<Record<FinderMeasure, number>>;
  readonly score: number;
  /** What each weight adds to the score. */
  readonly shares: readonly number[];
  readonly sketch: RowSketch;
  /** What it gained by its expiry; NaN where that is not known. */
  readonly became: number;
  readonly settled: number;
  readonly ownVol: number;
  /** Past moves of that length that do not overlap. */
  readonly independent: number;
}

/** Profit at the first expiry along the price. */
export interface RowSketch {
  readonly prices: readonly number[];
  readonly profits: readonly number[];
  readonly forward: number;
  readonly dots: readonly { readonly price: number; readonly profit: number }[];
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
  histogram(measure: FinderMeasure, bins: number): Histogram | null {
    return histogramOf(this.columnOf(measure), bins);
  }

  /** How many candidates lie where by two measures. */
  scatter(x: FinderMeasure, y: FinderMeasure, bins: number): Scatter | null {
    return scatterOf(this.columnOf(x), this.columnOf(y), bins);
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
    return Array.from(order, (at) => this.rowAt(at, ranking, weights));
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

  private rowAt(at: number, ranking: Ranking, weights: readonly Weight[]): FoundRow {
    const place = this.foundAt(at);
    const found = this.found[place]!;
    const own = at - this.starts[place]!;
    const { table, contracts, expiries } = found;
    const ids = Array.from({ length: MOST_LEGS }, (_, leg) => table.legs[MOST_LEGS * own + leg]!);
    const legs = legsOf(found, table, own).map((leg, i): FoundLeg => {
      const id = ids[i]!;
      if ('underlying' in leg) return { ...leg, mid: found.price, vol: NaN, openInterest: NaN, volume: NaN };
      const { mid, vol, openInterest, volume } = contracts;
      return { ...leg, mid: mid[id]!, vol: vol[id]!, openInterest: openInterest[id]!, volume: volume[id]! };
    });
    const first = expiries[table.expiry[own]!]!;
    const profitAt = profitOf(found, own);
    const isTogether = legs.every((leg) => 'underlying' in leg || leg.expiry === first.expiry);
    return {
      ...{ symbol: found.symbol, multiplier: found.multiplier, price: found.price, kind: kindAt(table, own), legs },
      measures: Object.fromEntries(MEASURE_KEYS.map((key, i) => [key, table.columns[i]![own]!])) as Record<
        FinderMeasure,
        number
      >,
      ...{ score: ranking.score[at]!, shares: sharesOf(ranking, weights, at) },
      sketch: sketchOf(first, legs, profitAt),
      ...{ became: isTogether ? profitAt(first.settled) : NaN, settled: first.settled },
      ...{ ownVol: first.ownVol, independent: first.independent },
    };
  }
}

const KINDS = FINDER_KINDS.length;
const MOST_LIMITS = 64;

/**
 * What a candidate gains at its first expiry, by the price there: exactly where its legs end together; a leg that goes on is told
 * as one that is held, at the vol of its strike.
 */
export function profitOf({ table, contracts, expiries }: Found, at: number): (price: number) => number {
  const place = table.expiry[at]!;
  const first = expiries[place]!;
  const cost = columnOf(table, 'cost')[at]!;
  return (price) => {
    let sum = table.held[at]! * price - cost;
    for (let leg = 0; leg < MOST_LEGS; leg++) {
      const id = table.legs[MOST_LEGS * at + leg]!;
      if (id < 0) break;
      const [sign, strike] = [contracts.sign[id]!, contracts.strike[id]!];
      const own = expiries[contracts.expiry[id]!]!;
      const left = own.years - first.years;
      const inner = Math.max(0, sign * (price - strike));
      const forward = (price * own.forward) / first.forward;
      const value =
        contracts.expiry[id] === place
          ? inner
          : (own.discount / first.discount) *
            lognormalUndiscounted(sign, forward, strike, contracts.vol[id]! * Math.sqrt(left));
      sum += table.quantities[MOST_LEGS * at + leg]! * value;
    }
    return sum;
  };
}

const REACH = 2.5;
const POINTS = 25;

/** Draws a profit over two and a half deviations, and further where strikes lie outside. */
function sketchOf(
  { forward, deviation, dots }: FoundExpiry,
  legs: readonly FoundLeg[],
  profitAt: (price: number) => number,
): RowSketch {
  const strikes = legs.flatMap((leg) => ('underlying' in leg ? [] : [leg.strike]));
  const low = Math.min(forward * Math.exp(-REACH * deviation), ...strikes.map((strike) => 0.98 * strike));
  const high = Math.max(forward * Math.exp(REACH * deviation), ...strikes.map((strike) => 1.02 * strike));
  const even = Array.from({ length: POINTS }, (_, i) => low + ((high - low) * i) / (POINTS - 1));
  const prices = [...new Set([...even, ...strikes])].sort((a, b) => a - b);
  return {
    ...{ prices, profits: prices.map(profitAt), forward },
    dots: dots.map((price) => ({ price, profit: profitAt(price) })),
  };
}
