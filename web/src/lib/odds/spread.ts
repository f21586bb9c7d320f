import {
  BASES,
  curveSlope,
  curveVol,
  deviationsAt,
  expiryTerms,
  oddsDifferences,
  payoffOf,
  priceSpread,
  writtenOn,
  type Basis,
  type BasisChoice,
  type Difference,
  type Payoff,
  type PricedSpread,
} from '@umwelt/core';
import { levelOf, oddsOfGain } from '$lib/chain/spread';
import type { SpreadLeg } from '$lib/state/context';
import type { ComparedSide, FittedSlice, LoadedSnapshot, PricingTerms } from '$lib/workers';

/** A spread under one basis. */
export interface SpreadView {
  basis: Basis;
  priced: PricedSpread;
  /** Mid less value. */
  edge: number;
  /** Odds to gain when it expires, at its mid; NaN over several expiries. */
  gain: number;
  /** One deviation on the vol of the basis. */
  move: number;
}

/** A leg where it is listed. */
export interface PlacedLeg extends SpreadLeg {
  slice: number;
  index: number;
}

/** Where legs are listed in a snapshot; null where one is not. */
export function placedLegs({ slices }: LoadedSnapshot, legs: readonly SpreadLeg[]): PlacedLeg[] | null {
  const placed = legs.map((leg): PlacedLeg | null => {
    const slice = slices.findIndex(({ expiry, strike }) => expiry === leg.expiry && strike.includes(leg.strike));
    return slice < 0 ? null : { ...leg, slice, index: slices[slice]!.strike.indexOf(leg.strike) };
  });
  return placed.every((leg) => leg !== null) ? placed : null;
}

/** What legs pay when they expire, at their mid; null where they expire apart or a leg has no quote. */
export function payoffOfLegs({ slices }: LoadedSnapshot, legs: readonly PlacedLeg[]): Payoff | null {
  const [first] = legs;
  if (!first || legs.some(({ slice }) => slice !== first.slice)) return null;
  const mid = legs.reduce((sum, { slice, index, side, quantity }) => {
    const quotes = slices[slice]![side];
    return sum + quantity * 0.5 * (quotes.bid[index]! + quotes.ask[index]!);
  }, 0);
  if (!Number.isFinite(mid)) return null;
  return payoffOf(
    legs.map(({ quantity, side, strike }) => ({ quantity, strike, sign: side === 'call' ? 1 : -1 })),
    mid,
  );
}

/**
 * A spread under every basis.
 *
 * @param sides what the worker says of the side of each leg, in their order
 * @param choiceOf what an expiry is valued by
 */
export function spreadViews(
  snapshot: LoadedSnapshot,
  legs: readonly PlacedLeg[],
  sides: readonly ComparedSide[],
  choiceOf: (basis: Basis, slice: number) => BasisChoice,
): SpreadView[] {
  const payoff = payoffOfLegs(snapshot, legs);
  const slice: FittedSlice = snapshot.slices[legs[0]!.slice]!;
  return BASES.map((basis) => {
    const priced = priceSpread(
      legs.map(({ slice: at, index, side, quantity, strike }, i) => {
        const { fit, ...quotes } = snapshot.slices[at]!;
        const values = sides[i]![basis];
        return {
          ...{ quantity, bid: quotes[side].bid[index]!, ask: quotes[side].ask[index]!, theory: values.theory[index]! },
          ...{ delta: values.delta[index]!, gamma: values.gamma[index]!, theta: values.theta[index]! },
          vega: values.vega[index]!,
          deviations: deviationsAt(strike, fit),
        };
      }),
    );
    const choice = choiceOf(basis, legs[0]!.slice);
    const level = levelOf(choice, slice.fit);
    return {
      ...{ basis, priced, edge: priced.mid - priced.value },
      gain: payoff ? oddsOfGain(slice.fit, choice, level, payoff) : NaN,
      move: slice.fit.forward * level * Math.sqrt(slice.fit.years),
    };
  });
}

/** What each assumption does to the odds that a spread gains: the sum over the ends of where it does. */
export function spreadDifferences(
  snapshot: LoadedSnapshot,
  legs: readonly PlacedLeg[],
  { indexVol, realizedVols }: Pick<PricingTerms, 'indexVol' | 'realizedVols'>,
): Difference[] {
  const payoff = payoffOfLegs(snapshot, legs);
  const at = legs[0]?.slice ?? -1;
  const fit = snapshot.slices[at]?.fit;
  if (!payoff || !fit?.curve) return [];
  const { curve, forward, years, atmVol } = fit;
  const { spot } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  const ends = payoff.gains.flatMap(({ from, to }) => [
    { level: from, way: -1 },
    { level: to, way: 1 },
  ]);
  const sums = new Map<Difference['cause'], Difference>();
  const constant = payoff.gains.reduce((sum, { to }) => sum + (to === Infinity ? 1 : 0), 0);
  for (const { level, way } of ends) {
    if (!(level > 0) || level === Infinity) continue;
    const k = Math.log(level / forward);
    // Odds of ending under the level, which count for what lies up to it and against what lies from it.
    const found = oddsDifferences({
      ...{ sign: -1, level, spot, forward, years, atmVol, indexVol, realizedVol: realizedVols[at] ?? NaN },
      ...{ curveVol: curveVol(curve, k), curveSlope: curveSlope(curve, k), ownVol: NaN },
    });
    for (const one of found) {
      const sum = sums.get(one.cause) ?? { cause: one.cause, without: constant, with: constant, by: 0 };
      sums.set(one.cause, {
        ...{ cause: one.cause, without: sum.without + way * one.without, with: sum.with + way * one.with },
        by: sum.by + way * one.by,
      });
    }
  }
  return [...sums.values()].sort((a, b) => Math.abs(b.by) - Math.abs(a.by));
}
