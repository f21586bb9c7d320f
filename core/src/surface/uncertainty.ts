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
/** What a mid is usually off by, in half spreads, and how many points that is worth as evidence (see implied/forward). */
const USUAL_MISS = 0.2;
const USUAL_POINTS = 4;
/** Deviation at which a 25-delta contract lies. */
const Z25 = 0.6745;
/** Deviations level off at so many. */
const FAR = 3;

/** Powers of a deviation that levels off: what a curve of some numbers looks like. */
function basisAt(z: number, count: number): number[] {
  const u = z / Math.sqrt(1 + (z * z) / (FAR * FAR));
  return Array.from({ length: count }, (_, power) => u ** power);
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
  const told = Math.min(shape === 'own' ? TOLD[curve.kind] : 1, count);
  const deviation = curveVol(curve, 0) * Math.sqrt(years);
  if (!(told > 0 && deviation > 0)) return { atmVol: NaN, riskReversal25: NaN };
  const matrix = Array.from({ length: told }, () => new Array<number>(told).fill(0));
  let squares = 0;
  for (let i = 0; i < count; i++) {
    const row = basisAt(k[i]! / deviation, told);
    squares += ((curveVol(curve, k[i]!) - vol[i]!) / unit[i]!) ** 2;
    for (let a = 0; a < told; a++) {
      for (let b = 0; b < told; b++) matrix[a]![b]! += (row[a]! * row[b]!) / unit[i]! ** 2;
    }
  }
  const scale = Math.sqrt((USUAL_POINTS * USUAL_MISS ** 2 + squares) / (USUAL_POINTS + Math.max(count - told, 0)));
  const errorOf = (what: readonly number[]) => scale * Math.sqrt(quadratic(matrix, what));
  const [call, put] = [basisAt(Z25, told), basisAt(-Z25, told)];
  return {
    atmVol: errorOf(basisAt(0, told)),
    riskReversal25: told > 1 ? errorOf(call.map((value, i) => value - put[i]!)) : NaN,
  };
}

/** xᵀA⁻¹x of a positive definite matrix, by Cholesky's decomposition; Infinity where it is singular. */
function quadratic(matrix: readonly (readonly number[])[], x: readonly number[]): number {
  const size = x.length;
  const lower = matrix.map((row) => row.map(() => 0));
  let sum = 0;
  const y: number[] = [];
  for (let i = 0; i < size; i++) {
    let value = x[i]!;
    for (let j = 0; j <= i; j++) {
      let product = matrix[i]![j]!;
      for (let l = 0; l < j; l++) product -= lower[i]![l]! * lower[j]![l]!;
      if (j < i) lower[i]![j] = product / lower[j]![j]!;
      else if (product > 0) lower[i]![i] = Math.sqrt(product);
      else return Infinity;
    }
    for (let j = 0; j < i; j++) value -= lower[i]![j]! * y[j]!;
    y.push(value / lower[i]![i]!);
    sum += y[i]! ** 2;
  }
  return sum;
}
