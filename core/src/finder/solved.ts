import { ownPulls, type ExpiryFit, type OwnPull } from '../chain';
import { lognormalUndiscounted, touchProbability } from '../models';
import { curveLaw, lognormalLaw, type Law } from '../odds';
import { countUpTo, normalCdf } from '../distributions';
import {
  curvatureOf,
  deviationsAt,
  fillContract,
  makeColumns,
  MovedExpiry,
  skewOf,
  STRESS_FACTORS,
  STRESS_MOVES,
  unmoved,
  type ListedSlice,
} from '../structures';
import { curveVol } from '../surface';
import { isWithin } from './kinds';
import type { ExpiryVols, FinderAsked, FinderMarket } from './market';

export const STRESS_CELLS = STRESS_MOVES.length * STRESS_FACTORS.length;

/** Prices at the ends of the past moves to an expiry, with their sums up to each. */
export interface PastEnds {
  /** Ascending. */
  readonly prices: Float64Array;
  /** Of the first so many of them, and of their squares; one longer than the prices. */
  readonly sums: Float64Array;
  readonly squares: Float64Array;
  readonly independent: number;
}

/** An expiry that is looked through, with what all of its contracts share. */
export interface SolvedExpiry {
  readonly at: number;
  readonly fit: ExpiryFit;
  readonly moved: MovedExpiry;
  /** The law of its curve, and that of one's own vol; null where there is none. */
  readonly law: Law;
  readonly own: Law | null;
  readonly ownVol: number;
  readonly past: PastEnds | null;
  /** One deviation of the logarithm of the price. */
  readonly deviation: number;
  /** What a unit of the underlying is worth by the past; NaN where there is none. */
  readonly heldPast: number;
  /** Ids of its contracts: calls from `first`, puts from `first` + strikes. */
  readonly first: number;
  readonly strikes: Float64Array;
  /** Odds that either of two sold strikes is met, once they are asked for. */
  readonly touched: Map<number, number>;
}

/** What is known of single contracts, by their id; per unit of the underlying. */
export interface SolvedContracts {
  readonly count: number;
  readonly expiry: Int32Array;
  readonly sign: Int8Array;
  readonly strike: Float64Array;
  readonly mid: Float64Array;
  readonly half: Float64Array;
  readonly vol: Float64Array;
  readonly theory: Float64Array;
  readonly delta: Float64Array;
  readonly gamma: Float64Array;
  readonly theta: Float64Array;
  readonly vega: Float64Array;
  readonly deviations: Float64Array;
  /** Delta on the forward, absolute; odds to end in the money and to be touched, by the curve. */
  readonly forwardDelta: Float64Array;
  readonly itm: Float64Array;
  readonly touch: Float64Array;
  /** Worth by the curve without the own strike, by one's own vol with and without the skew, and by the past. */
  readonly without: Float64Array;
  readonly ownSkewed: Float64Array;
  readonly ownFlat: Float64Array;
  readonly past: Float64Array;
  /** What its vega does to skew and curvature, and one standard error of its worth by the vol at the forward. */
  readonly skew: Float64Array;
  readonly curvature: Float64Array;
  readonly unsure: Float64Array;
  readonly openInterest: Float64Array;
  readonly volume: Float64Array;
  /** How many past ends lie at or under the strike. */
  readonly cut: Int32Array;
  /** Whether it takes part, and whether any candidate is made of it: what is worked out beyond its quotes is of those alone. */
  readonly isUsed: Uint8Array;
  readonly isSolved: Uint8Array;
}

/** An underlying whose contracts are solved once; structures add them up. */
export interface SolvedMarket {
  readonly market: FinderMarket;
  readonly asked: FinderAsked;
  readonly expiries: readonly SolvedExpiry[];
  readonly contracts: SolvedContracts;
  /** Worth in each cell of the stress, contract after contract; NaN until an expiry is asked for. */
  readonly stress: Float64Array;
  readonly spot: number;
}

function contractsOf(count: number): SolvedContracts {
  const column = () => new Float64Array(count).fill(NaN);
  return {
    count,
    ...{ expiry: new Int32Array(count), sign: new Int8Array(count), cut: new Int32Array(count) },
    ...{
      isUsed: new Uint8Array(count),
      isSolved: new Uint8Array(count),
      strike: column(),
      mid: column(),
      half: column(),
      vol: column(),
    },
    ...{ theory: column(), delta: column(), gamma: column(), theta: column(), vega: column() },
    ...{ deviations: column(), forwardDelta: column(), itm: column(), touch: column(), without: column() },
    ...{ ownSkewed: column(), ownFlat: column(), past: column(), openInterest: column(), volume: column() },
    ...{ skew: column(), curvature: column(), unsure: column() },
  };
}

/**
 * One standard error of the mean of profits at past moves, as if one more independent move had lost all that is at risk (Laplace's
 * rule of succession): few moves that all gained know nothing of losses.
 *
 * @param mean of the profits, and of their squares
 * @param independent how many moves do not overlap
 * @param atRisk capital, 0 or more
 */
export function errorOfPast(mean: number, square: number, independent: number, atRisk: number): number {
  const beside = (independent * mean - atRisk) / (independent + 1);
  const variance = (independent * square + atRisk * atRisk) / (independent + 1) - beside * beside;
  return Math.sqrt(Math.max(0, variance) / independent);
}

function pastEndsOf(market: FinderMarket, fit: ExpiryFit): PastEnds | null {
  const sample = market.past(fit);
  if (!sample) return null;
  const prices = sample.ends.map((end) => fit.forward * Math.exp(end));
  const sums = new Float64Array(prices.length + 1);
  const squares = new Float64Array(prices.length + 1);
  for (let i = 0; i < prices.length; i++) {
    sums[i + 1] = sums[i]! + prices[i]!;
    squares[i + 1] = squares[i]! + prices[i]! ** 2;
  }
  return { prices, sums, squares, independent: sample.independent };
}

/** Why an expiry takes no part; null where it does. */
export function leftOutExpiry(
  { fit }: ListedSlice,
  { days, hasAll }: FinderAsked,
): 'days' | 'no curve' | 'set aside' | null {
  if (!isWithin(fit.days, days)) return 'days';
  if (!fit.curve || !(fit.years > 0) || !(fit.forward > 0)) return 'no curve';
  return fit.expiryAside !== null && !hasAll ? 'set aside' : null;
}

/** Reads the contracts of the expiries that are looked through, as far as limits on legs ask for it. */
export function readContracts(market: FinderMarket, asked: FinderAsked): SolvedMarket {
  const { slices, around } = market;
  const wanted = slices.flatMap((slice, at) => (leftOutExpiry(slice, asked) === null ? [at] : []));
  const count = wanted.reduce((sum, at) => sum + 2 * slices[at]!.strike.length, 0);
  const contracts = contractsOf(count);
  let first = 0;
  const expiries = wanted.map((at, place) => {
    const expiry = expiryOf(market, at, first);
    readExpiry(market, asked, expiry, place, contracts);
    first += 2 * expiry.strikes.length;
    return expiry;
  });
  const stress = new Float64Array(count * STRESS_CELLS).fill(NaN);
  return { market, asked, expiries, contracts, stress, spot: around.spot };
}

/**
 * Solves contracts that candidates are made of: their values and Greeks on the curve as Structure has them, and what they are worth by
 * the curve of the others, by one's own vol and by the past.
 *
 * @param isWanted 1 for each of them, by id
 */
export function solveContracts({ market, expiries, contracts }: SolvedMarket, isWanted: Uint8Array): void {
  for (const expiry of expiries) solveExpiry(market, expiry, isWanted, contracts);
}

function expiryOf(market: FinderMarket, at: number, first: number): SolvedExpiry {
  const { around } = market;
  const { fit, strike } = market.slices[at]!;
  const curve = fit.curve!;
  const ownVol = market.ownVol(fit);
  const past = pastEndsOf(market, fit);
  return {
    ...{ at, fit, first, strikes: strike },
    moved: new MovedExpiry(fit, around, (k) => curveVol(curve, k)),
    law: curveLaw(curve),
    own: ownVol > 0 ? lognormalLaw(ownVol * Math.sqrt(fit.years)) : null,
    ownVol,
    past,
    deviation: fit.atmVol * Math.sqrt(fit.years),
    // What it brings on the way is in the forward: only where the past leads elsewhere is it worth something else.
    heldPast: past ? around.spot + fit.discount * (past.sums.at(-1)! / past.prices.length - fit.forward) : NaN,
    touched: new Map(),
  };
}

/** What limits on legs ask of the contracts of an expiry, and whether they take part: no value is solved for it. */
function readExpiry(
  { slices, vols }: FinderMarket,
  { hasAll }: FinderAsked,
  { at, fit, first, strikes, law }: SolvedExpiry,
  place: number,
  out: SolvedContracts,
): void {
  for (const sign of [1, -1] as const) {
    const quotes = sign > 0 ? slices[at]!.call : slices[at]!.put;
    const { reason } = vols(at)[sign > 0 ? 'call' : 'put'];
    const base = first + (sign > 0 ? 0 : strikes.length);
    for (let i = 0; i < strikes.length; i++) {
      const id = base + i;
      const [bid, ask, strike] = [quotes.bid[i]!, quotes.ask[i]!, strikes[i]!];
      out.expiry[id] = place;
      out.sign[id] = sign;
      out.strike[id] = strike;
      if (reason[i] !== 0 && !(hasAll && ask > 0)) continue;
      out.isUsed[id] = 1;
      // Of one side alone nothing is bid.
      const low = bid >= 0 ? bid : 0;
      out.mid[id] = 0.5 * (low + ask);
      out.half[id] = 0.5 * (ask - low);
      out.openInterest[id] = quotes.openInterest[i]!;
      out.volume[id] = quotes.volume[i]!;
      const k = Math.log(strike / fit.forward);
      const vol = curveVol(fit.curve!, k);
      const root = vol * Math.sqrt(fit.years);
      const under = law.under(k);
      out.vol[id] = vol;
      out.deviations[id] = deviationsAt(strike, fit);
      out.forwardDelta[id] = normalCdf(sign * (-k / root + 0.5 * root));
      out.itm[id] = sign > 0 ? 1 - under : under;
    }
  }
}

/** Solves those contracts of an expiry that candidates are made of. */
function solveExpiry(market: FinderMarket, expiry: SolvedExpiry, isWanted: Uint8Array, out: SolvedContracts): void {
  const { around } = market;
  const { fit, first, strikes, moved, ownVol, past } = expiry;
  const vols = market.vols(expiry.at);
  const still = unmoved(around.spot);
  // One expiry whose vol is set before each question keeps what early exercise was solved for.
  let there = NaN;
  const byVol = new MovedExpiry(fit, around, () => there);
  const valueAt = (sign: number, strike: number, vol: number) => {
    there = vol;
    return vol > 0 ? byVol.value(sign, strike, still) : NaN;
  };
  const [price, one] = [Float64Array.of(around.spot), makeColumns(1)];
  const drift = Math.log(fit.forward / around.spot) / fit.years;
  for (let id = first; id < first + 2 * strikes.length; id++) {
    if (isWanted[id] !== 1) continue;
    const [sign, strike, vol] = [out.sign[id]!, out.strike[id]!, out.vol[id]!];
    fillContract(moved, sign, strike, still, price, one, 'first');
    // One way to a value, so that the same vol is the same worth.
    const theory = moved.value(sign, strike, still);
    out.isSolved[id] = 1;
    out.theory[id] = theory;
    out.delta[id] = one.delta[0]!;
    out.gamma[id] = one.gamma[0]!;
    out.theta[id] = one.theta[0]!;
    out.vega[id] = one.vega[0]!;
    out.skew[id] = skewOf(one.vega[0]!, out.deviations[id]!);
    out.curvature[id] = curvatureOf(one.vega[0]!, out.deviations[id]!);
    out.unsure[id] = 100 * one.vega[0]! * fit.atmVolUncertainty;
    out.touch[id] = touchProbability(around.spot, strike, fit.years, drift, vol);
    out.ownFlat[id] = valueAt(sign, strike, ownVol);
    out.ownSkewed[id] = valueAt(sign, strike, (vol * ownVol) / fit.atmVol);
    out.without[id] = theory;
    if (!past) continue;
    const cut = countUpTo(past.prices, strike);
    out.cut[id] = cut;
    const european = fit.discount * lognormalUndiscounted(sign, fit.forward, strike, vol * Math.sqrt(fit.years));
    const early = moved.isAmerican ? theory - european : 0;
    out.past[id] = fit.discount * meanPayoff(past, sign, strike, cut) + early;
  }
  fillWithout(expiry, ownPulls(strikes, fit, vols.call, vols.put), vols, out, valueAt);
}

/** Vols are solved to about so much; a smaller miss is told by the price, which is exact. */
const SOLVED_TO = 1e-4;

/** What the contracts of a strike are worth by the curve that would be without its quote. */
function fillWithout(
  { fit, first, strikes }: SolvedExpiry,
  { pull, sign }: OwnPull,
  vols: ExpiryVols,
  out: SolvedContracts,
  valueAt: (sign: number, strike: number, vol: number) => number,
): void {
  for (let i = 0; i < strikes.length; i++) {
    if (!(pull[i]! > 0)) continue;
    const told = first + (sign[i]! > 0 ? i : strikes.length + i);
    const vol = curveVol(fit.curve!, Math.log(strikes[i]! / fit.forward));
    const quoted = (sign[i]! > 0 ? vols.call : vols.put).mid[i]! - vol;
    let miss = quoted;
    if (Math.abs(quoted) < SOLVED_TO) {
      const theory = valueAt(sign[i]!, strikes[i]!, vol);
      const slope = (valueAt(sign[i]!, strikes[i]!, vol + SOLVED_TO) - theory) / SOLVED_TO;
      miss = (out.mid[told]! - theory) / slope;
    }
    if (Math.abs(miss * pull[i]!) < NOTHING) continue;
    for (const side of [1, -1] as const) {
      const id = first + (side > 0 ? i : strikes.length + i);
      if (out.isSolved[id] === 1) out.without[id] = valueAt(side, strikes[i]!, vol - miss * pull[i]!);
    }
  }
}

/** Less is rounding of a vol. */
const NOTHING = 1e-12;

/** Mean of what a contract pays at past ends. */
function meanPayoff({ prices, sums }: PastEnds, sign: number, strike: number, cut: number): number {
  const count = prices.length;
  const total = sign > 0 ? sums[count]! - sums[cut]! - (count - cut) * strike : cut * strike - sums[cut]!;
  return total / count;
}
