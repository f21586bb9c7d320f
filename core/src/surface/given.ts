import { priceContract } from '../models';
import { withoutCalendarArbitrage, type FittedCurve } from './calendar';
import { curveVol, type Curve } from './curve';
import { fitCurveTo } from './fit';
import { fitPoints, type FitPoints } from './points';
import { logDensity, surfaceAt, surfaceOf, type Surface } from './surface';
import type { VarianceAt } from './svi';

/** Vols of an expiry as somebody else has them. */
export interface GivenSlice {
  readonly years: number;
  readonly forward: number;
  /** Not empty. */
  readonly strikes: readonly number[];
  /** Decimals, aligned with the strikes. */
  readonly vols: readonly number[];
  /** What each counts for; alike unless given. */
  readonly weights?: readonly number[] | undefined;
}

/** A curve of given vols. */
export interface GivenFit {
  readonly years: number;
  readonly curve: Curve;
  /** Of the vols, decimals. */
  readonly rmse: number;
  readonly maxError: number;
  /** Between which strikes the given vols say a negative density. */
  readonly butterflyArbitrage: readonly { readonly from: number; readonly to: number }[];
}

/** Two expiries of which the given vols say less variance to the later one at some strike. */
export interface CalendarFault {
  readonly nearYears: number;
  readonly farYears: number;
}

/** A surface of given vols, and what is wrong with these. */
export interface GivenSurface {
  /** In the order in which they were given. */
  readonly fits: readonly GivenFit[];
  readonly calendarArbitrage: readonly CalendarFault[];
  readonly surface: Surface;
}

/** Without a spread nobody knows how well a vol is known: what is missed by so little is met. */
const UNIT = 0.0005;

/**
 * Curves through vols that somebody else has, by least squares, free of butterfly and calendar arbitrage; what the given vols
 * say of these is told apart.
 *
 * @param slices no two of one time
 */
export function fitGiven(slices: readonly GivenSlice[]): GivenSurface {
  const order = slices.toSorted((a, b) => a.years - b.years);
  const fitted = order.map((slice): FittedCurve => {
    const points = pointsOf(slice);
    const { curve, rmse } = fitCurveTo(points, slice.forward)!;
    // What the curve misses of its own vols says how well they are known where two curves have to make way.
    const known = { ...points, unit: points.unit.map((unit) => Math.max(unit, (unit / UNIT) * rmse)) };
    return { points: known, curve, shape: 'own' };
  });
  const curves = withoutCalendarArbitrage(fitted).map(({ curve }) => curve);
  const fits = new Map(order.map((slice, i) => [slice, fitOf(slice, curves[i]!)]));
  return {
    fits: slices.map((slice) => fits.get(slice)!),
    calendarArbitrage: order.slice(1).flatMap((far, i) => {
      const near = order[i]!;
      return isOver(near, far) ? [{ nearYears: near.years, farYears: far.years }] : [];
    }),
    surface: surfaceOf(curves),
  };
}

/** The points of a slice, whose misses count squared however large they are. */
function pointsOf({ years, forward, strikes, vols, weights }: GivenSlice): FitPoints {
  const count = strikes.length;
  const logMoneyness = strikes.map((strike) => Math.log(strike / forward));
  const points = fitPoints({ logMoneyness, vol: vols, halfSpread: new Float64Array(count), count }, years);
  const mean = weights ? weights.reduce((sum, weight) => sum + weight, 0) / count : 1;
  const weightAt = new Map(logMoneyness.map((k, i) => [k, (weights?.[i] ?? 1) / mean]));
  return { ...points, unit: points.k.map((k) => UNIT / Math.sqrt(weightAt.get(k)!)), huber: Infinity };
}

function fitOf(slice: GivenSlice, curve: Curve): GivenFit {
  const { years, forward, strikes, vols } = slice;
  const misses = strikes.map((strike, i) => Math.abs(curveVol(curve, Math.log(strike / forward)) - vols[i]!));
  const squares = misses.reduce((sum, miss) => sum + miss * miss, 0);
  return {
    ...{ years, curve, rmse: Math.sqrt(squares / misses.length), maxError: Math.max(...misses) },
    butterflyArbitrage: negativeRanges(slice),
  };
}

const callOf = (forward: number, strike: number, vol: number, years: number) =>
  priceContract({ model: 'black-76', side: 'call', forward, strike, years, rate: 0, vol }).price;

/** What rounding leaves of a price, as a share of the forward. */
const DUST = 1e-12;

/**
 * Between which strikes given vols say a negative density: where the price of a call, from strike to strike, is not convex, or
 * does not fall. Ranges that overlap are one.
 */
function negativeRanges({ years, forward, strikes, vols }: GivenSlice): { from: number; to: number }[] {
  const known = strikes
    .map((strike, i) => ({ strike, price: callOf(forward, strike, vols[i]!, years) }))
    .sort((a, b) => a.strike - b.strike);
  const slope = (i: number) => (known[i + 1]!.price - known[i]!.price) / (known[i + 1]!.strike - known[i]!.strike);
  const ranges: { from: number; to: number }[] = [];
  const add = (first: number, last: number) => {
    const [from, to] = [known[first]!.strike, known[last]!.strike];
    const before = ranges.at(-1);
    if (before && before.to > from) before.to = Math.max(before.to, to);
    else ranges.push({ from, to });
  };
  for (let i = 0; i + 1 < known.length; i++) {
    const dust = (DUST * forward) / (known[i + 1]!.strike - known[i]!.strike);
    if (i > 0 && slope(i) < slope(i - 1) - dust) add(i - 1, i + 1);
    if (slope(i) > dust) add(i, i + 1);
  }
  return ranges;
}

/** By what share variance between given strikes may seem to be over another's. */
const BETWEEN = 1e-4;

/** Whether vols say more variance to the nearer of two expiries at a strike that both span, alike as a share of the forward. */
function isOver(near: GivenSlice, far: GivenSlice): boolean {
  const [shorter, longer] = [variancesOf(near), variancesOf(far)];
  return (
    shorter.some(({ k, w }) => isLess(varianceAt(longer, k), w)) ||
    longer.some(({ k, w }) => {
      const found = varianceAt(shorter, k);
      return found !== null && isLess({ w, isGiven: found.isGiven }, found.w);
    })
  );
}

function isLess(far: { w: number; isGiven: boolean } | null, near: number): boolean {
  return far !== null && near > far.w * (1 + (far.isGiven ? DUST : BETWEEN));
}

interface VarianceGiven {
  readonly k: number;
  readonly w: number;
}

function variancesOf({ years, forward, strikes, vols }: GivenSlice): VarianceGiven[] {
  return strikes
    .map((strike, i) => ({ k: Math.log(strike / forward), w: vols[i]! ** 2 * years }))
    .sort((a, b) => a.k - b.k);
}

/** Nearer than this, places are one. */
const SAME_PLACE = 1e-9;

/** Variance at a place among those given, by the cubic through the four around it; null outside of them. */
function varianceAt(given: readonly VarianceGiven[], k: number): { w: number; isGiven: boolean } | null {
  const same = given.find((one) => Math.abs(one.k - k) < SAME_PLACE);
  if (same) return { w: same.w, isGiven: true };
  const after = given.findIndex((one) => one.k > k);
  if (after <= 0) return null;
  const from = Math.max(0, Math.min(after - 2, given.length - 4));
  const around = given.slice(from, from + 4);
  const w = around.reduce(
    (sum, one) =>
      sum + around.reduce((part, other) => (other === one ? part : (part * (k - other.k)) / (one.k - other.k)), one.w),
    0,
  );
  return { w, isGiven: false };
}

const POINT: VarianceAt = { w: 0, slope: 0, curvature: 0 };

/**
 * Vol and density of a surface at a strike. Total variance between two curves is linear in time at one strike over forward, the
 * forward log-linear; before the first and after the last the vols and the forward are theirs.
 *
 * @returns vol as a decimal, density of S_T per unit of price, undiscounted
 */
export function surfacePoint(surface: Surface, years: number, strike: number): { vol: number; density: number } {
  const k = Math.log(strike / forwardAt(surface.curves, years));
  const at = surfaceAt(surface, k, years, POINT);
  return { vol: Math.sqrt(at.w / years), density: logDensity(at, k) / strike };
}

function forwardAt(curves: readonly Curve[], years: number): number {
  const after = curves.findIndex((curve) => curve.years > years);
  if (after < 0) return curves.at(-1)!.forward;
  if (after === 0) return curves[0]!.forward;
  const [near, far] = [curves[after - 1]!, curves[after]!];
  const share = (years - near.years) / (far.years - near.years);
  return near.forward * (far.forward / near.forward) ** share;
}
