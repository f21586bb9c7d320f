import { constrainedSvi } from './constrained';
import { curveVariance, flatCurve, lowestGap, sviOf, type Curve } from './curve';
import { FEWEST_NATURAL, GOOD, judged, lossOfCurve } from './fit';
import { mixtureOver, type Mixture } from './mixture';
import type { FitPoints } from './points';
import type { CurveShape } from './shape';
import { isButterflyFree, lastWell, plainSvi, type Svi } from './svi';

/** A curve, and where its shape comes from. */
export interface ShapedCurve {
  readonly curve: Curve;
  readonly shape: CurveShape;
}

/** A curve with what it was fitted to. */
export interface FittedCurve extends ShapedCurve {
  readonly points: FitPoints;
}

/** What rounding leaves of two curves that touch. */
const TOUCH = -1e-9;

/** Whether a curve crosses one of a shorter life. */
export function isCrossed(near: Curve, far: Curve): boolean {
  return lowestGap(near, far).value < TOUCH;
}

/** A curve that misses its own quotes by more half spreads than this, or has no shape of its own, holds up no other. */
const MOST_MISSED = 2;

function isSound({ points, curve, shape }: FittedCurve): boolean {
  return shape === 'own' && curve.kind !== 'flat' && judged(curve, points).errorInHalfSpreads <= MOST_MISSED;
}

/**
 * Takes calendar arbitrage out of curves of one underlying, so that total variance rises with time at every log-moneyness.
 * From the shortest life to the longest, a curve that crosses the one before it is fitted again over that one. A curve that
 * is not worth it does not move the others: where it crosses one of them it takes the shape of the next one, as far under
 * that as its own quotes say. What has no arbitrage is left as it is.
 *
 * @param fitted ascending in years
 * @returns the curves, in the same order
 */
export function withoutCalendarArbitrage(fitted: readonly FittedCurve[]): ShapedCurve[] {
  const sound = fitted.map(isSound);
  const curves = fitted.map(({ curve, shape }): ShapedCurve => ({ curve, shape }));
  let before: Curve | undefined;
  fitted.forEach(({ points, curve }, i) => {
    if (!sound[i]) return;
    if (before && isCrossed(before, curve)) curves[i] = { curve: fitOver(before, points, curve), shape: 'own' };
    before = curves[i]!.curve;
  });
  fitted.forEach(({ points, curve }, i) => {
    if (sound[i]) return;
    const near = curves[i - 1]?.curve;
    const next = curves.slice(i + 1).find((_, n) => sound[i + 1 + n])?.curve;
    const isClear = !(near && isCrossed(near, curve)) && !(next && isCrossed(curve, next));
    if (isClear) return;
    const made = next ? fitBetween(near, next, points, curve) : near ? fitOver(near, points, curve) : curve;
    const isFitted = !next && points.count >= FEWEST_NATURAL;
    curves[i] = { curve: made, shape: isFitted || made.kind === 'flat' ? 'own' : 'neighbour' };
  });
  return curves;
}

/** Steps of the search for how far under the next curve another one lies. */
const SHARES = 40;

/**
 * A curve between two that do not cross: the next one with all its variance taken down, as its own quotes want it; less of a
 * slice has no butterfly arbitrage either. Under a mixture the one before again, or a flat one.
 */
function fitBetween(near: Curve | undefined, next: Curve, points: FitPoints, curve: Curve): Curve {
  const { years, forward } = curve;
  const shape = sviOf(next);
  const isBetween = (one: Curve) => !(near && isCrossed(near, one)) && !isCrossed(one, next);
  if (!shape) {
    if (near) return { ...near, years, forward };
    let low = 0;
    let high = Math.sqrt(curveVariance(next, 0) / years);
    for (let step = 0; step < SHARES; step++) {
      const middle = 0.5 * (low + high);
      if (isBetween(flatCurve(middle, years, forward))) low = middle;
      else high = middle;
    }
    return flatCurve(low, years, forward);
  }
  const scaled = (share: number): Curve => ({
    kind: 'svi',
    years,
    forward,
    parameters: [share * shape[0], share * shape[1], shape[2], shape[3], shape[4]],
  });
  let best = scaled(1);
  let loss = Infinity;
  for (let step = SHARES; step > 0; step--) {
    const candidate = scaled(step / SHARES);
    if (!isBetween(candidate)) break;
    const reached = lossOfCurve(points, candidate);
    if (reached < loss) [best, loss] = [candidate, reached];
  }
  return best;
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
    // What is lifted as it is stays of its kind.
    kind: svi[1] === 0 ? 'flat' : 'svi',
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
  const gapOf = (svi: Svi) => lowestGap(near, asCurve(svi)).value;
  const finished = (found: Svi) => asCurve(lastWell(well, lifted(found, gapOf), isWell));
  const own = sviOf(curve) ?? grown;
  // Too few points leave nothing to search: the curve is lifted as it is.
  if (points.count < FEWEST_NATURAL) return finished(own);
  const fitFrom = (start: Svi) => finished(constrainedSvi(points, start, floor));
  let best = fitFrom(own);
  let loss = lossOfCurve(points, best);
  for (const start of [grown, plainSvi(curveVariance(curve, 0))]) {
    if (loss < GOOD * points.count) break;
    const other = fitFrom(start);
    const reached = lossOfCurve(points, other);
    if (reached < loss) [best, loss] = [other, reached];
  }
  return best;
}

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
