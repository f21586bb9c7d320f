import {
  combineForwards,
  heardStrikes,
  impliedVols,
  NEAREST_STRIKES,
  parityForward,
  parityStrikes,
  type CombinedForward,
  type ForwardEstimate,
  type ParityForward,
  type ParityStrike,
} from '../implied';
import { escrowOf, type AmericanExpiry, type CashDividend } from '../models';
import { instantOf, yearsBetween, type Calendar } from '../time';
import { americanAt, expiryTerms, isEarly, isExercised } from './american';
import { writtenOn } from './snapshot';
import type { DividendPayment, Forward, MarketTerms, SliceQuotes, Snapshot, WrittenOn } from './types';

/** Kinds of dividends that contracts are adjusted for (common practice): they are no part of the carry. */
export const ADJUSTED_KINDS = ['split', 'special'];

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

/** Vols lie between these shares of the lowest and the highest European ones; boundaries are solved at so many of them. */
const UNDER = 0.85;
const OVER = 1.1;
const NEAR_VOLS = 3;
const RANGE_STEP = 1.15;
/** Further than this from the middle of the vols the boundaries are not interpolated well. */
const WIDEST = 2;
/** Where nothing better is known. */
const USUAL_VOL = 0.3;
/** Share by which a vol is moved to see what a price gains. */
const VOL_STEP = 0.01;
/** Share by which the forward is moved to see what a price gains. */
const FORWARD_STEP = 1e-3;
/** A vol that would move by more than this factor at a time does not belong to its strike. */
const MOST_VOL_STEP = 2;
/** Share of one deviation by which the forward may move before slopes are taken again. */
const SLOPES_HOLD = 0.2;

/** By how much the price of a contract grows with the vol, and with the forward while the price of the underlying stays. */
interface Slopes {
  readonly vega: number;
  readonly gain: number;
}

/** A strike on the way to the forward and the vol at which both of its sides are worth their mids. */
interface EarlyStrike extends ParityStrike {
  vol: number;
  slopes: { readonly call: Slopes; readonly put: Slopes } | null;
}

/**
 * Both sides of some strikes as American contracts. Two mids have two unknowns, forward and vol: each pass is a step of
 * Newton's method at every strike, with slopes that are taken once and kept, as their boundaries cost most.
 */
class EarlySides {
  /** How many of the strikes have been looked at. */
  seen = NEAREST_STRIKES;
  private readonly strikes: EarlyStrike[];
  private readonly range: readonly [number, number];
  /** How far the forward may move before slopes are taken again. */
  readonly scale: number;
  private slopesAt = NaN;

  constructor(
    strikes: readonly ParityStrike[],
    private readonly on: WrittenOn,
    private readonly terms: Omit<Forward, 'forward'>,
    start: number,
  ) {
    const near = strikes.slice(0, NEAREST_STRIKES);
    const count = near.length;
    const column = (value: number) => new Float64Array(count).fill(value);
    const [forward, years] = [column(start), column(terms.years)];
    const strike = Float64Array.from(near, (one) => one.strike);
    const european = (sign: number, mids: (one: ParityStrike) => number) => {
      const price = Float64Array.from(near, (one) => mids(one) / terms.discount);
      const out = column(NaN);
      impliedVols(forward, strike, years, price, column(sign), out, count);
      return out;
    };
    const [calls, puts] = [european(1, ({ call }) => call), european(-1, ({ put }) => put)];
    const known = [...calls, ...puts].filter((vol) => vol > 0).sort((a, b) => a - b);
    const middle = known[known.length >> 1] ?? USUAL_VOL;
    // In steps, so that the boundaries still hold when quotes are left out.
    const stepped = (vol: number, round: (steps: number) => number) =>
      RANGE_STEP ** round(Math.log(vol) / Math.log(RANGE_STEP));
    this.range = [
      stepped(UNDER * Math.max(known[0] ?? 0, middle / WIDEST), Math.floor),
      stepped(OVER * Math.min(known.at(-1) ?? middle, middle * WIDEST), Math.ceil),
    ];
    this.scale = SLOPES_HOLD * start * middle * Math.sqrt(terms.years);
    this.strikes = strikes.map((one, i) => {
      // Out of the money early exercise is worth least.
      const [first, second] = one.strike < start ? [puts[i], calls[i]] : [calls[i], puts[i]];
      return { ...one, vol: first! > 0 ? first! : second! > 0 ? second! : middle, slopes: null };
    });
  }

  private expiryAt(forward: number): AmericanExpiry {
    return americanAt(expiryTerms(this.on, { ...this.terms, forward }), ...this.range, NEAR_VOLS);
  }

  /** What the strikes nearest to the money say, seen from a guess; nothing where a side says only that it is exercised. */
  estimates(forward: number): ForwardEstimate[] {
    const at = { ...this.terms, forward };
    const isEarlyOn = { call: isEarly(this.on, at, 1), put: isEarly(this.on, at, -1) };
    const here = this.expiryAt(forward);
    const { spot } = here.terms;
    if (!(Math.abs(forward - this.slopesAt) < this.scale)) {
      this.slopesAt = forward;
      for (const one of this.strikes) one.slopes = null;
    }
    let there: AmericanExpiry | undefined;
    const slopesOf = (sign: 1 | -1, { strike, vol }: EarlyStrike, price: number): Slopes => {
      there ??= this.expiryAt(forward * (1 + FORWARD_STEP));
      return {
        vega: (here.price(sign, strike, vol * (1 + VOL_STEP)) - price) / (vol * VOL_STEP),
        gain: (there.price(sign, strike, vol) - price) / (forward * FORWARD_STEP),
      };
    };
    const found: ForwardEstimate[] = [];
    for (let i = 0; i < this.strikes.length && found.length < NEAREST_STRIKES; i++) {
      this.seen = Math.max(this.seen, i + 1);
      const one = this.strikes[i]!;
      const { strike, vol, callHalf, putHalf } = one;
      if (isEarlyOn.call && isExercised(1, spot, strike, one.call, 2 * callHalf)) continue;
      if (isEarlyOn.put && isExercised(-1, spot, strike, one.put, 2 * putHalf)) continue;
      const [call, put] = [here.price(1, strike, vol), here.price(-1, strike, vol)];
      one.slopes ??= { call: slopesOf(1, one, call), put: slopesOf(-1, one, put) };
      const { call: ofCall, put: ofPut } = one.slopes;
      const [callMiss, putMiss] = [one.call - call, one.put - put];
      // A call is worth more on a higher forward, and a put less.
      const apart = ofCall.gain * ofPut.vega - ofPut.gain * ofCall.vega;
      const next = vol + (ofCall.gain * putMiss - ofPut.gain * callMiss) / apart;
      if (!(apart > 0 && next > vol / MOST_VOL_STEP && next < vol * MOST_VOL_STEP)) continue;
      one.vol = next;
      found.push({
        forward: forward + (callMiss * ofPut.vega - putMiss * ofCall.vega) / apart,
        width: Math.hypot(callHalf * ofPut.vega, putHalf * ofCall.vega) / apart,
      });
    }
    return found;
  }
}

/** Passes until the forward stands: each leaves some hundredth of the error before. */
const MOST_PASSES = 5;
/** A pass that moves the forward by less than this share of its uncertainty is the last. */
const SETTLED = 0.2;

function middleForward(estimates: readonly ForwardEstimate[]): number {
  const sorted = estimates.map(({ forward }) => forward).sort((a, b) => a - b);
  return sorted[sorted.length >> 1]!;
}

/**
 * The forward of American contracts: at each strike the one by which call and put have the same vol, early exercise
 * considered. What two quotes say of it is known by their spreads over their vegas, so that one which is mostly worth what it
 * is exercised for says little.
 */
function earlyForward(
  strikes: readonly ParityStrike[],
  on: WrittenOn,
  terms: Omit<Forward, 'forward'>,
  start: number,
  carry: ForwardEstimate | undefined,
): { found: CombinedForward | null; seen: number } {
  const sides = new EarlySides(strikes, on, terms, start);
  let forward = start;
  let found: CombinedForward | null = null;
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const estimates = sides.estimates(forward);
    found = combineForwards(estimates, carry);
    if (estimates.length < 2) break;
    const isOnCarry = (one: ForwardEstimate) =>
      carry !== undefined && Math.abs(one.forward - carry.forward) <= Math.hypot(one.width, carry.width);
    // Far from the forward strikes need not agree yet.
    const near = estimates.filter(isOnCarry);
    const next = found?.forward ?? middleForward(near.length > 0 ? near : estimates);
    const moved = Math.abs(next - forward);
    forward = next;
    if (!(forward > 0)) return { found: null, seen: Infinity };
    // What a step of Newton's method leaves goes with its square.
    const left = pass === 0 ? moved ** 2 / sides.scale : moved;
    if (left < SETTLED * (found?.uncertainty ?? estimates[0]!.width)) break;
  }
  return { found, seen: sides.seen };
}

/** How well carry is known without quotes: what lending and dividends may be off by, a year, and the price itself (our own choice). */
const CARRY_DOUBT = 0.05;
const LEAST_DOUBT = 0.0005;

/**
 * The forward of an expiry by put–call parity, of American contracts with early exercise considered.
 *
 * @param carry forward by carry: strikes near it take part
 * @returns null where fewer than two strikes say the same
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
  const known = carry > 0 ? { forward: carry, width: carry * (CARRY_DOUBT * years + LEAST_DOUBT) } : undefined;
  const on = writtenOn(snapshot, terms);
  // Carry is the better guess: plain parity mistakes early exercise for carry.
  const plain = carry > 0 ? null : parityForward(quotes, discount, near, known);
  const at = { years, rate, discount, forward: carry > 0 ? carry : (plain?.forward ?? NaN) };
  if (!isEarly(on, at, 1) && !isEarly(on, at, -1)) return plain ?? parityForward(quotes, discount, near, known);
  const strikes = parityStrikes(quotes, near);
  const { found, seen } = earlyForward(strikes, on, at, at.forward, known);
  return found && { ...found, heard: heardStrikes(strikes, near, seen) };
}
