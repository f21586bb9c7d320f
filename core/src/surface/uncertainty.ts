import { missScale } from '../implied';
import { curveVol, type Curve } from './curve';
import type { FitPoints } from './points';
import type { CurveShape } from './shape';

/** One standard error of what is read from a curve, decimals. */
export interface CurveUncertainty {
  atmVol: number;
  /** NaN where the shape is not that of its own quotes. */
  riskReversal25: number;
}

/** How many numbers the quotes of an expiry tell, by kind of its curve. */
const TOLD: Record<Curve['kind'], number> = { flat: 1, svi3: 3, svi: 4, mixture: 4, borrowed: 1 };
/** Deviation at which a 25-delta contract lies. */
const Z25 = 0.6745;
/** Deviations level off at so many. */
const FAR = 3;

/** Writes powers of a deviation that levels off: what a curve of some numbers looks like. */
function basisAt(z: number, out: Float64Array, from: number, count: number): void {
  const u = z / Math.sqrt(1 + (z * z) / (FAR * FAR));
  let power = 1;
  for (let i = 0; i < count; i++, power *= u) out[from + i] = power;
}

function basis(z: number, count: number): Float64Array {
  const out = new Float64Array(count);
  basisAt(z, out, 0, count);
  return out;
}

/**
 * Linear regression of vols on powers of the deviation: what a curve of as many numbers can tell from its points.
 */
class Regression {
  /** The bases of the points, one after the other. */
  readonly rows: Float64Array;
  private readonly lower: Float64Array;
  private readonly solved: Float64Array;

  constructor(
    points: FitPoints,
    deviation: number,
    private readonly told: number,
  ) {
    const { k, unit, count } = points;
    const rows = (this.rows = new Float64Array(count * told));
    this.solved = new Float64Array(told);
    const matrix = new Float64Array(told * told);
    for (let i = 0; i < count; i++) {
      const from = i * told;
      basisAt(k[i]! / deviation, rows, from, told);
      const weight = 1 / unit[i]! ** 2;
      for (let a = 0; a < told; a++) {
        for (let b = 0; b <= a; b++) matrix[a * told + b]! += weight * rows[from + a]! * rows[from + b]!;
      }
    }
    this.lower = cholesky(matrix, told);
  }

  /** xᵀA⁻¹x: the variance of a combination of the numbers, which stand from a place on, each point known to one unit. */
  variance(x: Float64Array, from = 0): number {
    const { told, lower, solved } = this;
    let sum = 0;
    for (let i = 0; i < told; i++) {
      let value = x[from + i]!;
      for (let j = 0; j < i; j++) value -= lower[i * told + j]! * solved[j]!;
      solved[i] = value / lower[i * told + i]!;
      sum += solved[i]! * solved[i]!;
    }
    return Number.isNaN(sum) ? Infinity : sum;
  }
}

/** Cholesky's decomposition of a positive definite matrix, of which the lower half is given; zeros where it is singular. */
function cholesky(matrix: Float64Array, size: number): Float64Array {
  const lower = new Float64Array(size * size);
  for (let i = 0; i < size; i++) {
    for (let j = 0; j <= i; j++) {
      let product = matrix[i * size + j]!;
      for (let l = 0; l < j; l++) product -= lower[i * size + l]! * lower[j * size + l]!;
      lower[i * size + j] = j < i ? product / lower[j * size + j]! : Math.sqrt(Math.max(product, 0));
    }
  }
  return lower;
}

function toldBy(points: FitPoints, curve: Curve, shape: CurveShape): number {
  return Math.min(shape === 'own' ? TOLD[curve.kind] : 1, points.count);
}

/**
 * How well the vol at the forward and the 25-delta risk reversal are known from the quotes: by linear regression of the vols
 * on as many powers of the deviation as the curve has numbers, each point known by its half spread and by how far points miss
 * the curve.
 *
 * @param shape where the curve's shape is taken from: then points tell its level alone
 */
export function curveUncertainty(points: FitPoints, curve: Curve, shape: CurveShape): CurveUncertainty {
  const { k, vol, unit, years, count } = points;
  const told = toldBy(points, curve, shape);
  const deviation = curveVol(curve, 0) * Math.sqrt(years);
  if (!(told > 0 && deviation > 0)) return { atmVol: NaN, riskReversal25: NaN };
  let squares = 0;
  for (let i = 0; i < count; i++) squares += ((curveVol(curve, k[i]!) - vol[i]!) / unit[i]!) ** 2;
  const scale = missScale(squares, Math.max(count - told, 0));
  const regression = new Regression(points, deviation, told);
  const errorOf = (what: Float64Array) => scale * Math.sqrt(regression.variance(what));
  const put = basis(-Z25, told);
  return {
    atmVol: errorOf(basis(0, told)),
    riskReversal25: told > 1 ? errorOf(basis(Z25, told).map((value, i) => value - put[i]!)) : NaN,
  };
}

/** What a point says against the curve that the others make. */
export interface PointMiss {
  /** By how much the curve would miss it without its own say, in vol. */
  readonly off: number;
  /** That in standard errors: how far points usually lie from a curve, and how well the others tell where it runs there. */
  readonly errors: number;
  /** By how much of its miss it pulls the curve onto itself: without it the curve would be so much further off. */
  readonly pull: number;
}

/** The share of the middle misses that stands for the deviation of a normal variable. */
const MEDIAN_SHARE = 0.6745;

/**
 * The misses of the points of a curve as they would be without the say of each (deleted residuals; D. Belsley, E. Kuh and
 * R. Welsch, "Regression diagnostics", 1980, chapter 2): a point that stands alone pulls a curve onto itself.
 */
export function pointMisses(points: FitPoints, curve: Curve): PointMiss[] {
  const { k, vol, unit, years, count } = points;
  const told = toldBy(points, curve, 'own');
  const deviation = curveVol(curve, 0) * Math.sqrt(years);
  const misses = k.map((at, i) => Math.abs(curveVol(curve, at) - vol[i]!));
  const sizes = misses.map((miss, i) => miss / unit[i]!).sort();
  const typical = (sizes[sizes.length >> 1] ?? 0) / MEDIAN_SHARE;
  const scale = missScale(typical ** 2 * count, count);
  const regression = new Regression(points, deviation, told);
  return Array.from(misses, (miss, i) => {
    const left = Math.max(1 - regression.variance(regression.rows, i * told) / unit[i]! ** 2, LEAST_LEFT);
    return { off: miss / left, errors: miss / (scale * unit[i]! * Math.sqrt(left)), pull: 1 / left - 1 };
  });
}

/** A point that is all there is says nothing against itself. */
const LEAST_LEFT = 0.02;
