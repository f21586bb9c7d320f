import {
  deviationsAt,
  expiryTerms,
  payoffOf,
  priceSpread,
  spreadOdds,
  writtenOn,
  type BasisChoice,
  type Payoff,
  type PayoffLeg,
  type PricedSpread,
  type SideValues,
  type SpreadOdds,
} from '@umwelt/core';
import { figures, shortDay } from '$lib/formats';
import type { SpreadLeg } from '$lib/state/context';
import type { Contract } from '$lib/state/focus';
import type { FittedSlice, LoadedSnapshot, ValuedSlice } from '$lib/workers';

/** Legs with one contract more or fewer; what comes to nothing goes, and there are no more than `most`. */
export function withLeg(
  legs: readonly SpreadLeg[],
  { expiry, strike, side }: Contract,
  quantity: number,
  most: number,
): readonly SpreadLeg[] {
  const isSame = (leg: SpreadLeg) => leg.expiry === expiry && leg.strike === strike && leg.side === side;
  const found = legs.find(isSame);
  if (!found) return legs.length < most ? [...legs, { expiry, strike, side, quantity }] : legs;
  const total = found.quantity + quantity;
  return total === 0
    ? legs.filter((leg) => leg !== found)
    : legs.map((leg) => (leg === found ? { ...leg, quantity: total } : leg));
}

/** A leg as people write it: +1 17 Apr 4 300 call. */
export function legWords({ expiry, strike, side, quantity }: SpreadLeg, year?: string): string {
  return `${figures.signed(quantity, 0)} ${shortDay(expiry, year)} ${figures.strike(strike)} ${side}`;
}

/** A leg where it is listed. */
export interface PlacedLeg extends SpreadLeg {
  slice: number;
  index: number;
}

/** Where a leg is listed in a snapshot; null where it is not. */
function placeLeg({ slices }: LoadedSnapshot, leg: SpreadLeg): PlacedLeg | null {
  const slice = slices.findIndex(({ expiry, strike }) => expiry === leg.expiry && strike.includes(leg.strike));
  return slice < 0 ? null : { ...leg, slice, index: slices[slice]!.strike.indexOf(leg.strike) };
}

/** Where legs are listed; null where one is not. */
export function placedLegs(snapshot: LoadedSnapshot, legs: readonly SpreadLeg[]): PlacedLeg[] | null {
  const placed = legs.map((leg) => placeLeg(snapshot, leg));
  return placed.every((leg) => leg !== null) ? placed : null;
}

/** What is known of a side of an expiry, by strike. */
export type LegValues = Pick<SideValues, 'theory' | 'delta' | 'gamma' | 'theta' | 'vega'>;

/** What legs are worth and cost together. */
export function priceLegs(
  { slices }: LoadedSnapshot,
  legs: readonly PlacedLeg[],
  valuesOf: (leg: PlacedLeg, i: number) => LegValues,
): PricedSpread {
  return priceSpread(
    legs.map((leg, i) => {
      const { quantity, side, strike, index } = leg;
      const { fit, ...quotes } = slices[leg.slice]!;
      const { theory, delta, gamma, theta, vega } = valuesOf(leg, i);
      return {
        ...{ quantity, bid: quotes[side].bid[index]!, ask: quotes[side].ask[index]!, theory: theory[index]! },
        ...{ delta: delta[index]!, gamma: gamma[index]!, theta: theta[index]!, vega: vega[index]! },
        deviations: deviationsAt(strike, fit),
      };
    }),
  );
}

/** Legs of one expiry by what they pay there. */
export const payoffLegs = (legs: readonly SpreadLeg[]): PayoffLeg[] =>
  legs.map(({ quantity, side, strike }) => ({ quantity, strike, sign: side === 'call' ? 1 : -1 }));

/** What legs pay when they expire, at their mid; null where they expire apart or a leg has no quote. */
export function payoffOfLegs({ slices }: LoadedSnapshot, legs: readonly PlacedLeg[]): Payoff | null {
  const [first] = legs;
  if (!first || legs.some(({ slice }) => slice !== first.slice)) return null;
  const mid = legs.reduce((sum, { slice, index, side, quantity }) => {
    const quotes = slices[slice]![side];
    return sum + quantity * 0.5 * (quotes.bid[index]! + quotes.ask[index]!);
  }, 0);
  return Number.isFinite(mid) ? payoffOf(payoffLegs(legs), mid) : null;
}

const UNKNOWN_ODDS: SpreadOdds = { itm: NaN, touch: NaN, gain: NaN };

/** Odds of legs on a basis; NaN where they expire apart or a leg has no quote. */
export function oddsOfLegs(
  snapshot: LoadedSnapshot,
  legs: readonly PlacedLeg[],
  payoff: Payoff | null,
  choice: BasisChoice,
): SpreadOdds {
  const slice = snapshot.slices[legs[0]?.slice ?? -1];
  if (!payoff || !slice) return UNKNOWN_ODDS;
  const { fit } = slice;
  const { spot } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  return spreadOdds(payoffLegs(legs), payoff, { fit, spot, choice });
}

/** Picked legs as one, at the moment in view. */
export interface PickedSpread extends PricedSpread {
  legs: readonly PlacedLeg[];
  /** What it pays when it expires, at its mid; null where its legs expire apart or a leg has no quote. */
  payoff: Payoff | null;
  /** On the basis in use; NaN where they cannot be told. */
  odds: SpreadOdds;
  /** The expiry of all legs; null where they are several. */
  slice: FittedSlice | null;
}

/**
 * What picked legs are worth and cost together.
 *
 * @param choiceAt what an expiry is valued by
 * @returns a sentence where a leg is not listed at this moment
 */
export function spreadOf(
  snapshot: LoadedSnapshot,
  values: readonly ValuedSlice[],
  legs: readonly SpreadLeg[],
  choiceAt: (slice: number) => BasisChoice,
): PickedSpread | string {
  const placed: PlacedLeg[] = [];
  for (const leg of legs) {
    const found = placeLeg(snapshot, leg);
    if (!found) return `${shortDay(leg.expiry)} ${figures.strike(leg.strike)} is not listed at this moment.`;
    placed.push(found);
  }
  const payoff = payoffOfLegs(snapshot, placed);
  const [first] = placed;
  const isOne = first !== undefined && placed.every(({ slice }) => slice === first.slice);
  return {
    ...priceLegs(snapshot, placed, (leg) => values[leg.slice]![leg.side]),
    ...{ legs: placed, payoff },
    odds: first ? oddsOfLegs(snapshot, placed, payoff, choiceAt(first.slice)) : UNKNOWN_ODDS,
    slice: isOne ? snapshot.slices[first.slice]! : null,
  };
}
