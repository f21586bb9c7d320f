import type { ExpiryId, Side } from '@umwelt/core';
import type { LoadedSnapshot, ValuedSlice } from '$lib/data';

/** What a day costs the holder of one strike in one expiry, for a unit of the underlying. */
export interface DecayRow extends ExpiryId {
  slice: number;
  days: number;
  vol: number;
  mid: number;
  theory: number;
  theta: number;
  vega: number;
  delta: number;
  /** Decay of a day over the price. */
  share: number;
  /** By how many vol points the vol has to rise to make good a day: −theta / vega. */
  volChange: number;
  /** By how much the underlying has to move in favour of the contract: −theta / |delta|, the first order of it. */
  move: number;
}

/** The same strike in every expiry that lists it. */
export function decayRows(
  { slices }: Pick<LoadedSnapshot, 'slices'>,
  values: readonly ValuedSlice[],
  strike: number,
  side: Side,
): DecayRow[] {
  return slices.flatMap((slice, at): DecayRow[] => {
    const i = slice.strike.indexOf(strike);
    if (i < 0) return [];
    const valued = values[at]![side];
    const [theory, theta, vega, delta] = [valued.theory[i]!, valued.theta[i]!, valued.vega[i]!, valued.delta[i]!];
    return [
      {
        ...{ expiry: slice.expiry, settlement: slice.settlement, slice: at, days: slice.fit.days },
        ...{ vol: valued.vol[i]!, theory, theta, vega, delta },
        mid: 0.5 * (slice[side].bid[i]! + slice[side].ask[i]!),
        share: theta / theory,
        volChange: -theta / vega,
        move: -theta / Math.abs(delta),
      },
    ];
  });
}
