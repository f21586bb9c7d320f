import {
  impliedAmericanVol,
  impliedVol,
  parityForward,
  type EarlyPremium,
  type ImpliedVolResult,
  type ParityForward,
} from '../implied';
import { americanExpiry, escrowOf, lognormalUndiscounted, type AmericanExpiry, type CashDividend } from '../models';
import { instantOf, yearsBetween, type Calendar } from '../time';
import { expiryTerms, isEarly, type Forward } from './american';
import {
  writtenOn,
  type DividendPayment,
  type MarketTerms,
  type SliceQuotes,
  type Snapshot,
  type WrittenOn,
} from './snapshot';

/** Cash dividends between two moments, by the years from the first to their ex-dates. */
export function cashDividends(
  dividends: readonly DividendPayment[],
  calendar: Calendar,
  from: number,
  to: number,
): CashDividend[] {
  return dividends.flatMap(({ exDate, amount }) => {
    const at = instantOf(calendar, exDate, calendar.open);
    return at > from && at < to ? [{ years: yearsBetween(from, at), amount }] : [];
  });
}

/** Spot less the dividends still to come before the expiry, grown at the rate (escrowed dividends). */
export function carryForward({ price, asof }: Snapshot, terms: MarketTerms, expiryAt: number, rate: number): number {
  if (terms.kind === 'future') return price;
  const years = yearsBetween(asof, expiryAt);
  const dividends = cashDividends(terms.dividends, terms.calendar, asof, expiryAt);
  return (price - escrowOf({ dividends, years, rate })(0)) * Math.exp(rate * years);
}

/** Where nothing better is known. */
const USUAL_VOL = 0.3;
/** Near the money vols differ little: three boundaries between these shares of one of them do. */
const UNDER = 0.7;
const OVER = 1.4;
const NEAR_VOLS = 3;

const volOrNone = (found: ImpliedVolResult) => ('vol' in found ? found.vol : NaN);

/**
 * By how much early exercise raises the call over the put at a strike, by the vols that their own mids imply.
 *
 * @param known vols by signed strike, from a pass before; those of this one are put there
 */
function earlyPremium(on: WrittenOn, at: Forward, known: Map<number, number>): EarlyPremium {
  let expiry: AmericanExpiry | undefined;
  const isEarlyOn = { call: isEarly(on, at, 1), put: isEarly(on, at, -1) };
  const premiumOf = (sign: number, strike: number, mid: number): number => {
    if (!isEarlyOn[sign > 0 ? 'call' : 'put']) return 0;
    const european = { ...at, model: 'black-76', side: sign > 0 ? 'call' : 'put', strike } as const;
    const guess = known.get(sign * strike) ?? volOrNone(impliedVol({ ...european, price: mid }));
    const usual = guess > 0 ? guess : USUAL_VOL;
    expiry ??= americanExpiry(expiryTerms(on, at), UNDER * usual, OVER * usual, NEAR_VOLS);
    const { vol } = impliedAmericanVol(expiry, sign, strike, mid, guess);
    if (!(vol > 0)) return NaN;
    known.set(sign * strike, vol);
    const deviation = vol * Math.sqrt(at.years);
    return mid - at.discount * lognormalUndiscounted(sign, at.forward, strike, deviation);
  };
  return (strike, call, put) => premiumOf(1, strike, call) - premiumOf(-1, strike, put);
}

/** Passes that take early exercise out of the quotes; each leaves some tenth of the error before. */
const MOST_PASSES = 4;
/** A pass that moves the forward by less than this share of its uncertainty is the last. */
const SETTLED = 0.5;

/**
 * The forward of an expiry by put–call parity. Of American contracts the early-exercise premia of both sides are removed
 * first; they hang on the forward, so that is done again until it stands.
 *
 * @param carry forward by carry: strikes near it take part
 * @returns null where fewer than two strikes have both sides
 */
export function forwardByParity(
  slice: SliceQuotes,
  snapshot: Snapshot,
  terms: MarketTerms,
  { years, rate, discount, carry }: Omit<Forward, 'forward'> & { carry: number },
): ParityForward | null {
  const quotes = {
    strike: slice.strike,
    callBid: slice.call.bid,
    callAsk: slice.call.ask,
    putBid: slice.put.bid,
    putAsk: slice.put.ask,
  };
  const near = Number.isFinite(carry) ? carry : slice.strike[slice.strike.length >> 1]!;
  let found = parityForward(quotes, discount, near);
  // Carry is the better guess: parity by itself takes early exercise for carry.
  let forward = carry > 0 ? carry : (found?.forward ?? NaN);
  const on = writtenOn(snapshot, terms);
  const known = new Map<number, number>();
  for (let pass = 0; pass < MOST_PASSES && found; pass++) {
    const at = { years, rate, discount, forward };
    if (!isEarly(on, at, 1) && !isEarly(on, at, -1)) break;
    const next = parityForward(quotes, discount, near, earlyPremium(on, at, known));
    if (!next || !(next.forward > 0)) break;
    const moved = Math.abs(next.forward - forward);
    found = next;
    forward = next.forward;
    if (moved < SETTLED * next.uncertainty) break;
  }
  return found;
}
