import type { Side } from '../contracts/contract';
/** One side of an expiry's quotes, aligned with its strikes; NaN where there is none. */
export interface QuotedSide {
  readonly bid: Float64Array;
  readonly ask: Float64Array;
  /** Implied vols of the two. */
  readonly bidVol: Float64Array;
  readonly askVol: Float64Array;
}

/** The quotes of an expiry as they are looked through. */
export interface QuotedExpiry {
  readonly expiry: string;
  readonly years: number;
  readonly forward: number;
  readonly discount: number;
  /** Whether contracts can be exercised early: parity does not bind them then, nor does discounting a vertical. */
  readonly isEarly: boolean;
  readonly strike: Float64Array;
  readonly call: QuotedSide;
  readonly put: QuotedSide;
}

export const ARBITRAGE_KINDS = ['vertical', 'butterfly', 'calendar', 'parity'] as const;

/** Quotes that no model could price together. */
export interface Arbitrage {
  kind: (typeof ARBITRAGE_KINDS)[number];
  /** Of a calendar the shorter expiry, `against` the longer one. */
  expiry: string;
  against: string | null;
  /** `both` for parity. */
  side: Side | 'both';
  strikes: number[];
  /** What mids are apart, per unit of the underlying. */
  atMid: number;
  /** What is left after buying at the ask and selling at the bid: over 0 it can be earned. */
  afterSpread: number;
}

/** Less than this share of the forward is rounding. */
const ROUNDING = 1e-9;

/**
 * Looks through quotes for what contradicts itself: verticals that cost less than nothing or more than they can pay,
 * butterflies of neighbouring strikes that cost less than nothing, strikes whose forwards exclude each other, and vols under
 * which total variance falls with time (P. Carr and D. Madan, "A note on sufficient conditions for no arbitrage", 2005).
 *
 * @param expiries ascending in years
 * @returns what is found at mids, the largest after the spread first
 */
export function findArbitrage(expiries: readonly QuotedExpiry[]): Arbitrage[] {
  const found = expiries.flatMap((expiry, i) => {
    const longer = expiries[i + 1];
    return [
      ...(['call', 'put'] as const).flatMap((side) => [...verticals(expiry, side), ...butterflies(expiry, side)]),
      ...parities(expiry),
      ...(longer ? (['call', 'put'] as const).flatMap((side) => calendars(expiry, longer, side)) : []),
    ];
  });
  return found.sort((a, b) => b.afterSpread - a.afterSpread);
}

function quotedAt({ strike }: QuotedExpiry, { bid, ask }: QuotedSide): number[] {
  return Array.from(strike, (_, i) => i).filter((i) => bid[i]! > 0 && ask[i]! >= bid[i]!);
}

const middle = ({ bid, ask }: QuotedSide, i: number) => 0.5 * (bid[i]! + ask[i]!);

function verticals(expiry: QuotedExpiry, side: Side): Arbitrage[] {
  const quotes = expiry[side];
  const { strike, forward, discount, isEarly } = expiry;
  const at = quotedAt(expiry, quotes);
  return at.slice(1).flatMap((high, n) => {
    const low = at[n]!;
    // The dearer of the two by right: the lower call, the higher put.
    const [dear, cheap] = side === 'call' ? [low, high] : [high, low];
    const most = (isEarly ? 1 : discount) * (strike[high]! - strike[low]!);
    const lines = [
      // It may not cost less than nothing, nor more than it can pay.
      { atMid: middle(quotes, cheap) - middle(quotes, dear), afterSpread: quotes.bid[cheap]! - quotes.ask[dear]! },
      {
        atMid: middle(quotes, dear) - middle(quotes, cheap) - most,
        afterSpread: quotes.bid[dear]! - quotes.ask[cheap]! - most,
      },
    ];
    return lines
      .filter(({ atMid }) => atMid > ROUNDING * forward)
      .map((line) => ({ kind: 'vertical' as const, ...place(expiry, side, [low, high]), ...line }));
  });
}

function butterflies(expiry: QuotedExpiry, side: Side): Arbitrage[] {
  const quotes = expiry[side];
  const { strike, forward } = expiry;
  const at = quotedAt(expiry, quotes);
  return at.slice(2).flatMap((high, n) => {
    const [low, mid] = [at[n]!, at[n + 1]!];
    const share = (strike[high]! - strike[mid]!) / (strike[high]! - strike[low]!);
    const wings = (price: (i: number) => number) => share * price(low) + (1 - share) * price(high);
    const atMid = middle(quotes, mid) - wings((i) => middle(quotes, i));
    const afterSpread = quotes.bid[mid]! - wings((i) => quotes.ask[i]!);
    return atMid > ROUNDING * forward
      ? [{ kind: 'butterfly' as const, ...place(expiry, side, [low, mid, high]), atMid, afterSpread }]
      : [];
  });
}

/** The strike that implies the highest forward to sell at against the one with the lowest to buy at. */
function parities(expiry: QuotedExpiry): Arbitrage[] {
  const { strike, call, put, discount, isEarly, forward } = expiry;
  const puts = new Set(quotedAt(expiry, put));
  const at = quotedAt(expiry, call).filter((i) => puts.has(i));
  if (isEarly || at.length < 2) return [];
  const sold = (i: number) => strike[i]! + (call.bid[i]! - put.ask[i]!) / discount;
  const bought = (i: number) => strike[i]! + (call.ask[i]! - put.bid[i]!) / discount;
  const best = (of: (i: number) => number, sign: number) => at.reduce((a, b) => (sign * of(b) > sign * of(a) ? b : a));
  const [high, low] = [best(sold, 1), best(bought, -1)];
  const implied = (i: number) => strike[i]! + (middle(call, i) - middle(put, i)) / discount;
  const afterSpread = discount * (sold(high) - bought(low));
  return afterSpread > ROUNDING * forward
    ? [
        {
          kind: 'parity',
          ...place(expiry, 'both', [high, low]),
          atMid: discount * (implied(high) - implied(low)),
          afterSpread,
        },
      ]
    : [];
}

/** Strikes of the shorter expiry whose total variance is over that of the longer one at the same log-moneyness. */
function calendars(near: QuotedExpiry, far: QuotedExpiry, side: Side): Arbitrage[] {
  const isOut = (strike: number, forward: number) => (side === 'call' ? strike >= forward : strike < forward);
  const longer = quotedAt(far, far[side]).map((i) => ({
    k: Math.log(far.strike[i]! / far.forward),
    bid: far[side].bidVol[i]! ** 2 * far.years,
    ask: far[side].askVol[i]! ** 2 * far.years,
  }));
  return quotedAt(near, near[side]).flatMap((i) => {
    const strike = near.strike[i]!;
    if (!isOut(strike, near.forward)) return [];
    const k = Math.log(strike / near.forward);
    const after = longer.findIndex((point) => point.k >= k);
    const [a, b] = [longer[after - 1], longer[after]];
    if (!a || !b) return [];
    const share = (k - a.k) / (b.k - a.k);
    const between = (of: 'bid' | 'ask') => a[of] + share * (b[of] - a[of]);
    const [bid, ask] = [near[side].bidVol[i]! ** 2 * near.years, near[side].askVol[i]! ** 2 * near.years];
    // What a change of variance is worth: half the density of the strike times the forward.
    const vol = Math.sqrt(0.5 * (bid + ask));
    const d1 = -k / vol + 0.5 * vol;
    const worth = (near.discount * near.forward * Math.exp(-0.5 * d1 * d1)) / (Math.sqrt(2 * Math.PI) * 2 * vol);
    const atMid = worth * 0.5 * (bid + ask - between('bid') - between('ask'));
    return atMid > ROUNDING * near.forward
      ? [
          {
            kind: 'calendar' as const,
            ...place(near, side, [i]),
            against: far.expiry,
            atMid,
            afterSpread: worth * (bid - between('ask')),
          },
        ]
      : [];
  });
}

function place({ expiry, strike }: QuotedExpiry, side: Arbitrage['side'], at: readonly number[]) {
  return { expiry, against: null, side, strikes: at.map((i) => strike[i]!) };
}
