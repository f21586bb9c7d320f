import { REASONS, type ReasonCode } from '../implied';
import { deviationMove, straddleUsed, type StraddleUsed } from '../odds';
import { qualityParts, qualityScore, type Aside, type QualityParts, type Verdict } from '../quality';
import {
  curveUncertainty,
  FEWEST_NATURAL,
  curveVol,
  deltaSkew,
  fitCurveTo,
  fitPoints,
  judged,
  shapedLike,
  STRIP_MARKS,
  stripVariance,
  type Curve,
  type CurveFit,
  type CurveShape,
  type FitPoints,
  type ShapedCurve,
  type Strip,
  type StripSide,
} from '../surface';
import { normalDensity } from '../distributions';
import { dayOf, sessionsBetween } from '../time';
import type { BorrowedFrom } from './borrow';
import { pastOf, type FoundForward, type PastSession, type SliceTime } from './forwards';
import { writtenOn, type MarketTerms, type SideQuotes, type SliceQuotes, type Snapshot } from './snapshot';
import { curveQuotes } from './points';
import { straddleQuotes } from './straddles';
import { findSuspects } from './suspects';
import { impliedColumns, markAside, type SideVols } from './vols';

export type ForwardSource = 'parity' | 'carry';
/** Why a whole expiry is not used in the measures of its underlying. */
export const EXPIRY_ASIDES = ['broken-forward', 'off-term', 'by-hand'] as const;
export type ExpiryAside = (typeof EXPIRY_ASIDES)[number];

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
  /** One standard error, in price units. */
  forwardUncertainty: number;
  /** null when no strike could be used. */
  curve: Curve | null;
  /** Where the shape of the curve comes from. */
  shape: CurveShape;
  rmse: number;
  errorInHalfSpreads: number;
  atmVol: number;
  /** One standard error of the vol at the forward, and of the risk reversal, as the quotes let them be known. */
  atmVolUncertainty: number;
  /** NaN for a curve that says one vol only. */
  riskReversal25: number;
  riskReversal25Uncertainty: number;
  butterfly25: number;
  riskReversal10: number;
  butterfly10: number;
  /** The straddle at the forward, in money, and one standard error of it. */
  straddleMove: number;
  straddleUncertainty: number;
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

/** What is known beside a snapshot and the terms of its market. */
export interface SnapshotContext {
  /** The session before: a quote that stood still is known by it, and what today cannot tell is taken from it. */
  readonly before?: PastSession | null;
  /** What somebody has decided about this snapshot's contracts and expiries. */
  readonly verdicts?: readonly Verdict[];
}

const STALE: ReasonCode = REASONS.indexOf('stale');
const WIDE: ReasonCode = REASONS.indexOf('wide');
const ZERO_BID: ReasonCode = REASONS.indexOf('zero-bid');
const BY_HAND: ReasonCode = REASONS.indexOf('by-hand');

/** An expiry before its curve is compared with those of the others. */
export interface OpenSlice {
  readonly base: Omit<ExpiryFit, CurveMeasures>;
  readonly points: FitPoints;
  readonly fitted: CurveFit | null;
  readonly shape: CurveShape;
  readonly stale: number;
  /** Spread over mid near the money. */
  readonly spread: number;
  readonly straddle: StraddleUsed | null;
  readonly strip: Strip | null;
}

/** What hangs on the curve. */
type CurveMeasures =
  | 'curve'
  | 'shape'
  | 'rmse'
  | 'errorInHalfSpreads'
  | 'atmVol'
  | 'atmVolUncertainty'
  | 'riskReversal25'
  | 'riskReversal25Uncertainty'
  | 'butterfly25'
  | 'riskReversal10'
  | 'butterfly10'
  | 'straddleUncertainty'
  | 'deviationMove'
  | 'quality'
  | 'qualityParts';

/** What quotes say at a forward, before their curve is compared with those of other expiries. */
type Fitted = Omit<OpenSlice, 'base'> & { base: Pick<ExpiryFit, 'contracts' | 'usable' | 'refused' | 'straddleMove'> };

/** @param shape of the session before, for a curve that cannot tell its own */
function fitted(
  slice: SliceQuotes,
  at: Pick<ExpiryFit, 'years' | 'forward' | 'rate' | 'discount'>,
  calls: SideVols,
  puts: SideVols,
  shape: Curve | null,
): Fitted {
  const { years, forward, rate } = at;
  const points = fitPoints(curveQuotes(slice.strike, at, calls, puts), years);
  const like = shape && points.count < FEWEST_NATURAL ? shapedLike(shape, points, years, forward) : null;
  const own = years > 0 ? fitCurveTo(points, forward) : null;
  const refused = tally(slice, calls, puts);
  const straddle = years > 0 ? straddleUsed(straddleQuotes(slice.strike, at, calls, puts), at, 'forward') : null;
  return {
    base: {
      contracts: refused.reduce((sum, count) => sum + count, 0),
      usable: refused[0]!,
      refused,
      straddleMove: straddle?.move ?? NaN,
    },
    points,
    fitted: own && like ? judged(like, points) : own,
    shape: own && like ? 'past' : 'own',
    stale: refused[STALE]!,
    spread: spreadNearMoney(slice, forward, calls, puts),
    straddle,
    strip: stripVariance(
      { strike: slice.strike, call: stripSide(slice.call, calls, 1), put: stripSide(slice.put, puts, -1) },
      ...([forward, rate, years] as const),
    ),
  };
}

/**
 * Vols and curve of an expiry at a forward; contracts that cannot be meant are set aside.
 *
 * @param excluded contracts that are set aside already
 */
export function openSlice(
  { slice, years, days, rate, discount }: SliceTime,
  { forward, source, uncertainty }: FoundForward,
  snapshot: Snapshot,
  terms: MarketTerms,
  { before, verdicts = [] }: SnapshotContext,
  excluded: readonly Aside[] = [],
): OpenSlice {
  const own = verdictsOn(slice, verdicts);
  const at = { years, forward, rate, discount, aside: [...excluded] };
  const on = writtenOn(snapshot, terms);
  const calls = impliedColumns(slice.strike, slice.call, at, 1, on);
  const puts = impliedColumns(slice.strike, slice.put, at, -1, on);
  const past = pastOf(slice, before);
  const shape = past && past.expiryAside === null ? past.curve : null;
  let found = fitted(slice, at, calls, puts, shape);
  if (years > 0) {
    const then = pastOf(slice, before && { expiries: before.snapshot.slices });
    const aside = findSuspects({
      ...{ slice, at, calls, puts, past: shape, curve: found.shape === 'own' ? (found.fitted?.curve ?? null) : null },
      still: {
        call: unmoved(slice.strike, slice.call, then?.strike, then?.call),
        put: unmoved(slice.strike, slice.put, then?.strike, then?.put),
      },
      isWanted: (side, strike) => own.some((said) => said.verdict === 'use' && isSame(said, { side, strike })),
    });
    if (aside.length > 0) {
      at.aside.push(...aside);
      markAside(slice.strike, calls.reason, aside, 1);
      markAside(slice.strike, puts.reason, aside, -1);
      found = fitted(slice, at, calls, puts, shape);
    }
  }
  return {
    ...found,
    base: {
      expiry: slice.expiry,
      settlement: slice.settlement,
      years,
      days,
      sessions: sessionsBetween(terms.calendar, dayOf(terms.calendar, snapshot.asof), slice.expiry),
      rate,
      discount,
      forward,
      forwardSource: source,
      forwardUncertainty: uncertainty,
      ...found.base,
      aside: at.aside,
      expiryAside: own.some(({ strike, verdict }) => strike === null && verdict === 'aside') ? 'by-hand' : null,
    },
  };
}

/** An expiry with what its curve gives; with its own, or the one that it has beside the others. */
export function measured(opened: OpenSlice, beside?: ShapedCurve): ExpiryFit {
  const { base, points, stale, spread, straddle } = opened;
  const isOther = beside !== undefined && beside.curve !== opened.fitted?.curve;
  const fit = isOther ? judged(beside.curve, points) : opened.fitted;
  const shape = isOther ? beside.shape : opened.shape;
  const curve = fit?.curve ?? null;
  const hasShape = curve !== null && curve.kind !== 'flat';
  const skew25 = hasShape ? deltaSkew(curve, 0.25) : null;
  const skew10 = hasShape ? deltaSkew(curve, 0.1) : null;
  const atmVol = curve ? curveVol(curve, 0) : NaN;
  const known = curve ? curveUncertainty(points, curve, shape) : null;
  const parts = qualityParts({
    contracts: base.contracts,
    usable: base.usable,
    stale,
    spread,
    errorInHalfSpreads: fit?.errorInHalfSpreads ?? NaN,
    lowest: points.k[0] ?? NaN,
    highest: points.k.at(-1) ?? NaN,
    deviation: atmVol * Math.sqrt(base.years),
  });
  return {
    ...base,
    curve,
    shape,
    rmse: fit?.rmse ?? NaN,
    errorInHalfSpreads: fit?.errorInHalfSpreads ?? NaN,
    atmVol,
    atmVolUncertainty: known?.atmVol ?? NaN,
    riskReversal25: skew25?.riskReversal ?? NaN,
    riskReversal25Uncertainty: known ? Math.hypot(known.riskReversal25, reversalByForward(base)) : NaN,
    butterfly25: skew25?.butterfly ?? NaN,
    riskReversal10: skew10?.riskReversal ?? NaN,
    butterfly10: skew10?.butterfly ?? NaN,
    straddleUncertainty: straddle && known ? straddleError(base, straddle, atmVol, known.atmVol) : NaN,
    deviationMove: deviationMove(base.forward, atmVol, base.years),
    quality: qualityScore(parts),
    qualityParts: parts,
  };
}

/** φ(N⁻¹(0.25)): the vega of a 25-delta contract over F√T. */
const DENSITY_25 = 0.3178;

/**
 * What the uncertainty of the forward makes of the risk reversal: on a higher one the vols of calls fall and those of puts rise,
 * each by its delta over its vega.
 */
function reversalByForward({ forward, forwardUncertainty, years }: OpenSlice['base']): number {
  return (2 * 0.25 * forwardUncertainty) / (forward * DENSITY_25 * Math.sqrt(years));
}

/** One standard error of the straddle at the forward: that of its vol, D·F·2φ(s/2)·√T to one. */
function straddleError(
  { forward, discount, years }: OpenSlice['base'],
  { vol }: StraddleUsed,
  atmVol: number,
  atmVolError: number,
): number {
  const rootYears = Math.sqrt(years);
  // Of two or three quotes it is known no better than the curve at the forward, and off by what it misses that.
  const volError = Math.hypot(atmVolError, vol - atmVol);
  return discount * forward * 2 * normalDensity(0.5 * vol * rootYears) * rootYears * volError;
}

/**
 * An expiry fitted again with other quotes set aside: what a page shows at once, before everything is derived anew. Its
 * forward stays, and its curve is not compared with those of the other expiries.
 *
 * @param calls with the reasons of those set aside
 * @param puts likewise
 */
export function refitSlice(slice: SliceQuotes, fit: ExpiryFit, calls: SideVols, puts: SideVols): ExpiryFit {
  const opened = fitted(slice, fit, calls, puts, null);
  return measured({ ...opened, base: { ...fit, ...opened.base } });
}

/** What somebody has said of the contracts of an expiry. */
export function verdictsOn(
  { expiry, settlement }: Pick<SliceQuotes, 'expiry' | 'settlement'>,
  verdicts: readonly Verdict[],
): readonly Verdict[] {
  return verdicts.filter((one) => one.expiry === expiry && one.settlement === settlement);
}

/** Contracts that somebody has set aside. */
export function byHand(verdicts: readonly Verdict[]): Aside[] {
  return verdicts.flatMap(({ strike, side, verdict }) =>
    verdict === 'aside' && strike !== null && side !== null ? [{ strike, side, reason: BY_HAND }] : [],
  );
}

function isSame(verdict: Verdict, { side, strike }: Pick<Aside, 'side' | 'strike'>): boolean {
  return verdict.side === side && verdict.strike === strike;
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

/** How many strikes near the forward tell how tight an expiry is quoted. */
const NEAR_MONEY = 3;

/**
 * The middle of spread over mid of the out-of-the-money quotes at the three strikes nearest to the forward, of those that are
 * used or that are too wide to be.
 */
function spreadNearMoney(slice: SliceQuotes, forward: number, calls: SideVols, puts: SideVols): number {
  const found: { away: number; share: number }[] = [];
  slice.strike.forEach((level, i) => {
    const [quotes, vols] = level < forward ? [slice.put, puts] : [slice.call, calls];
    if (vols.reason[i] !== 0 && vols.reason[i] !== WIDE) return;
    const [bid, ask] = [quotes.bid[i]!, quotes.ask[i]!];
    found.push({ away: Math.abs(level - forward), share: (2 * (ask - bid)) / (ask + bid) });
  });
  const near = found.sort((a, b) => a.away - b.away).slice(0, NEAR_MONEY);
  const shares = near.map(({ share }) => share).sort((a, b) => a - b);
  return shares[shares.length >> 1] ?? NaN;
}

/**
 * A side of the strip: what is used as it is quoted, what nobody bids for, and gaps. A wide quote is as it should be in the
 * wing; one that has a narrow one further out cannot be meant.
 *
 * @param outwards +1 for calls, −1 for puts
 */
function stripSide({ bid, ask }: SideQuotes, { reason }: SideVols, outwards: 1 | -1): StripSide {
  const usable = Array.from(reason.keys()).filter((i) => reason[i] === 0);
  const last = (outwards > 0 ? usable.at(-1) : usable[0]) ?? NaN;
  const mark = Uint8Array.from(reason, (code, i) => {
    if (code === 0 || (code === WIDE && outwards * (i - last) > 0)) return STRIP_MARKS.used;
    // A side that is not listed, or not quoted at all, is no bid of zero.
    return code === ZERO_BID && ask[i]! > 0 ? STRIP_MARKS.noBid : STRIP_MARKS.gap;
  });
  return { mid: bid.map((price, i) => 0.5 * (price + ask[i]!)), mark };
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
