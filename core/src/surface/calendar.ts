import { constrainedSvi } from './constrained';
import { curveVariance, lowestGap, sviOf, type Curve } from './curve';
import { GOOD, lossOfCurve } from './fit';
import { mixtureOver, type Mixture } from './mixture';
import type { FitPoints } from './points';
import { isButterflyFree, lastWell, type Svi } from './svi';

/** A curve with what it was fitted to. */
export interface FittedCurve {
  readonly points: FitPoints;
  readonly curve: Curve;
}

/** What rounding leaves of two curves that touch. */
const TOUCH = -1e-9;

/** Whether a curve crosses one of a shorter life. */
export function isCrossed(near: Curve, far: Curve): boolean {
  return lowestGap(near, far).value < TOUCH;
}

/**
 * Takes calendar arbitrage out of curves of one underlying: from the shortest life to the longest, a curve that crosses the
 * one before it is fitted again over that one, so that total variance rises with time at every log-moneyness. What has no
 * arbitrage is left as it is.
 *
 * @param fitted ascending in years
 * @returns the curves, in the same order
 */
export function withoutCalendarArbitrage(fitted: readonly FittedCurve[]): Curve[] {
  const curves: Curve[] = [];
  for (const { points, curve } of fitted) {
    const near = curves.at(-1);
    curves.push(near && isCrossed(near, curve) ? fitOver(near, points, curve) : curve);
  }
  return curves;
}

/** A curve of the points that does not cross a shorter one: of its own kind, or raw SVI where that is nearer. */
function fitOver(near: Curve, points: FitPoints, curve: Curve): Curve {
  if (curve.kind !== 'mixture') return sviOver(near, points, curve) ?? curve;
  const isOver = (parameters: Mixture) => !isCrossed(near, { ...curve, parameters });
  const mixture = mixtureOver(points, curve.parameters, (k) => curveVariance(near, k), isOver);
  const found = [isOver(mixture) ? { ...curve, parameters: mixture } : null, sviOver(near, points, curve)];
  const known = found.filter((one) => one !== null);
  const losses = known.map((one) => lossOfCurve(points, one));
  return known[losses.indexOf(Math.min(...losses))] ?? curve;
}

/** Raw SVI over a shorter curve; null where nothing covers that one. */
function sviOver(near: Curve, points: FitPoints, curve: Curve): Curve | null {
  const { years, forward } = curve;
  const asCurve = (svi: Svi): Curve => ({
    kind: points.count < FEWEST ? curve.kind : 'svi',
    years,
    forward,
    parameters: svi,
  });
  const isWell = (svi: Svi) => isButterflyFree(svi) && !isCrossed(near, asCurve(svi));
  const cover = coverOf(near, isWell);
  if (!cover) return null;
  const floor = (k: number) => curveVariance(near, k);
  // The shorter one grown to this one's size keeps clear of it, mostly without arbitrage of its own.
  const growth = Math.max(1, curveVariance(curve, 0) / curveVariance(asCurve(cover), 0));
  const grown: Svi = [growth * cover[0], growth * cover[1], cover[2], cover[3], cover[4]];
  const well = isWell(grown) ? grown : cover;
  const finished = (found: Svi) =>
    asCurve(
      lastWell(
        well,
        lifted(found, (svi) => lowestGap(near, asCurve(svi)).value),
        isWell,
      ),
    );
  const own = sviOf(curve) ?? grown;
  // Too few points leave nothing to search: the curve is lifted as it is.
  if (points.count < FEWEST) return finished(own);
  const fitFrom = (start: Svi) => finished(constrainedSvi(points, start, floor));
  const first = fitFrom(own);
  const loss = lossOfCurve(points, first);
  if (loss < GOOD * points.count) return first;
  const second = fitFrom(grown);
  return lossOfCurve(points, second) < loss ? second : first;
}

const FEWEST = 4;
/** A slice that a search leaves under its floor by so little, as a share of its variance, is lifted over it. */
const LITTLE = 0.1;
const OVER = 1.001;
const MOST_LIFTS = 4;

/** Lifts a slice by what is missing. */
function lifted(svi: Svi, gapOf: (svi: Svi) => number): Svi {
  let [a] = svi;
  const [, b, rho, m, sigma] = svi;
  for (let step = 0; step < MOST_LIFTS; step++) {
    const gap = gapOf([a, b, rho, m, sigma]);
    if (gap >= 0 || gap < -LITTLE) break;
    a -= OVER * gap * (a + b * (Math.sqrt(m * m + sigma * sigma) - rho * m));
  }
  return [a, b, rho, m, sigma];
}

const LIFTS = 40;

/** A slice that covers a curve: itself, or for a mixture a wide one, lifted until it does. */
function coverOf(near: Curve, isWell: (svi: Svi) => boolean): Svi | null {
  const own = sviOf(near);
  if (own) return own;
  const theta = curveVariance(near, 0);
  const width = Math.sqrt(theta);
  let lift = theta;
  for (let step = 0; step < LIFTS; step++, lift *= 1.25) {
    const slice: Svi = [0.5 * lift, 0.25 * width, 0, 0, (2 * lift) / width];
    if (isWell(slice)) return slice;
  }
  return null;
}
