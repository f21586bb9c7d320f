import { isSameExpiry, type ExpiryId } from '../contracts';
import { REASONS, type ReasonCode } from '../implied';
import { deviationMove, type StraddleUsed } from '../odds';
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
  type Curve,
  type CurveFit,
  type CurveShape,
  type FitPoints,
  type ShapedCurve,
} from '../surface';
import { normalDensity } from '../distributions';
import { dayOf, sessionsBetween } from '../time';
import type { BorrowedFrom } from './borrow';
import { pastOf, type FoundForward, type PastSession, type SliceTime } from './forwards';
import { writtenOn, type MarketTerms, type SideQuotes, type SliceQuotes, type Snapshot } from './snapshot';
import { curveQuotes } from './points';
import { readQuotes, type QuotesRead } from './quoted';
import { findSuspects } from './suspects';
import { impliedColumns, markAside, type SideVols } from './vols';

export type ForwardSource = 'parity' | 'carry';
/** Why a whole expiry is not used in the measures of its underlying. */
export const EXPIRY_ASIDES = ['broken-forward', 'off-term', 'by-hand'] as const;
export type ExpiryAside = (typeof EXPIRY_ASIDES)[number];

/** What is computed of one expiry. Vols, rates and probabilities are decimals; NaN where not to be had. */
export interface ExpiryFit extends ExpiryId {
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

const BY_HAND: ReasonCode = REASONS.indexOf('by-hand');

/** An expiry before its curve is compared with those of the others. */
export interface OpenSlice extends Omit<QuotesRead, 'counts'> {
  readonly base: Omit<ExpiryFit, CurveMeasures>;
  readonly points: FitPoints;
  readonly fitted: CurveFit | null;
  readonly shape: CurveShape;
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

/** The curve of an expiry by itself. */
type Fitted = Pick<OpenSlice, 'points' | 'fitted' | 'shape'>;

/** @param shape of the session before, for a curve that cannot tell its own */
function fitted(
  { strike }: SliceQuotes,
  at: Pick<ExpiryFit, 'years' | 'forward'>,
  calls: SideVols,
  puts: SideVols,
  shape: Curve | null,
): Fitted {
  const { years, forward } = at;
  const points = fitPoints(curveQuotes(strike, at, calls, puts), years);
  const like = shape && points.count < FEWEST_NATURAL ? shapedLike(shape, points, years, forward) : null;
  const own = years > 0 ? fitCurveTo(points, forward) : null;
  return { points, fitted: own && like ? judged(like, points) : own, shape: own && like ? 'past' : 'own' };
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
  const { counts, ...quoted } = readQuotes(slice, at, calls, puts);
  return {
    ...found,
    ...quoted,
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
      ...counts,
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
  const { counts, ...quoted } = readQuotes(slice, fit, calls, puts);
  return measured({ ...fitted(slice, fit, calls, puts, null), ...quoted, base: { ...fit, ...counts } });
}

/** What somebody has said of the contracts of an expiry. */
export function verdictsOn(expiry: ExpiryId, verdicts: readonly Verdict[]): readonly Verdict[] {
  return verdicts.filter((one) => isSameExpiry(one, expiry));
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
