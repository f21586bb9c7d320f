import { MovedStructure, type MarketStructure } from './moved';

/** A structure that is exchanged with the underlying that makes its delta nothing at a reference price. */
export interface TiedPackage {
  /** The reference price. */
  price: number;
  /** What it is worth there, and its delta there. */
  value: number;
  delta: number;
  /** Units of the underlying beside it, in contracts' worth: the delta turned over. */
  units: number;
  /** What it is worth now with them, which were exchanged at the reference price. */
  now: number;
}

/**
 * Ties a structure to a price of the underlying, as desks quote them while the market moves: what it is worth at that price, the
 * underlying that goes with it, and what both together are worth at the price of the scenario.
 */
export function tiedTo(structure: MarketStructure, price: number): TiedPackage {
  const { scenario } = structure;
  const moved = new MovedStructure(structure);
  const there = moved.along(scenario, Float64Array.of(price), 'first');
  const [value, delta] = [there.value[0]!, there.delta[0]!];
  const units = delta === 0 ? 0 : -delta;
  return { price, value, delta, units, now: moved.value(scenario) + units * (scenario.price - price) };
}
