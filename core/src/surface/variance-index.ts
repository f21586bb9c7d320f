import { constantMaturityVol } from './term';

/** How a quote counts in a strip. */
export const STRIP_MARKS = { used: 0, noBid: 1, gap: 2 } as const;

/** One side of an expiry, aligned with the strikes. */
export interface StripSide {
  /** Where it is used. */
  readonly mid: ArrayLike<number>;
  /** Of {@link STRIP_MARKS}: a good quote, one that nobody bids for, or none that can be meant. */
  readonly mark: ArrayLike<number>;
}

/** Quotes of an expiry by strike, ascending. */
export interface StripQuotes {
  readonly strike: ArrayLike<number>;
  readonly call: StripSide;
  readonly put: StripSide;
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
 * A quote that cannot be meant is a gap: its strike takes no part and ends nothing. At K₀, where one side is good, it stands
 * for both by parity; where neither is, the next strike under it is K₀.
 *
 * @param fewest strikes that have to take part
 * @returns null with fewer than these, or none at or under the forward
 */
export function stripVariance(
  { strike, call, put }: StripQuotes,
  forward: number,
  rate: number,
  years: number,
  fewest = FEWEST_STRIKES,
): Strip | null {
  if (!(years > 0)) return null;
  const growth = Math.exp(rate * years);
  const isUsed = (side: StripSide, i: number) => side.mark[i] === STRIP_MARKS.used;
  let at = -1;
  for (let i = 0; i < strike.length && strike[i]! <= forward; i++) if (isUsed(call, i) || isUsed(put, i)) at = i;
  if (at < 0) return null;
  const middle = strike[at]!;
  // The mean of both: half of the parity C − P over the put, under the call.
  const parity = (0.5 * (forward - middle)) / growth;
  const sides = [
    ...(isUsed(call, at) ? [call.mid[at]! - parity] : []),
    ...(isUsed(put, at) ? [put.mid[at]! + parity] : []),
  ];
  const used = [{ strike: middle, price: sides.reduce((sum, price) => sum + price, 0) / sides.length }];
  for (const [step, side] of [
    [-1, put],
    [1, call],
  ] as const) {
    let missing = 0;
    for (let i = at + step; i >= 0 && i < strike.length && missing < MISSING_ENDS; i += step) {
      if (side.mark[i] === STRIP_MARKS.noBid) missing++;
      else if (isUsed(side, i)) {
        missing = 0;
        used.push({ strike: strike[i]!, price: side.mid[i]! });
      }
    }
  }
  if (used.length < fewest) return null;
  used.sort((a, b) => a.strike - b.strike);
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
 * The index in per cent: total variance linear in minutes between the two expiries around the days; outside them flat in vol, as
 * constant-maturity vols are.
 *
 * @returns NaN without strips
 */
export function varianceIndex(strips: readonly TimedStrip[], days = 30): number {
  const points = strips
    .filter(({ variance }) => variance > 0)
    .map(({ minutes, variance }) => ({ years: minutes / MINUTES_PER_YEAR, vol: Math.sqrt(variance) }))
    .sort((a, b) => a.years - b.years);
  return 100 * constantMaturityVol(points, (days * MINUTES_PER_DAY) / MINUTES_PER_YEAR);
}

/** Quotes of a strike; a side that nobody quotes has no bid. */
export interface PublishedQuotes {
  readonly strike: number;
  readonly callBid: number | null;
  readonly callAsk: number | null;
  readonly putBid: number | null;
  readonly putAsk: number | null;
}

/** An expiry as the published rule takes it. */
export interface PublishedTerm {
  /** To the expiry. */
  readonly minutes: number;
  /** Continuously compounded, decimal per year. */
  readonly rate: number;
  /** In any order. */
  readonly strikes: readonly PublishedQuotes[];
}

/** What the published rule makes of an expiry. */
export interface PublishedStrip {
  /** From the strike where the mids of call and put are nearest. */
  forward: number;
  /** The strike at or under it from which both sides are taken. */
  k0: number;
  /** Annual variance σ². */
  variance: number;
  strikesUsed: number;
}

/** A strip of fewer strikes has no distance between them. */
const FEWEST_PUBLISHED = 2;

/**
 * The strip of an expiry by the published rule alone (the white paper of the volatility index, 2009 and later): the forward is
 * K + e^(rT)(C − P) at the strike where |C − P| is smallest, the lower of a tie; quotes without a bid take no part, and two of them
 * in a row end a side. Every other quote counts as it stands: nothing is judged.
 *
 * @returns null where no strike has bids on both sides, or fewer than two take part
 */
export function publishedStrip({ minutes, rate, strikes }: PublishedTerm): PublishedStrip | null {
  const years = minutes / MINUTES_PER_YEAR;
  const sorted = strikes.toSorted((a, b) => a.strike - b.strike);
  const side = (bid: 'callBid' | 'putBid', ask: 'callAsk' | 'putAsk') => {
    const isQuoted = sorted.map((quotes) => (quotes[bid] ?? 0) > 0 && quotes[ask] !== null);
    return {
      mid: sorted.map((quotes) => 0.5 * ((quotes[bid] ?? NaN) + (quotes[ask] ?? NaN))),
      mark: isQuoted.map((is) => (is ? STRIP_MARKS.used : STRIP_MARKS.noBid)),
    };
  };
  const call = side('callBid', 'callAsk');
  const put = side('putBid', 'putAsk');
  let nearest = -1;
  let smallest = Infinity;
  sorted.forEach((_, i) => {
    const apart = Math.abs(call.mid[i]! - put.mid[i]!);
    if (call.mark[i] !== STRIP_MARKS.used || put.mark[i] !== STRIP_MARKS.used || !(apart < smallest)) return;
    nearest = i;
    smallest = apart;
  });
  if (nearest < 0) return null;
  const forward = sorted[nearest]!.strike + Math.exp(rate * years) * (call.mid[nearest]! - put.mid[nearest]!);
  const quotes = { strike: sorted.map(({ strike }) => strike), call, put };
  const strip = stripVariance(quotes, forward, rate, years, FEWEST_PUBLISHED);
  return strip && { forward, k0: strip.middle, variance: strip.variance, strikesUsed: strip.strikes };
}

/**
 * The index of two expiries by the published rule, in per cent: total variance linear in minutes through both, beyond them too.
 *
 * @returns NaN where that is negative, or both expire at once
 */
export function publishedIndex([near, far]: readonly [TimedStrip, TimedStrip], days = 30): number {
  const target = days * MINUTES_PER_DAY;
  const total = ({ minutes, variance }: TimedStrip) => (minutes / MINUTES_PER_YEAR) * variance;
  const share = (target - near.minutes) / (far.minutes - near.minutes);
  const variance = ((1 - share) * total(near) + share * total(far)) * (MINUTES_PER_YEAR / target);
  return Number.isFinite(variance) ? 100 * Math.sqrt(variance) : NaN;
}
