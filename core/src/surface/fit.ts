import { curveVol, type Curve } from './curve';

/** What a curve is fitted to: out-of-the-money vols of one expiry, in any order. */
export interface CurvePoints {
  /** ln(K/F). */
  readonly logMoneyness: ArrayLike<number>;
  /** Implied vol at mid. */
  readonly vol: ArrayLike<number>;
  /** Half of the bid–ask distance in vol. */
  readonly halfSpread: ArrayLike<number>;
  readonly count: number;
}

export interface CurveFit {
  curve: Curve;
  /** Root mean square of model less mid vol, all points alike; a decimal vol. */
  rmse: number;
  /** Root mean square of the same in units of each point's half spread. */
  errorInHalfSpreads: number;
  points: number;
}

/** With fewer points than this the curve is flat. */
const FEWEST_POINTS = 4;
const STEPS = 40;
const MAX_RHO = 0.995;
/** Added to each half spread: what a three-parameter curve is not asked to follow (in vol). */
const MODEL_ERROR = 0.002;
/** Residuals beyond this many units pull linearly, not quadratically (Huber 1964). */
const HUBER = 1.5;

/**
 * Fits the curve of an expiry by Levenberg–Marquardt in vol, each point weighted by its bid–ask, with
 * Huber weights against outliers. Every accepted step is projected onto the parameters that are free of
 * butterfly arbitrage, so the result is.
 *
 * @returns null without any point
 */
export function fitCurve(points: CurvePoints, years: number, forward: number): CurveFit | null {
  if (points.count === 0) return null;
  const start = guess(points, years, forward);
  const curve = points.count < FEWEST_POINTS ? start : descend(points, start);
  let squares = 0;
  let scaled = 0;
  for (let i = 0; i < points.count; i++) {
    const miss = curveVol(curve, points.logMoneyness[i]!) - points.vol[i]!;
    squares += miss * miss;
    scaled += (miss / Math.max(points.halfSpread[i]!, 1e-6)) ** 2;
  }
  return {
    curve,
    rmse: Math.sqrt(squares / points.count),
    errorInHalfSpreads: Math.sqrt(scaled / points.count),
    points: points.count,
  };
}

/** Level from the points nearest to the forward, tilt from a line through the near ones. */
function guess(points: CurvePoints, years: number, forward: number): Curve {
  const { logMoneyness, vol, halfSpread, count } = points;
  let sw = 0;
  let sk = 0;
  let sv = 0;
  let skk = 0;
  let skv = 0;
  for (let i = 0; i < count; i++) {
    const k = logMoneyness[i]!;
    const z = k / (vol[i]! * Math.sqrt(years));
    const weight = Math.exp(-z * z) / (halfSpread[i]! + MODEL_ERROR) ** 2 + 1e-9;
    sw += weight;
    sk += weight * k;
    sv += weight * vol[i]!;
    skk += weight * k * k;
    skv += weight * k * vol[i]!;
  }
  const spread = sw * skk - sk * sk;
  const isFlat = count < FEWEST_POINTS || !(spread > 1e-14 * sw * sw);
  const slope = isFlat ? 0 : (sw * skv - sk * sv) / spread;
  const level = Math.max((sv - slope * sk) / sw, (0.2 * sv) / sw);
  const theta = level * level * years;
  if (isFlat) return { kind: 'flat', years, forward, theta, rho: 0, phi: 0 };
  const phi = 1 / Math.sqrt(theta);
  const rho = Math.max(-0.9, Math.min(0.9, (2 * slope * level * years) / (theta * phi)));
  return project({ kind: 'ssvi', years, forward, theta, rho, phi });
}

function project(curve: Curve): Curve {
  const theta = Math.max(curve.theta, 1e-12);
  const rho = Math.max(-MAX_RHO, Math.min(MAX_RHO, curve.rho));
  const tilt = theta * (1 + Math.abs(rho));
  const cap = Math.min(3.999 / tilt, 2 / Math.sqrt(tilt));
  return { ...curve, theta, rho, phi: Math.max(1e-6, Math.min(cap, curve.phi)) };
}

/** Normal equations of the three parameters: the six sums of the matrix, the three of the right side. */
const SUMS = new Float64Array(9);

function descend(points: CurvePoints, start: Curve): Curve {
  let best = start;
  let bestLoss = loss(points, best);
  let damping = 1e-3;
  for (let step = 0; step < STEPS; step++) {
    accumulate(points, best);
    let isImproved = false;
    for (let trial = 0; trial < 8 && !isImproved; trial++) {
      const candidate = project(stepped(best, damping));
      const candidateLoss = loss(points, candidate);
      if (candidateLoss < bestLoss) {
        const gain = 1 - candidateLoss / bestLoss;
        best = candidate;
        bestLoss = candidateLoss;
        damping = Math.max(damping * 0.2, 1e-12);
        if (gain < 1e-10) return best;
        isImproved = true;
      } else damping *= 6;
    }
    if (!isImproved) return best;
  }
  return best;
}

function loss(points: CurvePoints, curve: Curve): number {
  const { logMoneyness, vol, halfSpread, count } = points;
  let sum = 0;
  for (let i = 0; i < count; i++) {
    const miss = Math.abs(curveVol(curve, logMoneyness[i]!) - vol[i]!) / (halfSpread[i]! + MODEL_ERROR);
    sum += miss <= HUBER ? 0.5 * miss * miss : HUBER * (miss - 0.5 * HUBER);
  }
  return sum;
}

function accumulate(points: CurvePoints, curve: Curve): void {
  const { logMoneyness, vol, halfSpread, count } = points;
  const { theta, rho, phi, years } = curve;
  SUMS.fill(0);
  for (let i = 0; i < count; i++) {
    const k = logMoneyness[i]!;
    const u = phi * k + rho;
    const root = Math.sqrt(u * u + 1 - rho * rho);
    const w = 0.5 * theta * (1 + rho * phi * k + root);
    const sigma = Math.sqrt(w / years);
    const unit = 1 / (halfSpread[i]! + MODEL_ERROR);
    const miss = (sigma - vol[i]!) * unit;
    const weight = Math.abs(miss) <= HUBER ? 1 : HUBER / Math.abs(miss);
    const chain = unit / (2 * years * sigma);
    const a = (chain * w) / theta;
    const b = chain * 0.5 * theta * phi * k * (1 + 1 / root);
    const c = chain * 0.5 * theta * (rho * k + (k * u) / root);
    SUMS[0]! += weight * a * a;
    SUMS[1]! += weight * a * b;
    SUMS[2]! += weight * a * c;
    SUMS[3]! += weight * b * b;
    SUMS[4]! += weight * b * c;
    SUMS[5]! += weight * c * c;
    SUMS[6]! += weight * a * miss;
    SUMS[7]! += weight * b * miss;
    SUMS[8]! += weight * c * miss;
  }
}

/** One damped step: the 3 × 3 system solved by Cramer's rule. */
function stepped(curve: Curve, damping: number): Curve {
  const a = SUMS[0]! * (1 + damping) + 1e-300;
  const b = SUMS[1]!;
  const c = SUMS[2]!;
  const d = SUMS[3]! * (1 + damping) + 1e-300;
  const e = SUMS[4]!;
  const f = SUMS[5]! * (1 + damping) + 1e-300;
  const ra = -SUMS[6]!;
  const rb = -SUMS[7]!;
  const rc = -SUMS[8]!;
  const m00 = d * f - e * e;
  const m01 = c * e - b * f;
  const m02 = b * e - c * d;
  const m11 = a * f - c * c;
  const m12 = b * c - a * e;
  const m22 = a * d - b * b;
  const determinant = a * m00 + b * m01 + c * m02;
  if (!(Math.abs(determinant) > 0)) return curve;
  return {
    ...curve,
    theta: curve.theta + (m00 * ra + m01 * rb + m02 * rc) / determinant,
    rho: curve.rho + (m01 * ra + m11 * rb + m12 * rc) / determinant,
    phi: curve.phi + (m02 * ra + m12 * rb + m22 * rc) / determinant,
  };
}
