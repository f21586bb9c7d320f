import {
  expiryTerms,
  midsOf,
  sideOf,
  valueContract,
  type BasisChoice,
  type ExpiryFit,
  type SliceQuotes,
  type WrittenOn,
} from '../chain';
import { expiryAt, type Leg, type NamedLeg, type OptionId } from '../contracts';
import { structureOdds, type StructureOdds } from './odds';
import { payoffOf, type Payoff, type PayoffLeg } from './payoff';
import { deviationsAt, priceStructure, type PricedStructure } from './price';

/** The quotes of an expiry with its fit. */
export interface ListedSlice extends SliceQuotes {
  readonly fit: ExpiryFit;
}

/** The expiries of an underlying at a moment. */
interface Listed {
  readonly symbol: string;
  readonly slices: readonly ListedSlice[];
}

/** A leg where it is listed: positions of its expiry and of its strike. */
export type PlacedLeg = Leg<OptionId> & { readonly slice: number; readonly index: number };

/** Where a leg is listed; null where it is not, and where it is of another underlying. */
export function placeLeg({ symbol, slices }: Listed, leg: NamedLeg): PlacedLeg | null {
  const at = leg.symbol === symbol ? expiryAt(slices, leg) : -1;
  const slice = slices[at];
  const index = slice?.strike.indexOf(leg.strike) ?? -1;
  return slice && index >= 0 ? { ...leg, settlement: slice.settlement, slice: at, index } : null;
}

/** Where legs are listed; null where one of them is not. */
export function placeLegs(listed: Listed, legs: readonly NamedLeg[]): PlacedLeg[] | null {
  const placed = legs.map((leg) => placeLeg(listed, leg));
  return placed.every((leg) => leg !== null) ? placed : null;
}

/** The first leg that is not listed. */
export function missingLeg(listed: Listed, legs: readonly NamedLeg[]): NamedLeg | undefined {
  return legs.find((leg) => !placeLeg(listed, leg));
}

/** What one unit of a leg is worth, and its Greeks. */
export interface LegValues {
  readonly theory: number;
  readonly delta: number;
  readonly gamma: number;
  /** Per calendar day. */
  readonly theta: number;
  /** Per vol point. */
  readonly vega: number;
}

/**
 * What legs are worth and cost together.
 *
 * @param valuesOf what one unit of a leg is worth, by its place among the legs
 */
export function priceLegs(
  { slices }: Listed,
  legs: readonly PlacedLeg[],
  valuesOf: (leg: PlacedLeg, i: number) => LegValues,
): PricedStructure {
  return priceStructure(
    legs.map((leg, i) => {
      const { quantity, side, strike, index } = leg;
      const slice = slices[leg.slice]!;
      const { bid, ask } = sideOf(slice, side);
      const { theory, delta, gamma, theta, vega } = valuesOf(leg, i);
      return {
        ...{ quantity, bid: bid[index]!, ask: ask[index]!, theory, delta, gamma, theta, vega },
        deviations: deviationsAt(strike, slice.fit),
      };
    }),
  );
}

const ON_CURVE: BasisChoice = { basis: 'curve', realizedVol: NaN, indexVol: NaN };

/** What legs are worth and cost together, each on the curve of its expiry. */
export function priceLegsOnCurve(listed: Listed, legs: readonly PlacedLeg[], on: WrittenOn): PricedStructure {
  return priceLegs(listed, legs, ({ slice, index, side }) => {
    const { strike, fit, ...quotes } = listed.slices[slice]!;
    const known = { own: new Float64Array(strike.length).fill(NaN), mid: midsOf(quotes[side]) };
    return valueContract(index, strike, fit, on, ON_CURVE, known, side === 'call' ? 1 : -1);
  });
}

/** Legs of one expiry by what they pay there. */
export const payoffLegs = (legs: readonly Leg<OptionId>[]): PayoffLeg[] =>
  legs.map(({ quantity, side, strike }) => ({ quantity, strike, sign: side === 'call' ? 1 : -1 }));

/** What legs pay when they expire, at their mid; null where they expire apart or a leg has no quote. */
export function payoffOfLegs({ slices }: Listed, legs: readonly PlacedLeg[]): Payoff | null {
  const [first] = legs;
  if (!first || legs.some(({ slice }) => slice !== first.slice)) return null;
  const mid = legs.reduce((sum, { slice, index, side, quantity }) => {
    const { bid, ask } = sideOf(slices[slice]!, side);
    return sum + quantity * 0.5 * (bid[index]! + ask[index]!);
  }, 0);
  return Number.isFinite(mid) ? payoffOf(payoffLegs(legs), mid) : null;
}

const UNKNOWN: StructureOdds = { itm: NaN, touch: NaN, gain: NaN };

/** Odds of legs on a basis; NaN where they expire apart or a leg has no quote. */
export function oddsOfLegs(
  { slices }: Listed,
  legs: readonly PlacedLeg[],
  payoff: Payoff | null,
  { on, choice }: { on: WrittenOn; choice: BasisChoice },
): StructureOdds {
  const fit = slices[legs[0]?.slice ?? -1]?.fit;
  if (!payoff || !fit) return UNKNOWN;
  return structureOdds(payoffLegs(legs), payoff, { fit, spot: expiryTerms(on, fit).spot, choice });
}
