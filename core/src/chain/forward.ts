import { impliedAmericanVol, impliedVols, parityForward, type EarlyPremium, type ParityForward } from '../implied';
import { americanExpiry, priceContract, type AmericanExpiry } from '../models';
import { instantOf, yearsBetween } from '../time';
import { expiryTerms, isEarly, type Forward } from './american';
import { writtenOn, type MarketTerms, type SliceQuotes, type Snapshot, type WrittenOn } from './snapshot';

/** Spot less the dividends still to come before the expiry, grown at the rate (escrowed dividends). */
export function carryForward(snapshot: Snapshot, terms: MarketTerms, expiryAt: number, rate: number): number {
  const years = yearsBetween(snapshot.asof, expiryAt);
  if (terms.kind === 'future') return snapshot.price;
  let spot = snapshot.price;
  for (const { exDate, amount } of terms.dividends) {
    const paidAt = instantOf(terms.calendar, exDate, terms.calendar.open);
    if (paidAt <= snapshot.asof || paidAt >= expiryAt) continue;
    spot -= amount * Math.exp(-rate * yearsBetween(snapshot.asof, paidAt));
  }
  return spot * Math.exp(rate * years);
}

const one = (value: number) => Float64Array.of(value);

/** Where nothing better is known. */
const USUAL_VOL = 0.3;
/** Near the money vols differ little: three boundaries between these shares of one of them do. */
const UNDER = 0.7;
const OVER = 1.4;
const NEAR_VOLS = 3;

function europeanVol({ forward, years, discount }: Forward, sign: number, strike: number, mid: number): number {
  const out = one(NaN);
  impliedVols(one(forward), one(strike), one(years), one(mid / discount), one(sign), out, 1);
  return out[0]!;
}

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
    const guess = known.get(sign * strike) ?? europeanVol(at, sign, strike, mid);
    const usual = guess > 0 ? guess : USUAL_VOL;
    expiry ??= americanExpiry(expiryTerms(on, at), UNDER * usual, OVER * usual, NEAR_VOLS);
    const { vol } = impliedAmericanVol(expiry, sign, strike, mid, guess);
    if (!(vol > 0)) return NaN;
    known.set(sign * strike, vol);
    const european = priceContract({
      model: 'black-76',
      side: sign > 0 ? 'call' : 'put',
      forward: at.forward,
      strike,
      years: at.years,
      rate: at.rate,
      vol,
    });
    return mid - european.price;
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
