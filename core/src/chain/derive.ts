import { impliedVols, parityForward, quoteReason, REASONS, type ReasonCode } from '../implied';
import { deviationMove, straddleMove, type StraddleQuote } from '../odds';
import { rateAt } from '../rates';
import { constantMaturityVol, curveVol, deltaSkew, fitCurve, type Curve } from '../surface';
import { dayOf, expiryInstant, instantOf, MILLISECONDS_PER_DAY, sessionsBetween, yearsBetween } from '../time';
import type { MarketTerms, SideQuotes, SliceQuotes, Snapshot } from './snapshot';

/** Raised when a method changes, so that stored fits and measures are known to be of an older one. */
export const METHOD_VERSION = 1;

export type ForwardSource = 'parity' | 'carry';

/** What is computed of one expiry. Vols, rates and probabilities are decimals; NaN where not to be had. */
export interface ExpiryFit {
  expiry: string;
  settlement: 'am' | 'pm';
  years: number;
  /** Calendar days, fractions included. */
  days: number;
  sessions: number;
  rate: number;
  discount: number;
  forward: number;
  forwardSource: ForwardSource;
  forwardUncertainty: number;
  /** null when no strike could be used. */
  curve: Curve | null;
  rmse: number;
  errorInHalfSpreads: number;
  atmVol: number;
  riskReversal25: number;
  butterfly25: number;
  riskReversal10: number;
  butterfly10: number;
  straddleMove: number;
  deviationMove: number;
  contracts: number;
  usable: number;
  /** Contracts by reason, in the order of REASONS. */
  refused: number[];
}

/** Measures of an underlying at one moment, from its expiries. */
export interface SnapshotMeasures {
  /** As quoted; without a quote the front forward discounted. */
  price: number;
  /** Constant-maturity vols at the forward. */
  iv7: number;
  iv30: number;
  iv60: number;
  iv90: number;
  iv180: number;
  iv360: number;
  /** 25-delta call and put vols interpolated to 30 days, the one less the other. */
  riskReversal25: number;
  /** iv90 − iv30. */
  termSlope: number;
  frontExpiry: string | null;
  frontStraddleMove: number;
  frontDeviationMove: number;
  contracts: number;
  usable: number;
  volume: number;
  openInterest: number;
  rmse: number;
}

export interface SnapshotFit {
  expiries: ExpiryFit[];
  measures: SnapshotMeasures;
}

/** Implied vols of a side and why a contract has none, aligned with the strikes. */
export interface SideVols {
  readonly bid: Float64Array;
  readonly mid: Float64Array;
  readonly ask: Float64Array;
  /** Codes of REASONS; 0 is usable. */
  readonly reason: Uint8Array;
}

const DAYS_PER_YEAR = 365;
const EXPIRED: ReasonCode = REASONS.indexOf('expired');
const NO_FORWARD: ReasonCode = REASONS.indexOf('no-forward');
const BELOW: ReasonCode = REASONS.indexOf('below-intrinsic');
const ABOVE: ReasonCode = REASONS.indexOf('above-maximum');

/**
 * Implied vols of one side from bid, mid and ask, by the European formula on the forward.
 *
 * @param fit years, forward and discount of the expiry
 * @param sign +1 calls, −1 puts
 */
export function impliedColumns(
  strike: Float64Array,
  quotes: SideQuotes,
  fit: Pick<ExpiryFit, 'years' | 'forward' | 'discount'>,
  sign: number,
): SideVols {
  const count = strike.length;
  const columns = Array.from({ length: 7 }, () => new Float64Array(count));
  const [forward, years, signs, price, bid, mid, ask] = columns as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const reason = new Uint8Array(count);
  forward.fill(fit.forward);
  years.fill(fit.years);
  signs.fill(sign);
  const solve = (value: (i: number) => number, out: Float64Array) => {
    for (let i = 0; i < count; i++) price[i] = value(i) / fit.discount;
    impliedVols(forward, strike, years, price, signs, out, count);
  };
  solve((i) => quotes.bid[i]!, bid);
  solve((i) => 0.5 * (quotes.bid[i]! + quotes.ask[i]!), mid);
  solve((i) => quotes.ask[i]!, ask);
  for (let i = 0; i < count; i++) {
    reason[i] = !(fit.years > 0)
      ? EXPIRED
      : !(fit.forward > 0)
        ? NO_FORWARD
        : quoteReason(quotes.bid[i]!, quotes.ask[i]!);
    if (reason[i] === 0 && !Number.isFinite(mid[i]!)) {
      const middle = (0.5 * (quotes.bid[i]! + quotes.ask[i]!)) / fit.discount;
      reason[i] = middle < (sign > 0 ? fit.forward : strike[i]!) ? BELOW : ABOVE;
    }
    if (reason[i] !== 0) bid[i] = mid[i] = ask[i] = NaN;
  }
  return { bid, mid, ask, reason };
}

/** Spot less the dividends still to come before the expiry, grown at the rate (escrowed dividends). */
function carryForward(snapshot: Snapshot, terms: MarketTerms, expiryAt: number, rate: number): number {
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

/** Forward, curve and measures of one expiry. */
export function deriveSlice(slice: SliceQuotes, snapshot: Snapshot, terms: MarketTerms): ExpiryFit {
  const expiryAt = expiryInstant(terms.calendar, slice.expiry, slice.settlement);
  const years = yearsBetween(snapshot.asof, expiryAt);
  const days = (expiryAt - snapshot.asof) / MILLISECONDS_PER_DAY;
  const rate = rateAt(terms.rates, days);
  const discount = Math.exp(-rate * years);
  const carry = carryForward(snapshot, terms, expiryAt, rate);
  const near = Number.isFinite(carry) ? carry : slice.strike[slice.strike.length >> 1]!;
  const parity = parityForward(
    {
      strike: slice.strike,
      callBid: slice.call.bid,
      callAsk: slice.call.ask,
      putBid: slice.put.bid,
      putAsk: slice.put.ask,
    },
    discount,
    near,
  );
  const forward = parity?.forward ?? carry;
  const base = { years, forward, discount };
  const calls = impliedColumns(slice.strike, slice.call, base, 1);
  const puts = impliedColumns(slice.strike, slice.put, base, -1);
  const points = outOfTheMoney(slice.strike, forward, calls, puts);
  const fit = years > 0 ? fitCurve(points, years, forward) : null;
  const curve = fit?.curve ?? null;
  const skew25 = curve ? deltaSkew(curve, 0.25) : null;
  const skew10 = curve ? deltaSkew(curve, 0.1) : null;
  const atmVol = curve ? curveVol(curve, 0) : NaN;
  const refused = tally(slice, calls, puts);
  const contracts = refused.reduce((sum, count) => sum + count, 0);
  return {
    expiry: slice.expiry,
    settlement: slice.settlement,
    years,
    days,
    sessions: sessionsBetween(terms.calendar, dayOf(terms.calendar, snapshot.asof), slice.expiry),
    rate,
    discount,
    forward,
    forwardSource: parity ? 'parity' : 'carry',
    forwardUncertainty: parity?.uncertainty ?? NaN,
    curve,
    rmse: fit?.rmse ?? NaN,
    errorInHalfSpreads: fit?.errorInHalfSpreads ?? NaN,
    atmVol,
    riskReversal25: skew25?.riskReversal ?? NaN,
    butterfly25: skew25?.butterfly ?? NaN,
    riskReversal10: skew10?.riskReversal ?? NaN,
    butterfly10: skew10?.butterfly ?? NaN,
    straddleMove: straddleMove(straddles(slice), forward),
    deviationMove: deviationMove(forward, atmVol, years),
    contracts,
    usable: refused[0]!,
    refused,
  };
}

function straddles(slice: SliceQuotes): StraddleQuote[] {
  const mid = ({ bid, ask }: SideQuotes, i: number) =>
    quoteReason(bid[i]!, ask[i]!) === 0 ? 0.5 * (bid[i]! + ask[i]!) : NaN;
  return Array.from(slice.strike, (strike, i) => ({
    strike,
    callMid: mid(slice.call, i),
    putMid: mid(slice.put, i),
  }));
}

function outOfTheMoney(strike: Float64Array, forward: number, calls: SideVols, puts: SideVols) {
  const logMoneyness: number[] = [];
  const vol: number[] = [];
  const halfSpread: number[] = [];
  for (let i = 0; i < strike.length; i++) {
    const side = strike[i]! < forward ? puts : calls;
    if (side.reason[i] !== 0) continue;
    const mid = side.mid[i]!;
    // A bid under intrinsic value has no vol; the ask then tells the half spread alone.
    const bid = Number.isFinite(side.bid[i]!) ? side.bid[i]! : 2 * mid - side.ask[i]!;
    logMoneyness.push(Math.log(strike[i]! / forward));
    vol.push(mid);
    halfSpread.push(0.5 * (side.ask[i]! - bid));
  }
  return { logMoneyness, vol, halfSpread, count: vol.length };
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

function sumOf(values: Float64Array): number {
  let sum = 0;
  for (const value of values) if (Number.isFinite(value)) sum += value;
  return sum;
}

/** Fits every expiry of a snapshot and measures the underlying by them. */
export function deriveSnapshot(snapshot: Snapshot, terms: MarketTerms): SnapshotFit {
  const expiries = snapshot.slices
    .map((slice) => deriveSlice(slice, snapshot, terms))
    .sort((a, b) => a.years - b.years);
  const fitted = expiries.filter((fit) => fit.curve && fit.years > 0);
  const maturity = (vol: (fit: ExpiryFit) => number, days: number) =>
    constantMaturityVol(
      fitted.map((fit) => ({ years: fit.years, vol: vol(fit) })),
      days / DAYS_PER_YEAR,
    );
  const atm = (days: number) => maturity((fit) => fit.atmVol, days);
  const call = (fit: ExpiryFit) => fit.atmVol + fit.butterfly25 + 0.5 * fit.riskReversal25;
  const put = (fit: ExpiryFit) => fit.atmVol + fit.butterfly25 - 0.5 * fit.riskReversal25;
  const front = fitted[0];
  const iv30 = atm(30);
  const iv90 = atm(90);
  let volume = 0;
  let openInterest = 0;
  for (const slice of snapshot.slices) {
    volume += sumOf(slice.call.volume) + sumOf(slice.put.volume);
    openInterest += sumOf(slice.call.openInterest) + sumOf(slice.put.openInterest);
  }
  const points = fitted.reduce((sum, fit) => sum + fit.usable, 0);
  const squares = fitted.reduce((sum, fit) => sum + fit.usable * fit.rmse ** 2, 0);
  return {
    expiries,
    measures: {
      price: Number.isFinite(snapshot.price) || !front ? snapshot.price : front.forward * front.discount,
      iv7: atm(7),
      iv30,
      iv60: atm(60),
      iv90,
      iv180: atm(180),
      iv360: atm(360),
      riskReversal25: maturity(call, 30) - maturity(put, 30),
      termSlope: iv90 - iv30,
      frontExpiry: front?.expiry ?? null,
      frontStraddleMove: front?.straddleMove ?? NaN,
      frontDeviationMove: front?.deviationMove ?? NaN,
      contracts: expiries.reduce((sum, fit) => sum + fit.contracts, 0),
      usable: expiries.reduce((sum, fit) => sum + fit.usable, 0),
      volume,
      openInterest,
      rmse: points > 0 ? Math.sqrt(squares / points) : NaN,
    },
  };
}
