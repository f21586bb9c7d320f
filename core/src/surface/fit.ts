import { boxOf, constrainedSvi, isInBox } from './constrained';
import { curveVariance, curveVol, flatCurve, naturalCurve, sviOf, type Curve } from './curve';
import { fitMixture } from './mixture';
import { fitNatural, levelOf } from './natural';
import { fitPoints, lossOf, type CurvePoints, type FitPoints } from './points';
import { isButterflyFree, lastWell, plainSvi, type Svi } from './svi';
import { fitRawSvi, SVI_FIT, SVI_FIT_LENGTH } from './svi-fit';

export interface CurveFit {
  curve: Curve;
  /** Root mean square of model less mid vol, all points alike; a decimal vol. */
  rmse: number;
  /** Root mean square of the same in units of each point's half spread. */
  errorInHalfSpreads: number;
  points: number;
}

/** With fewer points the curve is flat, with fewer than these it has three parameters. */
export const FEWEST_NATURAL = 4;
const FEWEST_SVI = 8;
/** The wings of five parameters are not taken where they are steeper than those of three by more than this factor. */
const MOST_WING = 3;
/** Where a point misses by less than this loss on average, a curve is good enough to start no further search. */
export const GOOD = 0.125;
/** A mixture is tried where half the points miss by so many units, and taken where it leaves less than this share of the loss. */
const POOR = 0.75;
const MUCH_BETTER = 0.5;
const FEWEST_MIXTURE = 10;

/**
 * Fits the curve of an expiry, each point weighted by its bid–ask and robust against outliers, free of butterfly arbitrage:
 * raw SVI from eight points on, three parameters from four, flat under these; where SVI cannot follow, a mixture.
 *
 * @returns null without any point
 */
export function fitCurve(given: CurvePoints, years: number, forward: number): CurveFit | null {
  return fitCurveTo(fitPoints(given, years), forward);
}

/** {@link fitCurve} of points that are taken already. */
export function fitCurveTo(points: FitPoints, forward: number): CurveFit | null {
  return points.count === 0 ? null : judged(bestCurve(points, forward), points);
}

function bestCurve(points: FitPoints, forward: number): Curve {
  const { years, count } = points;
  if (count < FEWEST_NATURAL) return flatCurve(levelOf(points), years, forward);
  const natural = naturalCurve(fitNatural(points), years, forward);
  if (count < FEWEST_SVI) return natural;
  const curve = fitSvi(points, natural) ?? natural;
  if (count < FEWEST_MIXTURE || typicalMiss(points, curve) < POOR) return curve;
  const found = fitMixture(points, curveVol(curve, 0) * Math.sqrt(years));
  return found && found.loss < MUCH_BETTER * lossOfCurve(points, curve)
    ? { kind: 'mixture', years, forward, parameters: found.mixture }
    : curve;
}

/** The middle of the misses, in units: outliers alone do not raise it. */
function typicalMiss({ k, vol, unit }: FitPoints, curve: Curve): number {
  const misses = k.map((x, i) => Math.abs(curveVol(curve, x) - vol[i]!) / unit[i]!).sort();
  return misses[misses.length >> 1]!;
}

/**
 * Whether a smaller loss is worth its extra parameters, where the scale of a miss is not known in advance (G. Schwarz, "Estimating
 * the dimension of a model", 1978).
 */
function earns(loss: number, smaller: number, parameters: number, count: number): boolean {
  return smaller < loss * Math.exp((-parameters * Math.log(count)) / count);
}

/** Whether wings, which few points see, are of the steepness that the whole of them has. */
function areWingsSound([, b5, rho5]: Svi, three: Svi): boolean {
  const [, b3, rho3] = three;
  return [-1, 1].every((side) => b5 * (1 + side * rho5) <= MOST_WING * b3 * (1 + side * rho3));
}

export function lossOfCurve(points: FitPoints, curve: Curve): number {
  return lossOf(points, (i) => curveVol(curve, points.k[i]!));
}

/** A curve with what it misses. */
export function judged(curve: Curve, { k, vol, unit, count }: FitPoints): CurveFit {
  let squares = 0;
  let scaled = 0;
  for (let i = 0; i < count; i++) {
    const miss = curveVol(curve, k[i]!) - vol[i]!;
    squares += miss * miss;
    scaled += (miss / unit[i]!) ** 2;
  }
  return {
    curve,
    rmse: Math.sqrt(squares / count),
    errorInHalfSpreads: Math.sqrt(scaled / count),
    points: count,
  };
}

/**
 * Raw SVI without arbitrage where its two parameters more are earned: as the points want it, or under pressure from there
 * where they want an arbitrage and three parameters miss them; null where three are as good.
 */
function fitSvi(points: FitPoints, natural: Curve): Curve | null {
  const three = sviOf(natural)!;
  const loss3 = lossOfCurve(points, natural);
  const box = boxOf(points);
  const asCurve = (svi: Svi): Curve => ({ ...natural, kind: 'svi', parameters: svi });
  const isEarned = (svi: Svi) =>
    isInBox(svi, box) && areWingsSound(svi, three) && earns(loss3, lossOfCurve(points, asCurve(svi)), 2, points.count);
  const free = freeSvi(points, three);
  if (free && isEarned(free) && isButterflyFree(free)) return asCurve(free);
  if (loss3 < GOOD * points.count) return null;
  const heldFrom = (start: Svi) => lastWell(three, constrainedSvi(points, start), isButterflyFree);
  const lossAt = (svi: Svi) => lossOfCurve(points, asCurve(svi));
  // A search along a constraint may end far from the best: the last digit of a price must not decide where.
  let held = heldFrom(free ?? three);
  for (const start of [three, plainSvi(curveVariance(natural, 0))]) {
    if (lossAt(held) < GOOD * points.count) break;
    const other = heldFrom(start);
    if (lossAt(other) < lossAt(held)) held = other;
  }
  return isEarned(held) ? asCurve(held) : null;
}

const ROUNDS = 8;
/** The rounds end where no parameter moves by more than this share. */
const SETTLED = 1e-9;

/** Raw SVI by repeated weighted least squares; null where the points ask for no slice at all. */
function freeSvi(points: FitPoints, start: Svi): Svi | null {
  const { k, vol, unit, years, count, huber } = points;
  const w = vol.map((sigma) => sigma * sigma * years);
  const weight = new Float64Array(count);
  const out = new Float64Array(SVI_FIT_LENGTH);
  let svi = start;
  for (let round = 0; round < ROUNDS; round++) {
    const [a, b, rho, m, sigma] = svi;
    for (let i = 0; i < count; i++) {
      const x = k[i]! - m;
      const model = Math.sqrt(Math.max(a + b * (rho * x + Math.sqrt(x * x + sigma * sigma)), 0) / years);
      const miss = Math.abs(model - vol[i]!) / unit[i]!;
      weight[i] = Math.min(1, huber / miss) / (2 * vol[i]! * years * unit[i]!) ** 2;
    }
    fitRawSvi({ k, w, weight, from: 0, count }, out, 0, { m, sigma });
    const next = Array.from(out.subarray(0, SVI_FIT.squares)) as unknown as Svi;
    if (!next.every(Number.isFinite) || !(next[1] > 0) || !(next[4] > 0)) return null;
    const isSettled = next.every((value, i) => Math.abs(value - svi[i]!) <= SETTLED * (Math.abs(value) + 1e-3));
    svi = next;
    if (isSettled) break;
  }
  return Math.abs(svi[2]) < 1 ? svi : null;
}
