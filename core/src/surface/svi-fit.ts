/**
 * Weighted least squares of raw SVI, w(k) = a + b(ρ(k − m) + √((k − m)² + σ²)), without any constraint.
 *
 * With m and σ held it is linear in a, bρ and b (S. De Marco and C. Martini, "Quasi-explicit calibration of Gatheral's SVI
 * model", 2009). The search over these two is Levenberg–Marquardt on what the linear part leaves (G. Golub and V. Pereyra
 * 1973, in the form of L. Kaufman 1975): their slopes are along x/z and 1/z, with x = k − m and z = √(x² + σ²), and all
 * products of the five columns 1, x, z, x/z, 1/z follow from nine sums over the points.
 */

/** Points of the fit, ascending in k; weights alike for plain least squares. */
export interface VariancePoints {
  readonly k: Float64Array;
  /** Total variance. */
  readonly w: Float64Array;
  readonly weight: Float64Array;
  readonly from: number;
  readonly count: number;
}

/** Results of {@link fitRawSvi}, in this order. */
export const SVI_FIT = { a: 0, b: 1, rho: 2, m: 3, sigma: 4, squares: 5, passes: 6 } as const;
export const SVI_FIT_LENGTH = 7;

/** The sums of a pass: Σ of the weight times z, xz, v, xv, v², xv², zw, xvw, vw with v = 1/z. */
const SUMS = new Float64Array(9);

function fillSums({ k, w, weight, from, count }: VariancePoints, m: number, square: number): void {
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  let s4 = 0;
  let s5 = 0;
  let s6 = 0;
  let s7 = 0;
  let s8 = 0;
  const end = from + count;
  for (let i = from; i < end; i++) {
    const x = k[i]! - m;
    const z = Math.sqrt(x * x + square);
    const v = 1 / z;
    const q = weight[i]!;
    const qz = q * z;
    const qv = q * v;
    const qxv = qv * x;
    const y = w[i]!;
    s0 += qz;
    s1 += x * qz;
    s2 += qv;
    s3 += qxv;
    s4 += qv * v;
    s5 += qxv * v;
    s6 += qz * y;
    s7 += qxv * y;
    s8 += qv * y;
  }
  SUMS[0] = s0;
  SUMS[1] = s1;
  SUMS[2] = s2;
  SUMS[3] = s3;
  SUMS[4] = s4;
  SUMS[5] = s5;
  SUMS[6] = s6;
  SUMS[7] = s7;
  SUMS[8] = s8;
}

const MOST_PASSES = 60;
/** Steps of m and σ, as shares of the span and of σ, that are taken at once. */
const MOST_M = 0.25;
const MOST_FALL = 0.6;
const MOST_RISE = 2;
/**
 * The search ends where m and σ move by less than this share of σ. The last step needs no pass: what the linear part makes
 * of it is known to the second order, 1e-10.
 */
const SETTLED = 1e-5;
/** Squares may grow by this share of the whole: rounding. */
const ROUNDING = 1e-15;

/** Where the lines through the outer points meet, and how far the smile stays over that corner: z of the corner is σ. */
function startOf({ k, w, from, count }: VariancePoints): { m: number; sigma: number } {
  const last = from + count - 1;
  const inner = Math.max(1, Math.min(4, count >> 2));
  const span = k[last]! - k[from]!;
  const left = (w[from + inner]! - w[from]!) / (k[from + inner]! - k[from]!);
  const right = (w[last]! - w[last - inner]!) / (k[last]! - k[last - inner]!);
  const turn = right - left;
  const hasCorner = turn > 1e-12;
  const corner = hasCorner ? (w[from]! - left * k[from]! - w[last]! + right * k[last]!) / turn : k[from]! + 0.5 * span;
  const m = Math.min(Math.max(corner, k[from + inner]!), k[last - inner]!);
  let at = from;
  while (at < last - 1 && k[at + 1]! < m) at++;
  const there = w[at]! + ((m - k[at]!) / (k[at + 1]! - k[at]!)) * (w[at + 1]! - w[at]!);
  const over = there - w[from]! - left * (m - k[from]!);
  const sigma = hasCorner ? (2 * over) / turn : 0.1;
  return { m, sigma: Math.min(Math.max(sigma, 0.02 * span), span) };
}

/**
 * Fits one slice.
 *
 * @param out {@link SVI_FIT}: parameters, the weighted sum of squares and the passes over the points; b may be negative and
 *   |ρ| over 1 where the points ask for it
 * @param start m and σ to begin with; without them from the outer points
 */
export function fitRawSvi(points: VariancePoints, out: Float64Array, at = 0, start = startOf(points)): void {
  const { k, w, weight, from, count } = points;
  let n = 0;
  let sk = 0;
  let skk = 0;
  let sw = 0;
  let skw = 0;
  let sww = 0;
  for (let i = from; i < from + count; i++) {
    const q = weight[i]!;
    const x = k[i]!;
    const y = w[i]!;
    const qx = q * x;
    n += q;
    sk += qx;
    skk += qx * x;
    sw += q * y;
    skw += qx * y;
    sww += q * y * y;
  }
  const span = k[from + count - 1]! - k[from]!;
  const i0 = 1 / n;
  let m = start.m;
  let sigma = start.sigma;
  let best = Infinity;
  let damping = 1e-6;
  let bestM = m;
  let bestSigma = sigma;
  let a = 0;
  let slope = 0;
  let b = 0;
  let h11 = 0;
  let h12 = 0;
  let h22 = 0;
  let g1 = 0;
  let g2 = 0;
  let passes = 0;
  while (passes < MOST_PASSES) {
    passes++;
    const square = sigma * sigma;
    fillSums(points, m, square);
    // The columns 1, x, z and what is left of x/z and 1/z beside them: a Cholesky factor without roots, row by row.
    const x1 = sk - n * m;
    const x2 = skk - 2 * m * sk + n * m * m;
    const z0 = SUMS[0]!;
    const v0 = SUMS[2]!;
    const xv0 = SUMS[3]!;
    const vv0 = SUMS[4]!;
    const l10 = x1 * i0;
    const l20 = z0 * i0;
    const l30 = xv0 * i0;
    const l40 = v0 * i0;
    const i1 = 1 / (x2 - l10 * x1);
    const c21 = SUMS[1]! - l20 * x1;
    const c31 = z0 - square * v0 - l30 * x1;
    const c41 = xv0 - l40 * x1;
    const l21 = c21 * i1;
    const l31 = c31 * i1;
    const l41 = c41 * i1;
    const i2 = 1 / (x2 + n * square - l20 * z0 - l21 * c21);
    const c32 = x1 - l30 * z0 - l31 * c21;
    const c42 = n - l40 * z0 - l41 * c21;
    const l32 = c32 * i2;
    const l42 = c42 * i2;
    const y1 = skw - m * sw - l10 * sw;
    const y2 = SUMS[6]! - l20 * sw - l21 * y1;
    const squares = Math.max(0, sww - sw * sw * i0 - y1 * y1 * i1 - y2 * y2 * i2);
    const isBetter = squares <= best + ROUNDING * sww;
    if (isBetter) {
      best = squares;
      bestM = m;
      bestSigma = sigma;
      b = y2 * i2;
      slope = y1 * i1 - l21 * b;
      a = sw * i0 - l10 * slope - l20 * b;
      damping *= 0.1;
      const bs = b * sigma;
      h11 = b * b * (n - square * vv0 - l30 * xv0 - l31 * c31 - l32 * c32);
      h12 = -b * bs * (SUMS[5]! - l40 * xv0 - l41 * c31 - l42 * c32);
      h22 = bs * bs * (vv0 - l40 * v0 - l41 * c41 - l42 * c42);
      g1 = -b * (SUMS[7]! - l30 * sw - l31 * y1 - l32 * y2);
      g2 = bs * (SUMS[8]! - l40 * sw - l41 * y1 - l42 * y2);
    } else {
      damping = Math.max(10 * damping, 1e-4);
    }
    const d1 = h11 * (1 + damping);
    const d2 = h22 * (1 + damping);
    const determinant = d1 * d2 - h12 * h12;
    const byM = Math.min(Math.max((g1 * d2 - g2 * h12) / determinant, -MOST_M * span), MOST_M * span);
    const bySigma = Math.min(
      Math.max((g2 * d1 - g1 * h12) / determinant, -MOST_FALL * bestSigma),
      MOST_RISE * bestSigma,
    );
    const move = Math.abs(byM) + Math.abs(bySigma);
    if (!(move > SETTLED * bestSigma)) {
      // Where the points say nothing of m and σ the step is no number, and where a worse one is left it stays undone.
      if (!isBetter || Number.isNaN(move)) break;
      const alongM = -b * byM;
      const alongSigma = b * sigma * bySigma;
      b -= l32 * alongM + l42 * alongSigma;
      slope = y1 * i1 - l21 * b - l31 * alongM - l41 * alongSigma;
      a = sw * i0 - l10 * slope - l20 * b - l30 * alongM - l40 * alongSigma + slope * byM;
      best = Math.max(0, best - g1 * byM - g2 * bySigma);
      bestM += byM;
      bestSigma += bySigma;
      break;
    }
    m = bestM + byM;
    sigma = bestSigma + bySigma;
  }
  out[at] = a;
  out[at + 1] = b;
  out[at + 2] = slope / b;
  out[at + 3] = bestM;
  out[at + 4] = bestSigma;
  out[at + 5] = best;
  out[at + 6] = passes;
}
