import { REASONS, type ReasonCode } from '../implied';
import { straddleUsed } from '../odds';
import { STRIP_MARKS, stripVariance, type StripSide } from '../surface';
import { straddlesAround } from './straddles';
import type { ExpiryFit, QuotesRead, SideQuotes, SideVols, SliceQuotes } from './types';

const STALE: ReasonCode = REASONS.indexOf('stale');
const WIDE: ReasonCode = REASONS.indexOf('wide');
const ZERO_BID: ReasonCode = REASONS.indexOf('zero-bid');

/** Counts, straddle, spread and strip of an expiry, by what is used of its quotes. */
export function readQuotes(
  slice: SliceQuotes,
  at: Pick<ExpiryFit, 'years' | 'forward' | 'rate' | 'discount'>,
  calls: SideVols,
  puts: SideVols,
): QuotesRead {
  const { years, forward, rate } = at;
  const refused = tally(slice, calls, puts);
  const straddle = years > 0 ? straddleUsed(straddlesAround(slice.strike, at, calls, puts), at, 'forward') : null;
  return {
    counts: {
      contracts: refused.reduce((sum, count) => sum + count, 0),
      usable: refused[0]!,
      refused,
      straddleMove: straddle?.move ?? NaN,
    },
    stale: refused[STALE]!,
    spread: spreadNearMoney(slice, forward, calls, puts),
    straddle,
    strip: stripVariance(
      { strike: slice.strike, call: stripSide(slice.call, calls, 1), put: stripSide(slice.put, puts, -1) },
      ...([forward, rate, years] as const),
    ),
  };
}

/** How many strikes near the forward tell how tight an expiry is quoted. */
const NEAR_MONEY = 3;

/**
 * The middle of spread over mid of the out-of-the-money quotes at the three strikes nearest to the forward, of those that are
 * used or that are too wide to be.
 */
function spreadNearMoney(slice: SliceQuotes, forward: number, calls: SideVols, puts: SideVols): number {
  const { strike } = slice;
  const isSeen = (i: number) => {
    const { reason } = strike[i]! < forward ? puts : calls;
    return reason[i] === 0 || reason[i] === WIDE;
  };
  // Outwards from the forward, always to the nearer of the next strikes on either side.
  let above = strike.findIndex((level) => level >= forward);
  if (above < 0) above = strike.length;
  let below = above - 1;
  const shares: number[] = [];
  while (shares.length < NEAR_MONEY && (below >= 0 || above < strike.length)) {
    const isBelow = below >= 0 && !(strike[above]! - forward < forward - strike[below]!);
    const i = isBelow ? below-- : above++;
    if (!isSeen(i)) continue;
    const { bid, ask } = isBelow ? slice.put : slice.call;
    shares.push((2 * (ask[i]! - bid[i]!)) / (ask[i]! + bid[i]!));
  }
  shares.sort((a, b) => a - b);
  return shares[shares.length >> 1] ?? NaN;
}

/**
 * A side of the strip: what is used as it is quoted, what nobody bids for, and gaps. A wide quote is as it should be in the
 * wing; one that has a narrow one further out cannot be meant.
 *
 * @param outwards +1 for calls, −1 for puts
 */
function stripSide({ bid, ask }: SideQuotes, { reason }: SideVols, outwards: 1 | -1): StripSide {
  const last = outwards > 0 ? reason.lastIndexOf(0) : reason.indexOf(0);
  const mid = new Float64Array(bid.length);
  const mark = new Uint8Array(bid.length);
  for (let i = 0; i < bid.length; i++) {
    mid[i] = 0.5 * (bid[i]! + ask[i]!);
    const isWing = reason[i] === WIDE && last >= 0 && outwards * (i - last) > 0;
    // A side that is not listed, or not quoted at all, is no bid of zero.
    const isUnbid = reason[i] === ZERO_BID && ask[i]! > 0;
    mark[i] = reason[i] === 0 || isWing ? STRIP_MARKS.used : isUnbid ? STRIP_MARKS.noBid : STRIP_MARKS.gap;
  }
  return { mid, mark };
}

/** Counts contracts by reason; a strike listed on one side only is one contract. */
function tally(slice: SliceQuotes, calls: SideVols, puts: SideVols): number[] {
  const counts = new Array<number>(REASONS.length).fill(0);
  for (const [quotes, vols] of [
    [slice.call, calls],
    [slice.put, puts],
  ] as const) {
    for (let i = 0; i < slice.strike.length; i++) {
      const isListed = Number.isFinite(quotes.bid[i]!) || Number.isFinite(quotes.ask[i]!);
      if (isListed) counts[vols.reason[i]!]!++;
    }
  }
  return counts;
}
