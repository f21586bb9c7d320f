import { normalInverse } from '../distributions';

/** One leg of a structure with what is known of its contract, for one unit of it. */
export interface PricedLeg {
  /** Signed: bought is plus. */
  readonly quantity: number;
  readonly bid: number;
  readonly ask: number;
  readonly theory: number;
  readonly delta: number;
  readonly gamma: number;
  /** Per calendar day. */
  readonly theta: number;
  /** Per vol point. */
  readonly vega: number;
  /** ln(K/F)/(σ_ATM·√T). */
  readonly deviations: number;
}

/** A structure as a whole, per unit of the underlying; costs are positive where money is paid. */
export interface PricedStructure {
  /** Theoretical value. */
  value: number;
  /** Bought at the ask and sold at the bid; at the middle; and the other way. NaN where a leg has no quote. */
  worst: number;
  mid: number;
  best: number;
  delta: number;
  gamma: number;
  theta: number;
  vega: number;
  /** What it gains when the 25-delta risk reversal rises by a point: its call by half a point, its put as much down. */
  skew: number;
  /** What it gains when the 25-delta butterfly rises by a point: both its wings, and others with the square of their distance. */
  curvature: number;
}

/** How far the 25-delta strikes lie from the forward, in deviations; what half a deviation of variance adds is left out. */
const WING = normalInverse(0.75);

/** ln(K/F)/(σ_ATM·√T): how many deviations a strike lies from the forward. */
export function deviationsAt(
  strike: number,
  { forward, atmVol, years }: { forward: number; atmVol: number; years: number },
): number {
  return Math.log(strike / forward) / (atmVol * Math.sqrt(years));
}

/** The skew of a contract by its vega and how far its strike lies from the forward. */
export const skewOf = (vega: number, deviations: number) => (vega * deviations) / (2 * WING);

/** Its curvature. */
export const curvatureOf = (vega: number, deviations: number) => vega * (deviations / WING) ** 2;

/** What legs are worth and cost together. */
export function priceStructure(legs: readonly PricedLeg[]): PricedStructure {
  const sum = (of: (leg: PricedLeg) => number) => legs.reduce((total, leg) => total + leg.quantity * of(leg), 0);
  return {
    value: sum(({ theory }) => theory),
    worst: sum(({ quantity, bid, ask }) => (quantity > 0 ? ask : bid)),
    mid: sum(({ bid, ask }) => 0.5 * (bid + ask)),
    best: sum(({ quantity, bid, ask }) => (quantity > 0 ? bid : ask)),
    delta: sum(({ delta }) => delta),
    gamma: sum(({ gamma }) => gamma),
    theta: sum(({ theta }) => theta),
    vega: sum(({ vega }) => vega),
    skew: sum(({ vega, deviations }) => skewOf(vega, deviations)),
    curvature: sum(({ vega, deviations }) => curvatureOf(vega, deviations)),
  };
}
