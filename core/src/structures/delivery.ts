import type { ExpiryFit, SideQuotes } from '../chain';
import type { MovedValues } from './columns';
import type { ListedSlice, PlacedLeg } from './legs';
import type { MarketLegValues } from './market';
import type { MarketLeg } from './moved';

const divided = (values: Float64Array, by: number) => values.map((value) => value / by);

const sideIn = (side: SideQuotes, ratio: number): SideQuotes => ({
  ...side,
  bid: divided(side.bid, ratio),
  ask: divided(side.ask, ratio),
  last: divided(side.last, ratio),
});

const fitIn = (fit: ExpiryFit, ratio: number): ExpiryFit => ({
  ...fit,
  forward: fit.forward / ratio,
  forwardUncertainty: fit.forwardUncertainty / ratio,
  straddleMove: fit.straddleMove / ratio,
  straddleUncertainty: fit.straddleUncertainty / ratio,
  deviationMove: fit.deviationMove / ratio,
});

/**
 * The expiries of another delivery as if they were of this one. Deliveries are taken to move by equal returns, and what an option is worth
 * grows with the price and the strike alike: a contract of the other at a strike K is as many of this one at K / ratio as the
 * ratio of their prices says. Curves, by ln(K/F), stay as they are.
 *
 * @param ratio price of the other over that of this one
 */
export function inTermsOf(slices: readonly ListedSlice[], ratio: number): ListedSlice[] {
  return slices.map((slice) => ({
    ...slice,
    strike: divided(slice.strike, ratio),
    call: sideIn(slice.call, ratio),
    put: sideIn(slice.put, ratio),
    fit: fitIn(slice.fit, ratio),
  }));
}

/**
 * A leg of another delivery among those of this one.
 *
 * @param first place of the first expiry of {@link inTermsOf} among all expiries
 * @param entry as it was typed, of the other
 */
export function legInTermsOf(leg: PlacedLeg, ratio: number, first: number, entry?: number): MarketLeg & PlacedLeg {
  const { slice, strike, quantity } = leg;
  return {
    ...leg,
    slice: first + slice,
    strike: strike / ratio,
    quantity: quantity * ratio,
    contracts: quantity,
    entry: entry === undefined ? undefined : entry / ratio,
  };
}

/** Another delivery of the root. */
export interface Delivery {
  readonly symbol: string;
  /** Its price over that of the one in view. */
  readonly ratio: number;
  readonly slices: readonly ListedSlice[];
}

/** The expiries of a market and, behind them and in its terms, those of other deliveries. */
export class Deliveries {
  readonly slices: readonly ListedSlice[];
  private readonly places = new Map<string, { ratio: number; first: number }>();

  constructor(own: readonly ListedSlice[], others: readonly Delivery[]) {
    const slices = [...own];
    for (const { symbol, ratio, slices: further } of others) {
      this.places.set(symbol, { ratio, first: slices.length });
      slices.push(...inTermsOf(further, ratio));
    }
    this.slices = slices;
  }

  /** Price of what a leg is on over that of the one in view; 1 for that itself. */
  ratioOf(symbol: string | undefined): number {
    return this.places.get(symbol ?? '')?.ratio ?? 1;
  }

  /** A leg that is listed among the expiries of its own delivery, among all of them. @param entry as it was typed, of its own */
  leg(leg: PlacedLeg, entry?: number): MarketLeg & PlacedLeg {
    const place = this.places.get(leg.symbol);
    return place ? legInTermsOf(leg, place.ratio, place.first, entry) : { ...leg, entry };
  }
}

/** What is known of a leg of another delivery, in its own terms: for one of its contracts, by its own price. */
export function inOwnTerms(values: MarketLegValues, ratio: number): MarketLegValues {
  const { bid, ask, entry, value, gamma, theta, vega, rho, volga, veta } = values;
  return {
    ...values,
    ...{ bid: bid * ratio, ask: ask * ratio, entry: entry * ratio, value: value * ratio },
    // Delta, vanna and charm are of equal price on either side.
    gamma: gamma / ratio,
    ...{ theta: theta * ratio, vega: vega * ratio, rho: rho * ratio, volga: volga * ratio, veta: veta * ratio },
  };
}

/** What one contract of another delivery does as the price in view moves: its Greeks by its own price, brought to that. */
export function inViewTerms<T extends MovedValues>(values: T, ratio: number): T {
  const { delta, gamma, vanna, charm } = values;
  return {
    ...values,
    ...{ delta: delta * ratio, gamma: gamma * ratio * ratio, vanna: vanna * ratio, charm: charm * ratio },
  };
}
