import {
  basisLaw,
  deviationsAt,
  oddsUnder,
  payoffOf,
  priceSpread,
  type BasisChoice,
  type Payoff,
  type PricedLeg,
  type PricedSpread,
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

/** Picked legs as one, at the moment in view. */
export interface PickedSpread extends PricedSpread {
  /** What it pays when it expires, at its mid; null where its legs expire apart or a leg has no quote. */
  payoff: Payoff | null;
  /** Odds that it then gains, on the basis in use; NaN where they cannot be told. */
  oddsOfProfit: number;
  /** The expiry of all legs; null where they are several. */
  slice: FittedSlice | null;
}

/** Odds that the price ends where legs gain. */
export function oddsOfGain(fit: FittedSlice['fit'], choice: BasisChoice, vol: number, { gains }: Payoff): number {
  const law = basisLaw(fit, choice, vol);
  if (!law) return NaN;
  const under = (level: number) => (level === Infinity ? 1 : level <= 0 ? 0 : oddsUnder(law, fit.forward, level));
  return gains.reduce((sum, { from, to }) => sum + under(to) - under(from), 0);
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
  const priced: PricedLeg[] = [];
  const slices = new Set<number>();
  for (const { expiry, strike, side, quantity } of legs) {
    const at = snapshot.slices.findIndex((one) => one.expiry === expiry && one.strike.includes(strike));
    const slice = snapshot.slices[at];
    if (!slice) return `${shortDay(expiry)} ${figures.strike(strike)} is not listed at this moment.`;
    const i = slice.strike.indexOf(strike);
    slices.add(at);
    const { theory, delta, gamma, theta, vega } = values[at]![side];
    const { fit } = slice;
    priced.push({
      ...{ quantity, bid: slice[side].bid[i]!, ask: slice[side].ask[i]!, theory: theory[i]!, delta: delta[i]! },
      ...{ gamma: gamma[i]!, theta: theta[i]!, vega: vega[i]! },
      deviations: deviationsAt(strike, fit),
    });
  }
  const spread = priceSpread(priced);
  const [only] = slices;
  const slice = slices.size === 1 && only !== undefined ? snapshot.slices[only]! : null;
  const isPriced = slice !== null && Number.isFinite(spread.mid);
  const payoff = isPriced
    ? payoffOf(
        legs.map(({ quantity, side, strike }) => ({ quantity, strike, sign: side === 'call' ? 1 : -1 })),
        spread.mid,
      )
    : null;
  const choice = only === undefined ? null : choiceAt(only);
  const vol = choice && slice ? levelOf(choice, slice.fit) : NaN;
  return {
    ...spread,
    payoff,
    oddsOfProfit: payoff && choice && slice ? oddsOfGain(slice.fit, choice, vol, payoff) : NaN,
    slice,
  };
}

/** The one vol that a basis has for a whole expiry: that at the money, where each contract has its own. */
export function levelOf({ basis, realizedVol, indexVol, manual }: BasisChoice, { atmVol }: FittedSlice['fit']): number {
  if (basis === 'realized') return realizedVol;
  if (basis === 'index') return indexVol;
  if (basis === 'manual') return manual?.kind === 'vol' ? manual.value : atmVol + (manual?.value ?? NaN);
  return atmVol;
}
