import { normalInverse } from '../distributions';
import { makeRandom } from '../odds';
import type { OddsBasis } from './basis-odds';
import { isOption, MovedStructure, type MarketStructure } from './moved';
import { MovedExpiry } from './moved-expiry';
import { basisLevel, isAlongCurve } from './odds';
import { ownVolAt } from './own-vol';
import { LEAST_YEARS, type Scenario } from './scenario';

/** How likely a share of the most profit is reached at a close on the way to the horizon, by a basis that has paths. */
export interface OnTheWay {
  basis: OddsBasis;
  probability: number;
  /** Standard error of it, by the number of paths. */
  error: number;
}

/** The share of the most profit that is asked about. */
const SHARE = 0.5;
/** Closes that are looked at: all of them, or as many evenly. */
const MOST_CLOSES = 42;
const PATHS = 4000;
const SEED = 20310313;
/** Prices that the profit of a close is told at, evenly in their logarithm over so many deviations. */
const POINTS = 241;
const REACH = 6;

/** Profits at the closes, each along the logarithm of the price. */
class Closes {
  readonly years: Float64Array;
  readonly sessions: Int32Array;
  private readonly rows: Float64Array[];
  private readonly from: number;
  private readonly step: number;

  constructor(
    structure: MarketStructure,
    entry: number,
    { scenario, left, sessions, spread }: { scenario: Scenario; left: number; sessions: number; spread: number },
  ) {
    const count = Math.min(sessions, MOST_CLOSES);
    const shareAt = (i: number) => Math.round(((i + 1) * sessions) / count);
    this.sessions = Int32Array.from({ length: count }, (_, i) => shareAt(i));
    this.years = Float64Array.from(this.sessions, (done) => (done / sessions) * left);
    this.from = Math.log(scenario.price) - REACH * spread;
    this.step = (2 * REACH * spread) / (POINTS - 1);
    const prices = Float64Array.from({ length: POINTS }, (_, i) => Math.exp(this.from + i * this.step));
    const moved = new MovedStructure(structure);
    this.rows = Array.from(this.years, (years) =>
      moved
        .along({ ...scenario, elapsed: scenario.elapsed + years }, prices, 'values')
        .value.map((value) => value - entry),
    );
  }

  /** Profit at a close; that of the nearest price that was looked at beyond all of them. */
  profit(close: number, logPrice: number): number {
    const row = this.rows[close]!;
    const at = Math.min(Math.max((logPrice - this.from) / this.step, 0), POINTS - 1);
    const lower = Math.min(at | 0, POINTS - 2);
    return row[lower]! + (at - lower) * (row[lower + 1]! - row[lower]!);
  }
}

/**
 * How likely half of the most profit is reached at a close on the way to the first expiry: by seeded paths of one vol (geometric
 * Brownian motion that leads to the forward), and by past moves. A curve has no path.
 *
 * @param entry what was paid
 * @param target the most profit; without an end there is no half of it
 */
export function halfOnTheWay(structure: MarketStructure, entry: number, target: number): OnTheWay[] {
  const { scenario, choice, slices, legs, walk, around } = structure;
  const moved = new MovedStructure(structure);
  const horizon = moved.horizon(scenario);
  if (!horizon || !Number.isFinite(target) || !(target > 0)) return [];
  const { fit } = horizon;
  const left = horizon.left(scenario);
  const spread = horizon.spread(scenario);
  const sessions = Math.max(1, Math.round((fit.sessions * left) / fit.years));
  const hasOptions = legs.some((leg) => isOption(leg) && slices[leg.slice]!.fit === fit);
  if (!(left > LEAST_YEARS) || !(spread > 0) || !hasOptions) return [];
  const closes = new Closes(structure, entry, { scenario, left, sessions, spread });
  const start = Math.log(scenario.price);
  const drift = (Math.log(horizon.forward(scenario)) - start) / left;
  const goal = SHARE * target;
  const told = (basis: OddsBasis, reached: number, paths: number): OnTheWay => {
    const probability = reached / paths;
    return { basis, probability, error: Math.sqrt((probability * (1 - probability)) / paths) };
  };
  // What is implied moves with the scenario; what somebody says, or what was, does not.
  const ownVol = ownVolAt(structure, moved.ofLegs(scenario), horizon);
  const own = new MovedExpiry(fit, around, () => ownVol);
  const implied = { own: own.spread(scenario), level: spread };
  const found = (['own', 'level', 'realized', 'index', 'manual'] as const).flatMap((basis) => {
    const one = { ...choice, basis };
    const isImplied = basis === 'own' || basis === 'level';
    const vol = isAlongCurve(one) ? NaN : isImplied ? implied[basis] / Math.sqrt(left) : basisLevel(one, fit);
    return vol > 0 ? [told(basis, reachedBy(vol, closes, { start, drift, goal }), PATHS)] : [];
  });
  const past = walk && reachedByPast(walk, closes, { start, drift, goal });
  return past ? [...found, told('past', past.reached, past.paths)] : found;
}

interface Way {
  /** ln S now, carry a year, and the profit that is to be reached. */
  start: number;
  drift: number;
  goal: number;
}

/** How many paths of one vol reach a profit. */
function reachedBy(vol: number, closes: Closes, { start, drift, goal }: Way): number {
  const random = makeRandom(SEED);
  const { years } = closes;
  let reached = 0;
  for (let path = 0; path < PATHS; path++) {
    let [at, before] = [start, 0];
    for (let i = 0; i < years.length; i++) {
      const passed = years[i]! - before;
      before = years[i]!;
      at += (drift - 0.5 * vol * vol) * passed + vol * Math.sqrt(passed) * normalInverse(random());
      if (closes.profit(i, at) < goal) continue;
      reached++;
      break;
    }
  }
  return reached;
}

/** How many paths of the past do. */
function reachedByPast(
  walk: NonNullable<MarketStructure['walk']>,
  closes: Closes,
  { start, drift, goal }: Way,
): { reached: number; paths: number } | null {
  const { years, sessions } = closes;
  const ends: Float64Array[] = [];
  for (let i = 0; i < sessions.length; i++) {
    const found = walk(sessions[i]!, -drift * years[i]!);
    if (!found) return null;
    ends.push(found);
  }
  // Stretches that are too near to the end of what is held have no last close.
  const paths = ends.at(-1)!.length;
  let reached = 0;
  for (let path = 0; path < paths; path++) {
    const isReached = ends.some((column, i) => closes.profit(i, start + drift * years[i]! + column[path]!) >= goal);
    if (isReached) reached++;
  }
  return { reached, paths };
}
