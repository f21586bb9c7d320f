/** Mid prices of an expiry by strike, ascending; the bid alone tells whether a strike is quoted. */
export interface StripQuotes {
  readonly strike: ArrayLike<number>;
  readonly callBid: ArrayLike<number>;
  readonly callAsk: ArrayLike<number>;
  readonly putBid: ArrayLike<number>;
  readonly putAsk: ArrayLike<number>;
}

/** The strip of an expiry. */
export interface Strip {
  /** Annual variance σ². */
  variance: number;
  /** The strike at or under the forward, from which both sides are taken. */
  middle: number;
  /** Strikes that take part. */
  strikes: number;
}

/** With fewer strikes the sum stands for too little. */
const FEWEST_STRIKES = 5;
/** Two strikes without a bid in a row end a side. */
const MISSING_ENDS = 2;

/**
 * Variance of an expiry by the published strip-of-options method (the white paper of the volatility index of 2003 and its
 * later editions; from K. Demeterfi, E. Derman, M. Kamal and J. Zou, "More than you ever wanted to know about volatility
 * swaps", 1999): σ² = 2/T Σ ΔK/K² e^(rT) Q(K) − 1/T (F/K₀ − 1)², out-of-the-money mids away from K₀, both sides' mean at it.
 *
 * @returns null with fewer than five strikes quoted, or none at or under the forward
 */
export function stripVariance(quotes: StripQuotes, forward: number, rate: number, years: number): Strip | null {
  const { strike, callBid, callAsk, putBid, putAsk } = quotes;
  let at = -1;
  for (let i = 0; i < strike.length; i++) if (strike[i]! <= forward) at = i;
  if (at < 0 || !(years > 0)) return null;
  const call = (i: number) => 0.5 * (callBid[i]! + callAsk[i]!);
  const put = (i: number) => 0.5 * (putBid[i]! + putAsk[i]!);
  const used: { strike: number; price: number }[] = [];
  const middle = strike[at]!;
  const both = 0.5 * (call(at) + put(at));
  if (Number.isFinite(both)) used.push({ strike: middle, price: both });
  for (const [step, bid, price] of [
    [-1, putBid, put],
    [1, callBid, call],
  ] as const) {
    let missing = 0;
    for (let i = at + step; i >= 0 && i < strike.length && missing < MISSING_ENDS; i += step) {
      if (!(bid[i]! > 0) || !Number.isFinite(price(i))) {
        missing++;
        continue;
      }
      missing = 0;
      used.push({ strike: strike[i]!, price: price(i) });
    }
  }
  if (used.length < FEWEST_STRIKES) return null;
  used.sort((a, b) => a.strike - b.strike);
  const growth = Math.exp(rate * years);
  const sum = used.reduce((total, { strike: k, price }, i) => {
    const low = used[i - 1]?.strike ?? k;
    const high = used[i + 1]?.strike ?? k;
    // Half the way to both neighbours; at the ends the whole way to the one there is.
    const width = i === 0 || i === used.length - 1 ? high - low : 0.5 * (high - low);
    return total + (width / (k * k)) * growth * price;
  }, 0);
  const variance = (2 * sum - (forward / middle - 1) ** 2) / years;
  return { variance, middle, strikes: used.length };
}

/** The strip of an expiry with its life. */
export interface TimedStrip {
  readonly minutes: number;
  readonly variance: number;
}

const MINUTES_PER_DAY = 1440;
const MINUTES_PER_YEAR = 525_600;

/**
 * The index in per cent: total variance linear in minutes between the two expiries around the days, or the two nearest
 * where they are not enclosed.
 *
 * @returns NaN with fewer than two strips
 */
export function varianceIndex(strips: readonly TimedStrip[], days = 30): number {
  const minutes = days * MINUTES_PER_DAY;
  const sorted = strips.toSorted((a, b) => a.minutes - b.minutes);
  if (sorted.length < 2) return NaN;
  const after = sorted.findIndex((strip) => strip.minutes > minutes);
  const far = after < 0 ? sorted.length - 1 : Math.max(1, after);
  const [near, next] = [sorted[far - 1]!, sorted[far]!];
  const total = ({ minutes: life, variance }: TimedStrip) => (life / MINUTES_PER_YEAR) * variance;
  const share = (next.minutes - minutes) / (next.minutes - near.minutes);
  const variance = (share * total(near) + (1 - share) * total(next)) * (MINUTES_PER_YEAR / minutes);
  return variance > 0 ? 100 * Math.sqrt(variance) : NaN;
}
