import { normalDensity } from '../distributions';
import { deviationMove, type StraddleUsed } from '../odds';
import { qualityParts, qualityScore, type Aside } from '../quality';
import {
  curveUncertainty,
  curveVol,
  deltaSkew,
  FEWEST_NATURAL,
  fitCurveTo,
  fitPoints,
  judged,
  shapedLike,
  type Curve,
  type ShapedCurve,
} from '../surface';
import { dayOf, sessionsBetween } from '../time';
import { isSame, unmoved, exclusionsOn } from './exclusion';
import { pastOf } from './forwards';
import { curveQuotes } from './points';
import { readQuotes } from './quoted';
import { writtenOn } from './snapshot';
import { findSuspects } from './suspects';
import type {
  ExpiryFit,
  FoundForward,
  MarketTerms,
  OpenSlice,
  SideVols,
  SliceQuotes,
  SliceTime,
  Snapshot,
  SnapshotContext,
} from './types';
import { impliedColumns, markAside } from './vols';

/** The curve of an expiry, fitted without its neighbours. */
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
  { before, exclusions = [] }: SnapshotContext,
  excluded: readonly Aside[] = [],
): OpenSlice {
  const own = exclusionsOn(slice, exclusions);
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
      isWanted: (side, strike) => own.some((said) => said.decision === 'use' && isSame(said, { side, strike })),
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
      expiryAside: own.some(({ strike, decision }) => strike === null && decision === 'aside') ? 'by-hand' : null,
    },
  };
}

/** The vol at the forward by the expiry's own curve, and how well it is known; NaN without a curve. */
export function levelOf({ points, fitted, shape }: OpenSlice): { atmVol: number; uncertainty: number } {
  if (!fitted) return { atmVol: NaN, uncertainty: NaN };
  const { curve } = fitted;
  return { atmVol: curveVol(curve, 0), uncertainty: curveUncertainty(points, curve, shape).atmVol };
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
 * An expiry fitted again with other quotes set aside: what a page shows at once, before everything is derived again. Its
 * forward stays, and its curve is not compared with those of the other expiries.
 *
 * @param calls with the reasons of those set aside
 * @param puts likewise
 */
export function refitSlice(slice: SliceQuotes, fit: ExpiryFit, calls: SideVols, puts: SideVols): ExpiryFit {
  const { counts, ...quoted } = readQuotes(slice, fit, calls, puts);
  return measured({ ...fitted(slice, fit, calls, puts, null), ...quoted, base: { ...fit, ...counts } });
}
