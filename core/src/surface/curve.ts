import { borrowedAt, borrowedParameters, type BorrowTerms } from './borrowed';
import { mixtureAt } from './mixture';
import { rawOfNatural, type Natural } from './natural';
import {
  comparisonPoint,
  densityFactor,
  isButterflyFree,
  isWorthSomething,
  lowestOf,
  sviAt,
  type Svi,
  type VarianceAt,
} from './svi';

/**
 * The fitted curve of one expiry: total variance w over log-moneyness k = ln(K/F), by kind
 *
 * - `svi`: raw SVI, parameters a, b, ρ, m, σ;
 * - `svi3`: the slice of three parameters that few points can carry, written as raw SVI;
 * - `flat`: one variance, written as raw SVI, for fewer points still;
 * - `mixture`: weight, multiple of the forward and deviation of each lognormal state;
 * - `borrowed`: the curve of another expiry, read through a map and adjusted; see borrowed.ts.
 */
export interface Curve {
  readonly kind: CurveKind;
  readonly years: number;
  readonly forward: number;
  readonly parameters: readonly number[];
}

export const CURVE_KINDS = ['svi', 'svi3', 'flat', 'mixture', 'borrowed'] as const;
export type CurveKind = (typeof CURVE_KINDS)[number];

/**
 * The curve of another expiry, read through a map and adjusted.
 *
 * @param own time and forward of the expiry that borrows
 * @throws RangeError where the other is itself borrowed, or the ratio is not positive
 */
export function borrowedCurve(other: Curve, own: { years: number; forward: number }, terms: BorrowTerms): Curve {
  const { years, forward } = own;
  return { kind: 'borrowed', years, forward, parameters: borrowedParameters(other, curveVol(other, 0), own, terms) };
}

/** A flat curve. */
export function flatCurve(vol: number, years: number, forward: number): Curve {
  return { kind: 'flat', years, forward, parameters: [vol * vol * years, 0, 0, 0, 1] };
}

/** A curve of three parameters, by their natural names. */
export function naturalCurve(natural: Natural, years: number, forward: number): Curve {
  return { kind: 'svi3', years, forward, parameters: rawOfNatural(natural) };
}

/** Raw SVI of a curve that is; a mixture or a borrowed curve has none. */
export function sviOf({ kind, parameters }: Curve): Svi | null {
  return kind === 'mixture' || kind === 'borrowed' ? null : (parameters as unknown as Svi);
}

const POINT: VarianceAt = { w: 0, slope: 0, curvature: 0 };

/** Total variance and its two derivatives to k. */
export function curveAt({ kind, parameters }: Curve, k: number, out: VarianceAt): VarianceAt {
  if (kind === 'mixture') return mixtureAt(parameters, k, out);
  return kind === 'borrowed' ? borrowedAt(parameters, k, out) : sviAt(parameters, k, out);
}

/** Total variance σ²T at log-moneyness k. */
export function curveVariance(curve: Curve, k: number): number {
  return curveAt(curve, k, POINT).w;
}

/** Volatility at log-moneyness k, a decimal per √year. */
export function curveVol(curve: Curve, k: number): number {
  return Math.sqrt(curveAt(curve, k, POINT).w / curve.years);
}

/** Slope of the volatility, ∂σ/∂k. */
export function curveSlope(curve: Curve, k: number): number {
  const { w, slope } = curveAt(curve, k, POINT);
  return slope / (2 * Math.sqrt(w * curve.years));
}

/** Durrleman's g(k) of the curve, {@link densityFactor}. */
export function curveDensityFactor(curve: Curve, k: number): number {
  return densityFactor(curveAt(curve, k, POINT), k);
}

/** Whether the curve is free of butterfly arbitrage; a mixture is by its make, a borrowed one is looked at. */
export function isArbitrageFree(curve: Curve): boolean {
  if (curve.kind === 'borrowed') return lowestFactor(curve) >= -TOLERANCE;
  const svi = sviOf(curve);
  return svi ? isButterflyFree(svi) : true;
}

/** Of g, which is 1 on a flat curve. */
const TOLERANCE = 1e-9;

/** The lowest g where an option is still worth something. */
function lowestFactor(curve: Curve): number {
  const size = curveVariance(curve, 0);
  const factor = (t: number) => {
    const k = comparisonPoint(size, t);
    return isWorthSomething(k, curveVariance(curve, k)) ? curveDensityFactor(curve, k) : Infinity;
  };
  return lowestOf(factor, -1, 1, SAMPLES, NEAR).value;
}

/** How finely two curves are compared, and between the samples where they come nearer than this share. */
const SAMPLES = 121;
const NEAR = 0.05;

/**
 * By how little the variance of the longer curve stays over that of the shorter one, as a share of its own at the forward:
 * negative is a calendar arbitrage (Gatheral and Jacquier 2014, lemma 2.1), `k` where. As far out as an option is worth
 * 2e-8 of the forward: beyond, the wings of curves of different kinds may cross and nobody could earn it.
 */
export function lowestGap(near: Curve, far: Curve): { k: number; value: number } {
  const size = curveVariance(far, 0);
  const reach = Math.max(size, curveVariance(near, 0));
  const gap = (t: number) => {
    const k = comparisonPoint(reach, t);
    const shorter = curveVariance(near, k);
    return isWorthSomething(k, shorter) ? (curveVariance(far, k) - shorter) / size : Infinity;
  };
  const { at, value } = lowestOf(gap, -1, 1, SAMPLES, NEAR);
  return { k: comparisonPoint(reach, at), value };
}
