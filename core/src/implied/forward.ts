import { quoteReason } from './reasons';

/** Quotes of one expiry by strike, ascending; NaN where a side has no quote. */
export interface ParityQuotes {
  readonly strike: Float64Array;
  readonly callBid: Float64Array;
  readonly callAsk: Float64Array;
  readonly putBid: Float64Array;
  readonly putAsk: Float64Array;
}

export interface ParityForward {
  forward: number;
  /** Half of the price range that the quotes leave open, in price units. */
  uncertainty: number;
  strikesUsed: number;
}

/** What one strike says. */
interface Estimate {
  strike: number;
  call: number;
  put: number;
  forward: number;
  width: number;
  distance: number;
}

/** By how much early exercise raises a call over its put; NaN where it cannot be told. */
export type EarlyPremium = (strike: number, call: number, put: number) => number;

/** How many strikes nearest to the money take part. */
const NEAREST = 11;

/**
 * The forward from put–call parity, C − P = D(F − K), fitted over the strikes near the money that have
 * both sides quoted, with the discount held.
 *
 * Each strike gives one estimate K + (C − P)/D with an uncertainty of half the summed spreads. The
 * median of the estimates, weighted by 1/uncertainty², rejects what a stale or crossed strike says; the
 * estimates within three of their uncertainties of it are then averaged with the same weights.
 *
 * @param quotes one expiry
 * @param discount D, from the rate curve
 * @param near price around which strikes are taken, the spot will do
 * @param earlyPremium how much more the call's early exercise is worth than the put's, at a strike and its two mids
 * @returns null when fewer than two strikes have both sides
 */
export function parityForward(
  quotes: ParityQuotes,
  discount: number,
  near: number,
  earlyPremium?: EarlyPremium,
): ParityForward | null {
  const estimates: Estimate[] = [];
  for (let i = 0; i < quotes.strike.length; i++) {
    const callBid = quotes.callBid[i]!;
    const callAsk = quotes.callAsk[i]!;
    const putBid = quotes.putBid[i]!;
    const putAsk = quotes.putAsk[i]!;
    if (quoteReason(callBid, callAsk) !== 0 || quoteReason(putBid, putAsk) !== 0) continue;
    const strike = quotes.strike[i]!;
    estimates.push({
      strike,
      call: 0.5 * (callBid + callAsk),
      put: 0.5 * (putBid + putAsk),
      forward: strike + (0.5 * (callBid + callAsk - putBid - putAsk)) / discount,
      width: (0.5 * (callAsk - callBid + putAsk - putBid)) / discount,
      distance: Math.abs(strike - near),
    });
  }
  if (estimates.length < 2) return null;
  estimates.sort((a, b) => a.distance - b.distance);
  let kept = estimates.slice(0, NEAREST);
  if (earlyPremium) {
    for (const estimate of kept) {
      estimate.forward -= earlyPremium(estimate.strike, estimate.call, estimate.put) / discount;
    }
    // What is worth exercising now says nothing about the forward.
    kept = kept.filter((estimate) => Number.isFinite(estimate.forward));
    if (kept.length < 2) return null;
  }
  kept.sort((a, b) => a.forward - b.forward);
  const median = weightedMedian(kept);
  let sum = 0;
  let weights = 0;
  let strikesUsed = 0;
  for (const estimate of kept) {
    if (Math.abs(estimate.forward - median) > 3 * estimate.width) continue;
    const weight = 1 / (estimate.width * estimate.width);
    sum += weight * estimate.forward;
    weights += weight;
    strikesUsed++;
  }
  return { forward: sum / weights, uncertainty: 1 / Math.sqrt(weights), strikesUsed };
}

function weightedMedian(sorted: readonly { forward: number; width: number }[]): number {
  let total = 0;
  for (const { width } of sorted) total += 1 / (width * width);
  let seen = 0;
  for (const { forward, width } of sorted) {
    seen += 1 / (width * width);
    if (seen >= 0.5 * total) return forward;
  }
  return sorted[sorted.length - 1]!.forward;
}
