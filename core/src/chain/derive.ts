import { quoteReason, REASONS, type ReasonCode } from '../implied';
import { deviationMove, straddleMove, type StraddleQuote } from '../odds';
import {
  brokenForwards,
  findAside,
  qualityParts,
  qualityScore,
  type Aside,
  type QualityParts,
  type Verdict,
} from '../quality';
import { rateAt } from '../rates';
import {
  constantMaturityVol,
  curveVol,
  deltaSkew,
  fitCurveTo,
  fitPoints,
  judged,
  maturityMeasures,
  stripVariance,
  varianceIndex,
  withoutCalendarArbitrage,
  type Curve,
  type CurveFit,
  type FitPoints,
  type TimedStrip,
} from '../surface';
import { dayOf, expiryInstant, MILLISECONDS_PER_DAY, MINUTES_PER_YEAR, sessionsBetween, yearsBetween } from '../time';
import type { BorrowedFrom } from './borrow';
import { carryForward, forwardByParity } from './forward';
import { writtenOn, type MarketTerms, type SideQuotes, type SliceQuotes, type Snapshot } from './snapshot';
import { impliedColumns, markAside, type SideVols } from './vols';

/** Raised when a method changes, so that stored fits and measures are known to be of an older one. */
export const METHOD_VERSION = 5;

export type ForwardSource = 'parity' | 'carry';
/** Why a whole expiry is not used in the measures of its underlying. */
export type ExpiryAside = 'broken-forward' | 'by-hand';

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
  /** Contracts with a vol that are not used. */
  aside: Aside[];
  /** null for an expiry that is used. */
  expiryAside: ExpiryAside | null;
  /** 0…100, and what it is made of. */
  quality: number;
  qualityParts: QualityParts;
  /** Where the curve is taken from, when it is not its own. */
  borrowed?: BorrowedFrom | undefined;
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
  /** The 30-day variance index by the strip of options, in per cent as it is published. */
  varianceIndex: number;
  /** Call and put vols at 25 and 10 delta interpolated to 30 days: the one less the other, and their middle over iv30. */
  riskReversal25: number;
  butterfly25: number;
  riskReversal10: number;
  butterfly10: number;
  /** iv90 − iv30. */
  termSlope: number;
  frontExpiry: string | null;
  frontStraddleMove: number;
  frontDeviationMove: number;
  contracts: number;
  usable: number;
  /** Of calls and puts, and of the puts alone. */
  volume: number;
  putVolume: number;
  openInterest: number;
  putOpenInterest: number;
  rmse: number;
  /** 0…100: that of the expiries, weighted by contracts; one that is set aside counts nothing. */
  quality: number;
}

/** What is known beside a snapshot and the terms of its market. */
export interface SnapshotContext {
  /** The snapshot of the session before, so that a quote that stood still is known. */
  readonly before?: Snapshot | null;
  /** What somebody has decided about this snapshot's contracts and expiries. */
  readonly verdicts?: readonly Verdict[];
}

export interface SnapshotFit {
  expiries: ExpiryFit[];
  measures: SnapshotMeasures;
}

const DAYS_PER_YEAR = 365;
const STALE: ReasonCode = REASONS.indexOf('stale');
const BY_HAND: ReasonCode = REASONS.indexOf('by-hand');

/** Forward, curve and measures of one expiry. */
export function deriveSlice(
  slice: SliceQuotes,
  snapshot: Snapshot,
  terms: MarketTerms,
  context: SnapshotContext = {},
): ExpiryFit {
  const opened = openSlice(slice, snapshot, terms, context);
  return measured(opened, opened.fitted);
}

/** An expiry before its curve is compared with those of the others. */
interface OpenSlice {
  readonly base: Omit<ExpiryFit, CurveMeasures>;
  readonly points: FitPoints;
  readonly fitted: CurveFit | null;
  readonly stale: number;
  /** Spread over mid near the money. */
  readonly spread: number;
  /** The forward by carry, which the forwards of a snapshot are judged by. */
  readonly carry: number;
}

/** What hangs on the curve. */
type CurveMeasures =
  | 'curve'
  | 'rmse'
  | 'errorInHalfSpreads'
  | 'atmVol'
  | 'riskReversal25'
  | 'butterfly25'
  | 'riskReversal10'
  | 'butterfly10'
  | 'deviationMove'
  | 'quality'
  | 'qualityParts';

function openSlice(
  slice: SliceQuotes,
  snapshot: Snapshot,
  terms: MarketTerms,
  { before, verdicts = [] }: SnapshotContext,
): OpenSlice {
  const expiryAt = expiryInstant(terms.calendar, slice.expiry, slice.settlement);
  const years = yearsBetween(snapshot.asof, expiryAt);
  const days = (expiryAt - snapshot.asof) / MILLISECONDS_PER_DAY;
  const rate = rateAt(terms.rates, days);
  const discount = Math.exp(-rate * years);
  const carry = carryForward(snapshot, terms, expiryAt, rate);
  const parity = forwardByParity(slice, snapshot, terms, { years, rate, discount, carry });
  const forward = parity?.forward ?? carry;
  const own = verdicts.filter(({ expiry, settlement }) => expiry === slice.expiry && settlement === slice.settlement);
  const base = { years, forward, rate, discount, aside: byHand(own) };
  const on = writtenOn(snapshot, terms);
  const calls = impliedColumns(slice.strike, slice.call, base, 1, on);
  const puts = impliedColumns(slice.strike, slice.put, base, -1, on);
  const pointsNow = () => fitPoints(outOfTheMoney(slice.strike, forward, calls, puts), years);
  let points = pointsNow();
  let fitted = years > 0 ? fitCurveTo(points, forward) : null;
  const aside = base.aside;
  if (fitted && fitted.curve.kind !== 'flat') {
    const then = sliceBefore(slice, before);
    const found = findAside(slice.strike, forward, fitted.curve, [
      { side: 'call', ...calls, unmoved: unmoved(slice.strike, slice.call, then?.strike, then?.call) },
      { side: 'put', ...puts, unmoved: unmoved(slice.strike, slice.put, then?.strike, then?.put) },
    ]).filter((one) => !own.some((said) => said.verdict === 'use' && isSame(said, one)));
    if (found.length > 0) {
      aside.push(...found);
      markAside(slice.strike, calls.reason, found, 1);
      markAside(slice.strike, puts.reason, found, -1);
      points = pointsNow();
      fitted = fitCurveTo(points, forward);
    }
  }
  const refused = tally(slice, calls, puts);
  const contracts = refused.reduce((sum, count) => sum + count, 0);
  return {
    base: {
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
      straddleMove: straddleMove(straddles(slice), forward),
      contracts,
      usable: refused[0]!,
      refused,
      aside,
      expiryAside: own.some(({ strike, verdict }) => strike === null && verdict === 'aside') ? 'by-hand' : null,
    },
    points,
    fitted,
    stale: refused[STALE]!,
    spread: spreadNearMoney(slice, forward),
    carry,
  };
}

/** An expiry with what its curve gives. */
function measured({ base, points, stale, spread }: OpenSlice, fitted: CurveFit | null): ExpiryFit {
  const curve = fitted?.curve ?? null;
  const skew25 = curve ? deltaSkew(curve, 0.25) : null;
  const skew10 = curve ? deltaSkew(curve, 0.1) : null;
  const atmVol = curve ? curveVol(curve, 0) : NaN;
  const parts = qualityParts({
    contracts: base.contracts,
    usable: base.usable,
    stale,
    spread,
    errorInHalfSpreads: fitted?.errorInHalfSpreads ?? NaN,
    lowest: points.k[0] ?? NaN,
    highest: points.k.at(-1) ?? NaN,
    deviation: atmVol * Math.sqrt(base.years),
  });
  return {
    ...base,
    curve,
    rmse: fitted?.rmse ?? NaN,
    errorInHalfSpreads: fitted?.errorInHalfSpreads ?? NaN,
    atmVol,
    riskReversal25: skew25?.riskReversal ?? NaN,
    butterfly25: skew25?.butterfly ?? NaN,
    riskReversal10: skew10?.riskReversal ?? NaN,
    butterfly10: skew10?.butterfly ?? NaN,
    deviationMove: deviationMove(base.forward, atmVol, base.years),
    quality: qualityScore(parts),
    qualityParts: parts,
  };
}

/**
 * An expiry fitted again with other quotes set aside: what a page shows at once, before everything is derived anew. Its
 * forward stays, and its curve is not compared with those of the other expiries.
 *
 * @param calls with the reasons of those set aside
 * @param puts likewise
 */
export function refitSlice(slice: SliceQuotes, fit: ExpiryFit, calls: SideVols, puts: SideVols): ExpiryFit {
  const points = fitPoints(outOfTheMoney(slice.strike, fit.forward, calls, puts), fit.years);
  const fitted = fit.years > 0 ? fitCurveTo(points, fit.forward) : null;
  const refused = tally(slice, calls, puts);
  const base = { ...fit, refused, usable: refused[0]! };
  return measured(
    { base, points, fitted, stale: refused[STALE]!, spread: spreadNearMoney(slice, fit.forward), carry: NaN },
    fitted,
  );
}

/** The fits of expiries whose curves keep clear of each other; one that is set aside is compared with none. */
function besideEachOther(slices: readonly OpenSlice[]): ExpiryFit[] {
  const compared = slices
    .flatMap(({ base, points, fitted }) =>
      fitted && base.expiryAside === null ? [{ base, points, curve: fitted.curve }] : [],
    )
    .sort((a, b) => a.base.years - b.base.years);
  const curves = withoutCalendarArbitrage(compared);
  return slices.map((slice) => {
    const curve = curves[compared.findIndex(({ base }) => base === slice.base)];
    return measured(slice, curve && curve !== slice.fitted?.curve ? judged(curve, slice.points) : slice.fitted);
  });
}

function byHand(verdicts: readonly Verdict[]): Aside[] {
  return verdicts.flatMap(({ strike, side, verdict }) =>
    verdict === 'aside' && strike !== null && side !== null ? [{ strike, side, reason: BY_HAND }] : [],
  );
}

function isSame(verdict: Verdict, { side, strike }: Aside): boolean {
  return verdict.side === side && verdict.strike === strike;
}

function sliceBefore(slice: SliceQuotes, before: Snapshot | null | undefined): SliceQuotes | undefined {
  return before?.slices.find(({ expiry, settlement }) => expiry === slice.expiry && settlement === slice.settlement);
}

/** Marks quotes that are those of an earlier moment, with nothing traded since. */
function unmoved(strike: Float64Array, now: SideQuotes, strikeThen?: Float64Array, then?: SideQuotes): Uint8Array {
  const marks = new Uint8Array(strike.length);
  if (!strikeThen || !then) return marks;
  for (let i = 0, j = 0; i < strike.length; i++) {
    while (j < strikeThen.length && strikeThen[j]! < strike[i]!) j++;
    if (strikeThen[j] !== strike[i]) continue;
    const isSame = now.bid[i] === then.bid[j] && now.ask[i] === then.ask[j];
    if (isSame && !(now.volume[i]! > 0)) marks[i] = 1;
  }
  return marks;
}

/** The middle of spread over mid of the out-of-the-money quotes at the three strikes nearest to the forward. */
function spreadNearMoney({ strike, call, put }: SliceQuotes, forward: number): number {
  let nearest = 0;
  for (let i = 1; i < strike.length; i++) {
    if (Math.abs(strike[i]! - forward) < Math.abs(strike[nearest]! - forward)) nearest = i;
  }
  const share = (i: number) => {
    const { bid, ask } = strike[i]! < forward ? put : call;
    return (2 * (ask[i]! - bid[i]!)) / (ask[i]! + bid[i]!);
  };
  // Strikes ascend, so the next nearest stand beside it.
  let [from, to] = [nearest, nearest];
  while (to - from < 2 && to - from + 1 < strike.length) {
    const isBelow = from > 0 && (to + 1 === strike.length || forward - strike[from - 1]! <= strike[to + 1]! - forward);
    if (isBelow) from--;
    else to++;
  }
  const shares: number[] = [];
  for (let i = from; i <= to; i++) shares.push(share(i));
  shares.sort((a, b) => a - b);
  return shares[shares.length >> 1] ?? NaN;
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

/** Marks expiries whose forward cannot be meant, but for those that somebody wants used. */
function judgeForwards(expiries: readonly OpenSlice[], verdicts: readonly Verdict[]): void {
  const broken = brokenForwards(
    expiries.map(({ base: { years, forward, forwardSource, forwardUncertainty }, fitted, carry }) => ({
      years,
      // One that is carry itself says nothing about the others.
      forward: forwardSource === 'parity' ? forward : NaN,
      carry,
      uncertainty: forwardUncertainty,
      atmVol: fitted ? curveVol(fitted.curve, 0) : NaN,
    })),
  );
  expiries.forEach(({ base }, i) => {
    const isWanted = verdicts.some(
      ({ expiry, settlement, strike, verdict }) =>
        strike === null && verdict === 'use' && expiry === base.expiry && settlement === base.settlement,
    );
    if (broken[i] && !isWanted) base.expiryAside ??= 'broken-forward';
  });
}

/** Fits every expiry of a snapshot and measures the underlying by them. */
export function deriveSnapshot(snapshot: Snapshot, terms: MarketTerms, context: SnapshotContext = {}): SnapshotFit {
  const slices = snapshot.slices.map((slice) => openSlice(slice, snapshot, terms, context));
  judgeForwards(slices, context.verdicts ?? []);
  const expiries = besideEachOther(slices).sort((a, b) => a.years - b.years);
  const fitted = expiries.filter(
    (fit): fit is ExpiryFit & { curve: Curve } => fit.curve !== null && fit.years > 0 && fit.expiryAside === null,
  );
  const vols = fitted.map(({ years, atmVol }) => ({ years, vol: atmVol }));
  const atm = (days: number) => constantMaturityVol(vols, days / DAYS_PER_YEAR);
  const front = fitted[0];
  const iv30 = atm(30);
  const iv90 = atm(90);
  const total = (side: 'call' | 'put', what: 'volume' | 'openInterest') =>
    snapshot.slices.reduce((sum, slice) => sum + sumOf(slice[side][what]), 0);
  const putVolume = total('put', 'volume');
  const putOpenInterest = total('put', 'openInterest');
  const wings = maturityMeasures(fitted, 30 / DAYS_PER_YEAR);
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
      varianceIndex: varianceIndex(fitted.flatMap((fit) => stripOf(snapshot, fit))),
      riskReversal25: wings.riskReversal25,
      butterfly25: wings.butterfly25,
      riskReversal10: wings.riskReversal10,
      butterfly10: wings.butterfly10,
      termSlope: iv90 - iv30,
      frontExpiry: front?.expiry ?? null,
      frontStraddleMove: front?.straddleMove ?? NaN,
      frontDeviationMove: front?.deviationMove ?? NaN,
      contracts: expiries.reduce((sum, fit) => sum + fit.contracts, 0),
      usable: expiries.reduce((sum, fit) => sum + fit.usable, 0),
      volume: total('call', 'volume') + putVolume,
      putVolume,
      openInterest: total('call', 'openInterest') + putOpenInterest,
      putOpenInterest,
      rmse: points > 0 ? Math.sqrt(squares / points) : NaN,
      quality: weightedQuality(expiries),
    },
  };
}

/** The strip of an expiry, without the quotes that are set aside; none where it has too few strikes. */
function stripOf(snapshot: Snapshot, { expiry, settlement, forward, rate, years, aside }: ExpiryFit): TimedStrip[] {
  const slice = snapshot.slices.find((one) => one.expiry === expiry && one.settlement === settlement)!;
  const { strike } = slice;
  const bids = (side: 'call' | 'put') => {
    const { bid, ask } = slice[side];
    const isOut = (level: number) => aside.some((one) => one.side === side && one.strike === level);
    return bid.map((price, i) => (price > ask[i]! || isOut(strike[i]!) ? 0 : price));
  };
  const quotes = {
    strike,
    callBid: bids('call'),
    callAsk: slice.call.ask,
    putBid: bids('put'),
    putAsk: slice.put.ask,
  };
  const strip = stripVariance(quotes, forward, rate, years);
  return strip ? [{ minutes: years * MINUTES_PER_YEAR, variance: strip.variance }] : [];
}

function weightedQuality(expiries: readonly ExpiryFit[]): number {
  let sum = 0;
  let contracts = 0;
  for (const fit of expiries) {
    contracts += fit.contracts;
    if (fit.expiryAside === null) sum += fit.contracts * fit.quality;
  }
  return contracts > 0 ? sum / contracts : NaN;
}
