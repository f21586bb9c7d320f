import type { MovedValues } from './columns';
import { isOption, type MarketStructure } from './moved';
import type { MovedExpiry } from './moved-expiry';

/** Mean vol of some legs, weighted by vega; NaN of none. */
export function meanVol(legs: readonly { vol: number; vega: number; quantity: number }[]): number {
  const weights = legs.reduce((sum, { vega, quantity }) => sum + Math.abs(vega * quantity), 0);
  return legs.reduce((sum, { vol, vega, quantity }) => sum + Math.abs(vega * quantity) * vol, 0) / weights;
}

/** The mean own vol of the options that expire at the horizon. @param ofLegs what is known of one unit of each leg */
export function ownVolAt(
  { legs, slices, ownVols }: MarketStructure,
  ofLegs: readonly Pick<MovedValues, 'vega'>[],
  horizon: MovedExpiry | null,
): number {
  return meanVol(
    legs.flatMap((leg, i) =>
      isOption(leg) && slices[leg.slice]!.fit === horizon?.fit
        ? [{ quantity: leg.quantity, vega: ofLegs[i]!.vega, vol: ownVols[i]! }]
        : [],
    ),
  );
}
