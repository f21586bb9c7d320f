import { quoteReason } from './reasons';

/** Quotes of one expiry by strike, ascending; NaN where a side has no quote. */
export interface ParityQuotes {
  readonly strike: Float64Array;
  readonly callBid: Float64Array;
  readonly callAsk: Float64Array;
  readonly putBid: Float64Array;
  readonly putAsk: Float64Array;
}

export interface CombinedForward {
  forward: number;
  /** One standard error, in price units. */
  uncertainty: number;
  strikesUsed: number;
}

export interface ParityForward extends CombinedForward {
  /** Between which strikes a quote could have had a say. */
  heard: readonly [from: number, to: number];
}

/** What one strike says of the forward. */
export interface ForwardEstimate {
  readonly forward: number;
  /** By how much it moves when both mids are off by half their spreads, independently of each other. */
  readonly width: number;
}

/** A strike with both sides quoted. */
export interface ParityStrike {
  readonly strike: number;
  readonly call: number;
  readonly put: number;
  /** Half of the distance from bid to ask. */
  readonly callHalf: number;
  readonly putHalf: number;
}

/** How many strikes nearest to the money take part. */
export const NEAREST_STRIKES = 11;

/** The strikes of an expiry with both sides well quoted, the nearest to a price first. */
export function parityStrikes(quotes: ParityQuotes, near: number): ParityStrike[] {
  const found: ParityStrike[] = [];
  for (let i = 0; i < quotes.strike.length; i++) {
    const callBid = quotes.callBid[i]!;
    const callAsk = quotes.callAsk[i]!;
    const putBid = quotes.putBid[i]!;
    const putAsk = quotes.putAsk[i]!;
    if (quoteReason(callBid, callAsk) !== 0 || quoteReason(putBid, putAsk) !== 0) continue;
    found.push({
      strike: quotes.strike[i]!,
      call: 0.5 * (callBid + callAsk),
      put: 0.5 * (putBid + putAsk),
      callHalf: 0.5 * (callAsk - callBid),
      putHalf: 0.5 * (putAsk - putBid),
    });
  }
  return found.sort((a, b) => Math.abs(a.strike - near) - Math.abs(b.strike - near));
}

/**
 * Between which strikes quotes have a say.
 *
 * @param strikes by their distance from `near`
 * @param seen how many of them were looked at
 */
export function heardStrikes(
  strikes: readonly ParityStrike[],
  near: number,
  seen: number,
): readonly [from: number, to: number] {
  const reach = seen < strikes.length ? Math.abs(strikes[seen - 1]!.strike - near) : Infinity;
  return [near - reach, near + reach];
}

/**
 * The forward from put–call parity of European contracts, C − P = D(F − K), over the strikes near the money that have both
 * sides quoted, with the discount held: each says K + (C − P)/D.
 *
 * @param quotes one expiry
 * @param discount D, from the rate curve
 * @param near price around which strikes are taken, the spot will do
 * @param carry the forward by carry, where it is known
 * @returns null where {@link combineForwards} has none
 */
export function parityForward(
  quotes: ParityQuotes,
  discount: number,
  near: number,
  carry?: ForwardEstimate,
): ParityForward | null {
  const all = parityStrikes(quotes, near);
  const heard = heardStrikes(all, near, NEAREST_STRIKES);
  const strikes = all.slice(0, NEAREST_STRIKES);
  const estimatesWith = (d: number) =>
    strikes.map(({ strike, call, put, callHalf, putHalf }) => ({
      forward: strike + (call - put) / d,
      width: Math.hypot(callHalf, putHalf) / d,
    }));
  const found = combineForwards(estimatesWith(discount), carry);
  if (found) return { ...found, heard };
  if (strikes.length < FEWEST_FOR_DISCOUNT) return null;
  // Without a rate, or with a wrong one, strikes say different forwards along a line: where it crosses zero stands.
  const fitted = parityDiscount(strikes);
  if (!(fitted > LEAST_DISCOUNT && fitted < MOST_DISCOUNT)) return null;
  const again = combineForwards(estimatesWith(fitted), carry);
  return again && { ...again, heard };
}

const FEWEST_FOR_DISCOUNT = 4;
const LEAST_DISCOUNT = 0.5;
const MOST_DISCOUNT = 1.1;

/** The discount that C − P falls by along the strikes: the middle of the slopes of all pairs (H. Theil 1950, P. Sen 1968). */
function parityDiscount(strikes: readonly ParityStrike[]): number {
  const slopes = strikes.flatMap((one, i) =>
    strikes.slice(i + 1).map((other) => (one.call - one.put - (other.call - other.put)) / (other.strike - one.strike)),
  );
  slopes.sort((a, b) => a - b);
  return slopes[slopes.length >> 1]!;
}

/**
 * What a mid is usually off by, in half spreads, and how many strikes that is worth as evidence: a few strikes do not tell
 * by themselves how far they scatter. (Our own choice: market makers quote around what they believe.)
 */
const USUAL_MISS = 0.2;
const USUAL_STRIKES = 4;
/** An estimate further from the others than so many of its standard errors is thrown out. */
const FAR = 4;

/**
 * One forward from what several strikes say. First the estimate that most others agree with, within half their spreads: a
 * shifted or stale quote finds none; carry has a vote in it, and nothing else. Those within four standard errors of these are
 * averaged with weights 1/width². By how much mids are off, in half spreads, is seen from how they scatter.
 *
 * @returns null where fewer than two strikes agree, or fewer than half of them
 */
export function combineForwards(
  estimates: readonly ForwardEstimate[],
  carry?: ForwardEstimate,
): CombinedForward | null {
  if (estimates.length < 2) return null;
  const voters = carry ? [...estimates, carry] : estimates;
  let agreed: ForwardEstimate[] = [];
  let most = 0;
  let nearest = Infinity;
  for (const centre of estimates) {
    const votes = voters.filter(
      ({ forward, width }) => Math.abs(forward - centre.forward) <= Math.hypot(width, centre.width),
    );
    const away = votes.reduce((sum, { forward, width }) => sum + Math.abs(forward - centre.forward) / width, 0);
    // Of two opinions that as many hold, the one that carry is with.
    const weight = votes.length + (carry && votes.includes(carry) ? 0.5 : 0);
    if (weight < most || (weight === most && away >= nearest)) continue;
    [agreed, most, nearest] = [votes.filter((one) => one !== carry), weight, away];
  }
  if (most < 0.5 * voters.length) return null;
  const middle = averaged(agreed);
  const kept = estimates.filter(
    ({ forward, width }) => Math.abs(forward - middle.forward) <= FAR * middle.scale * width,
  );
  if (kept.length < 2) return null;
  const { forward, weights, scale } = averaged(kept);
  return { forward, uncertainty: scale / Math.sqrt(weights), strikesUsed: kept.length };
}

/** The mean of estimates with weights 1/width², and by how much mids are off, in half spreads. */
function averaged(estimates: readonly ForwardEstimate[]): { forward: number; weights: number; scale: number } {
  let sum = 0;
  let weights = 0;
  for (const { forward, width } of estimates) {
    sum += forward / (width * width);
    weights += 1 / (width * width);
  }
  const forward = sum / weights;
  const squares = estimates.reduce((total, one) => total + ((one.forward - forward) / one.width) ** 2, 0);
  return { forward, weights, scale: missScale(squares, Math.max(estimates.length - 1, 0)) };
}

/** By how much mids are off, in half spreads: from squares seen, as many as are free, and from what is usual. */
export function missScale(squares: number, count: number): number {
  return Math.sqrt((USUAL_STRIKES * USUAL_MISS ** 2 + squares) / (USUAL_STRIKES + count));
}
