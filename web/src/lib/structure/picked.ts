import {
  isSameContract,
  missingLeg,
  oddsOfLegs,
  payoffOfLegs,
  placeLegs,
  priceLegs,
  writtenOn,
  type BasisChoice,
  type LegValues,
  type NamedLeg,
  type OptionId,
  type Payoff,
  type PlacedLeg,
  type PricedStructure,
  type SideValues,
  type StructureOdds,
} from '@umwelt/core';
import { figures, shortExpiry } from '$lib/formats';
import type { FittedSlice, LoadedSnapshot, ValuedSlice } from '$lib/data';

/** Legs with one contract more or fewer; what comes to nothing goes, and there are no more than `most`. */
export function withLeg(
  legs: readonly NamedLeg[],
  { symbol, expiry, settlement, strike, side }: OptionId,
  quantity: number,
  most: number,
): readonly NamedLeg[] {
  const leg = { symbol, expiry, settlement, strike, side, quantity };
  const found = legs.find((one) => isSame(one, leg));
  if (!found) return legs.length < most ? [...legs, leg] : legs;
  const total = found.quantity + quantity;
  return total === 0
    ? legs.filter((one) => one !== found)
    : legs.map((one) => (one === found ? { ...leg, quantity: total } : one));
}

/** Whether a leg is of a contract, where it is not said how it settles of the pm series. */
export function isSame(leg: NamedLeg, contract: OptionId): boolean {
  return isSameContract({ ...leg, settlement: leg.settlement ?? 'pm' }, contract);
}

/** A leg as people write it: +1 17 Apr 4 300 call. */
export function legWords(leg: Omit<NamedLeg, 'symbol'>, year?: string): string {
  return `${figures.signed(leg.quantity, 0)} ${shortExpiry(leg, year)} ${figures.strike(leg.strike)} ${leg.side}`;
}

/** What is known of a side of an expiry, by strike. */
export type LegColumns = Pick<SideValues, keyof LegValues>;

/** What is known of one strike of a side. */
export function legValues({ theory, delta, gamma, theta, vega }: LegColumns, index: number): LegValues {
  return {
    ...{ theory: theory[index]!, delta: delta[index]!, gamma: gamma[index]! },
    ...{ theta: theta[index]!, vega: vega[index]! },
  };
}

/** Picked legs as one, at the moment in view. */
export interface PickedStructure extends PricedStructure {
  legs: readonly PlacedLeg[];
  /** What it pays when it expires, at its mid; null where its legs expire apart or a leg has no quote. */
  payoff: Payoff | null;
  /** On the basis in use; NaN where they cannot be told. */
  odds: StructureOdds;
  /** The expiry of all legs; null where they are several. */
  slice: FittedSlice | null;
}

/**
 * What picked legs are worth and cost together.
 *
 * @param choiceAt what an expiry is valued by
 * @returns a sentence where a leg is not listed at this moment
 */
export function pickedStructure(
  snapshot: LoadedSnapshot,
  values: readonly ValuedSlice[],
  legs: readonly NamedLeg[],
  choiceAt: (slice: number) => BasisChoice,
): PickedStructure | string {
  const placed = placeLegs(snapshot, legs);
  if (!placed) {
    const missing = missingLeg(snapshot, legs)!;
    if (missing.symbol !== snapshot.symbol) return 'Legs of several deliveries: Structure values them together.';
    return `${shortExpiry(missing)} ${figures.strike(missing.strike)} is not listed at this moment.`;
  }
  const payoff = payoffOfLegs(snapshot, placed);
  const [first] = placed;
  const isOne = first !== undefined && placed.every(({ slice }) => slice === first.slice);
  const by = { on: writtenOn(snapshot, snapshot), choice: choiceAt(first?.slice ?? 0) };
  return {
    ...priceLegs(snapshot, placed, (leg) => legValues(values[leg.slice]![leg.side], leg.index)),
    ...{ legs: placed, payoff, odds: oddsOfLegs(snapshot, placed, payoff, by) },
    slice: isOne ? snapshot.slices[first.slice]! : null,
  };
}
