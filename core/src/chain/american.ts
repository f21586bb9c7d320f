import { americanExpiry, earlyExercise, type AmericanExpiry, type ExpiryTerms } from '../models';
import type { Forward, WrittenOn } from './types';

/**
 * What contracts of an expiry are priced on: a future's own forward, else the price with the yield that leads from it to
 * the forward, in which cash dividends and what borrowing costs are counted alike.
 */
export function expiryTerms(
  { kind, spot: quoted }: WrittenOn,
  { years, forward, rate, discount }: Forward,
): ExpiryTerms {
  if (kind === 'future') return { spot: forward, years, rate, yield: rate };
  const spot = quoted > 0 ? quoted : forward * discount;
  return { spot, years, rate, yield: rate - Math.log(forward / spot) / years };
}

/** Whether anybody would exercise contracts of a side before their expiry. */
export function isEarly(on: WrittenOn, forward: Forward, sign: number): boolean {
  if (on.exercise === 'european' || !(forward.years > 0 && forward.forward > 0)) return false;
  const { rate, yield: carryYield, years } = expiryTerms(on, forward);
  return earlyExercise(sign, rate, carryYield, years) !== 'never';
}

/** Whether a mid is within its spread of what exercising at once earns: it has no time value to be read. */
export function isExercised(sign: number, spot: number, strike: number, mid: number, spread: number): boolean {
  return mid - sign * (spot - strike) < spread;
}

/** Shares by which vols may lie under and over those that are known. */
const UNDER = 0.7;
const OVER = 1.3;
/** Further than this from the middle of the vols the boundaries are not interpolated well. */
const WIDEST = 3;

/** American contracts of an expiry, at about these vols. */
export function americanOn(on: WrittenOn, forward: Forward, vols: Float64Array): AmericanExpiry {
  const known = vols.filter((vol) => vol > 0).sort();
  const middle = known[known.length >> 1] ?? 0.5;
  const low = UNDER * Math.max(known[0] ?? 0, middle / WIDEST);
  const high = OVER * Math.min(known.at(-1) ?? middle, middle * WIDEST);
  return americanAt(expiryTerms(on, forward), low, high);
}

/** Expiries of a chain, at their rates and at moved ones, with what the screen looks at beside it. */
const MOST_KEPT = 200;
const kept = new Map<string, AmericanExpiry>();

/** {@link americanExpiry}, cached, since its boundaries cost more than many contracts. */
export function americanAt(terms: ExpiryTerms, low: number, high: number, vols?: number): AmericanExpiry {
  const key = [terms.spot, terms.years, terms.rate, terms.yield, low, high, vols].join(' ');
  const found = kept.get(key) ?? americanExpiry(terms, low, high, vols);
  kept.delete(key);
  kept.set(key, found);
  if (kept.size > MOST_KEPT) kept.delete(kept.keys().next().value!);
  return found;
}
