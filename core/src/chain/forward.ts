import {
  combineForwards,
  impliedAmericanVol,
  impliedVols,
  NEAREST_STRIKES,
  parityForward,
  parityStrikes,
  type ForwardEstimate,
  type ParityForward,
  type ParityStrike,
} from '../implied';
import { americanExpiry, escrowOf, type AmericanExpiry, type CashDividend } from '../models';
import { instantOf, yearsBetween, type Calendar } from '../time';
import { expiryTerms, isEarly, isExercised, type Forward } from './american';
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

/** What a strike's two sides say of the forward. */
interface SidesAtStrike {
  /** Vol of the call less that of the put, at a guess of the forward. */
  gap: number;
  /** By how much that moves when each mid is off by half its spread. */
  noise: number;
  /** By how much that changes with the forward. */
  slope: number;
}

/** Vols lie between these shares of the lowest and the highest European ones; boundaries are solved at so many of them. */
const UNDER = 0.8;
const OVER = 1.15;
const NEAR_VOLS = 4;
/** Further than this from the middle of the vols the boundaries are not interpolated well. */
const WIDEST = 2;
/** Where nothing better is known. */
const USUAL_VOL = 0.3;
/** Share by which a vol is moved to see what a price gains. */
const VOL_STEP = 0.01;
/** Share by which the forward is moved to see what a price gains. */
const FORWARD_STEP = 1e-3;

/** Both sides of some strikes as American contracts, at one forward after the other. */
class EarlySides {
  /** Vols by side: where the next search begins. */
  private readonly vols: Record<1 | -1, Float64Array>;
  private readonly range: readonly [number, number];

  constructor(
    private readonly strikes: readonly ParityStrike[],
    private readonly on: WrittenOn,
    private readonly terms: Omit<Forward, 'forward'>,
    start: number,
  ) {
    const count = strikes.length;
    const column = (value: number) => new Float64Array(count).fill(value);
    const [forward, years] = [column(start), column(terms.years)];
    const strike = Float64Array.from(strikes, (one) => one.strike);
    const european = (sign: number, mids: (one: ParityStrike) => number) => {
      const price = Float64Array.from(strikes, (one) => mids(one) / terms.discount);
      const out = column(NaN);
      impliedVols(forward, strike, years, price, column(sign), out, count);
      return out;
    };
    this.vols = { 1: european(1, ({ call }) => call), '-1': european(-1, ({ put }) => put) };
    const known = [...this.vols[1], ...this.vols[-1]].filter((vol) => vol > 0).sort((a, b) => a - b);
    const middle = known[known.length >> 1] ?? USUAL_VOL;
    this.range = [
      UNDER * Math.max(known[0] ?? 0, middle / WIDEST),
      OVER * Math.min(known.at(-1) ?? middle, middle * WIDEST),
    ];
  }

  private expiryAt(forward: number): AmericanExpiry {
    return americanExpiry(expiryTerms(this.on, { ...this.terms, forward }), ...this.range, NEAR_VOLS);
  }

  /** At a forward: a strike by its index; null where a side has no vol or says nothing but that it is exercised. */
  at(forward: number): (i: number) => SidesAtStrike | null {
    const at = { ...this.terms, forward };
    const isEarlyOn = { 1: isEarly(this.on, at, 1), '-1': isEarly(this.on, at, -1) };
    const [here, there] = [this.expiryAt(forward), this.expiryAt(forward * (1 + FORWARD_STEP))];
    const { spot } = here.terms;
    const side = (sign: 1 | -1, i: number, strike: number, mid: number, half: number) => {
      if (isEarlyOn[sign] && isExercised(sign, spot, strike, mid, 2 * half)) return null;
      const { vol } = impliedAmericanVol(here, sign, strike, mid, this.vols[sign][i]!);
      if (!(vol > 0)) return null;
      this.vols[sign][i] = vol;
      const vega = (here.price(sign, strike, vol * (1 + VOL_STEP)) - mid) / (vol * VOL_STEP);
      const gain = (there.price(sign, strike, vol) - mid) / (forward * FORWARD_STEP);
      return vega > 0 ? { vol, noise: half / vega, slope: -gain / vega } : null;
    };
    return (i) => {
      const { strike, call, put, callHalf, putHalf } = this.strikes[i]!;
      const ofCall = side(1, i, strike, call, callHalf);
      const ofPut = ofCall && side(-1, i, strike, put, putHalf);
      return (
        ofPut && {
          gap: ofCall.vol - ofPut.vol,
          noise: Math.hypot(ofCall.noise, ofPut.noise),
          slope: ofCall.slope - ofPut.slope,
        }
      );
    };
  }
}

/** Passes until the forward stands: the first, over few strikes, comes near it; each leaves some hundredth of the error before. */
const MOST_PASSES = 5;
const FIRST_STRIKES = 5;
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
): ParityForward | null {
  const sides = new EarlySides(strikes, on, terms, start);
  let forward = start;
  let found: ParityForward | null = null;
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const sidesOf = sides.at(forward);
    const estimates: ForwardEstimate[] = [];
    for (let i = 0; i < strikes.length; i++) {
      const now = sidesOf(i);
      // A call is worth more on a higher forward, so that its vol falls, and that of a put rises.
      if (now && now.slope < 0) {
        estimates.push({ forward: forward - now.gap / now.slope, width: now.noise / -now.slope });
      }
      if (estimates.length === (pass === 0 ? FIRST_STRIKES : NEAREST_STRIKES)) break;
    }
    if (estimates.length < 2) return null;
    found = combineForwards(estimates, carry);
    const isOnCarry = (one: ForwardEstimate) =>
      carry !== undefined && Math.abs(one.forward - carry.forward) <= Math.hypot(one.width, carry.width);
    // Far from the forward strikes need not agree yet.
    const near = estimates.filter(isOnCarry);
    const next = found?.forward ?? middleForward(near.length > 0 ? near : estimates);
    const moved = Math.abs(next - forward);
    forward = next;
    if (!(forward > 0)) return null;
    if (pass > 0 && moved < SETTLED * (found?.uncertainty ?? estimates[0]!.width)) break;
  }
  return found;
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
  const plain = parityForward(quotes, discount, near, known);
  // Carry is the better guess: parity by itself takes early exercise for carry.
  const forward = carry > 0 ? carry : (plain?.forward ?? NaN);
  const on = writtenOn(snapshot, terms);
  const at = { years, rate, discount, forward };
  if (!isEarly(on, at, 1) && !isEarly(on, at, -1)) return plain;
  return earlyForward(parityStrikes(quotes, near), on, at, forward, known);
}
