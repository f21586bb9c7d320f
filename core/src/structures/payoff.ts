/** A leg by what it pays when it expires. */
export interface PayoffLeg {
  readonly quantity: number;
  /** +1 call, −1 put. */
  readonly sign: number;
  readonly strike: number;
}

/** What legs of one expiry gain and lose there. */
export interface Payoff {
  /** Prices at which nothing is gained or lost, ascending. */
  breakEvens: number[];
  /** Infinity where there is no end to it; a loss is positive. */
  maxProfit: number;
  maxLoss: number;
  /** Between which prices it gains; an open end is 0 or Infinity. */
  gains: { from: number; to: number }[];
}

/** The underlying pays like a call with a strike of 0. */
export function heldLeg(quantity: number): PayoffLeg {
  return { quantity, sign: 1, strike: 0 };
}

/** Delta of a contract as it expires; on its strike half of it, as the odds have it. */
export function expiredDelta(sign: number, strike: number, price: number): number {
  const inside = sign * (price - strike);
  return sign * (inside > 0 ? 1 : inside === 0 ? 0.5 : 0);
}

/** Profit of legs at a price at which they expire, less what they cost. */
export function profitAt(legs: readonly PayoffLeg[], cost: number, price: number): number {
  return legs.reduce((sum, { quantity, sign, strike }) => sum + quantity * Math.max(0, sign * (price - strike)), -cost);
}

/**
 * Break-evens and limits of legs that expire together: profit is linear between their strikes.
 *
 * @param cost what was paid for them, negative where money was taken in
 */
export function payoffOf(legs: readonly PayoffLeg[], cost: number): Payoff {
  const strikes = [...new Set(legs.map(({ strike }) => strike))].sort((a, b) => a - b);
  const knots = [0, ...strikes.filter((strike) => strike > 0)];
  const at = (price: number) => profitAt(legs, cost, price);
  const slope = legs.reduce((sum, { quantity, sign }) => sum + (sign > 0 ? quantity : 0), 0);
  const values = knots.map(at);
  const last = knots.length - 1;
  const crossings = knots.flatMap((from, i) => {
    const value = values[i]!;
    const next = values[i + 1];
    if (next === undefined) return value * slope < 0 ? [from - value / slope] : [];
    return value * next < 0 ? [from - (value * (knots[i + 1]! - from)) / (next - value)] : [];
  });
  // A stretch of nothing has its ends as break-evens, not what lies inside; nothing throughout has none.
  const isNothing = slope === 0 && values.every((value) => value === 0);
  const isNothingOn = (i: number) => (i < 0 ? false : i > last ? slope === 0 : values[i] === 0);
  const touched = knots.filter((_, i) => values[i] === 0 && !isNothing && !(isNothingOn(i - 1) && isNothingOn(i + 1)));
  const breakEvens = [...new Set([...crossings, ...touched])].sort((a, b) => a - b);
  const ends = [0, ...breakEvens.filter((price) => price > 0), Infinity];
  const gains: Payoff['gains'] = [];
  for (let i = 0; i + 1 < ends.length; i++) {
    const [from, to] = [ends[i]!, ends[i + 1]!];
    const inside = to === Infinity ? Math.max(from, knots[last]!) + 1 : 0.5 * (from + to);
    if (!(at(inside) > 0)) continue;
    const before = gains.at(-1);
    if (before?.to === from) before.to = to;
    else gains.push({ from, to });
  }
  return {
    breakEvens,
    maxProfit: slope > 0 ? Infinity : Math.max(...values),
    maxLoss: slope < 0 ? Infinity : Math.max(0, -Math.min(...values)),
    gains,
  };
}
