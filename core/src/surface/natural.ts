import { lossOf, type FitPoints } from './points';
import type { Svi } from './svi';

/**
 * The slice of three parameters,
 *
 *   w(k) = θ/2 · (1 + ρφk + √((φk + ρ)² + 1 − ρ²))
 *
 * (Gatheral and Jacquier 2014, section 4): θ the total variance at the forward, ρ the tilt, φ the curvature. It has no
 * butterfly arbitrage where θφ(1 + |ρ|) < 4 and θφ²(1 + |ρ|) ≤ 4 (theorem 4.2), so it is what few points can carry, and a
 * slice without arbitrage from which more parameters start.
 */
export interface Natural {
  theta: number;
  rho: number;
  phi: number;
}

/** The same slice as raw SVI. */
export function rawOfNatural({ theta, rho, phi }: Natural): Svi {
  const rest = 1 - rho * rho;
  return [0.5 * theta * rest, 0.5 * theta * phi, rho, -rho / phi, Math.sqrt(rest) / phi];
}

const MAX_RHO = 0.995;
const STEPS = 40;
const LEAST_THETA = 1e-12;
const LEAST_PHI = 1e-6;

/** Onto the parameters of theorem 4.2. */
function project({ theta, rho, phi }: Natural): Natural {
  const held = Math.max(theta, LEAST_THETA);
  const tilt = Math.max(-MAX_RHO, Math.min(MAX_RHO, rho));
  const size = held * (1 + Math.abs(tilt));
  const most = Math.min(3.96 / size, 2 / Math.sqrt(size));
  return { theta: held, rho: tilt, phi: Math.max(LEAST_PHI, Math.min(most, phi)) };
}

/** Level from the points nearest to the forward, tilt from a line through the near ones. */
function guess(points: FitPoints): Natural {
  const { k, vol, unit, years, count } = points;
  let sw = 0;
  let sk = 0;
  let sv = 0;
  let skk = 0;
  let skv = 0;
  for (let i = 0; i < count; i++) {
    const x = k[i]!;
    const z = x / (vol[i]! * Math.sqrt(years));
    const weight = Math.exp(-z * z) / unit[i]! ** 2 + 1e-9;
    sw += weight;
    sk += weight * x;
    sv += weight * vol[i]!;
    skk += weight * x * x;
    skv += weight * x * vol[i]!;
  }
  const spread = sw * skk - sk * sk;
  const slope = spread > 1e-14 * sw * sw ? (sw * skv - sk * sv) / spread : 0;
  const level = Math.max((sv - slope * sk) / sw, (0.2 * sv) / sw);
  const theta = level * level * years;
  const phi = 1 / Math.sqrt(theta);
  return project({ theta, rho: Math.max(-0.9, Math.min(0.9, (2 * slope * level * years) / (theta * phi))), phi });
}

/** Vol of the points nearest to the forward, weighted: what one to three points say. */
export function levelOf(points: FitPoints): number {
  let sum = 0;
  let all = 0;
  for (let i = 0; i < points.count; i++) {
    const z = points.k[i]! / (points.vol[i]! * Math.sqrt(points.years));
    const weight = Math.exp(-z * z) / points.unit[i]! ** 2 + 1e-9;
    sum += weight * points.vol[i]!;
    all += weight;
  }
  return sum / all;
}

/** Normal equations: the six sums of the matrix, the three of the right side. */
const SUMS = new Float64Array(9);

/**
 * Fits the three parameters by Levenberg–Marquardt in vol, with the weights of the points and Huber's against outliers;
 * every step is projected onto what is free of arbitrage.
 */
export function fitNatural(points: FitPoints): Natural {
  let best = guess(points);
  let bestLoss = lossOfNatural(points, best);
  let damping = 1e-3;
  for (let step = 0; step < STEPS; step++) {
    accumulate(points, best);
    let isImproved = false;
    for (let trial = 0; trial < 8 && !isImproved; trial++) {
      const candidate = project(stepped(best, damping));
      const loss = lossOfNatural(points, candidate);
      if (loss < bestLoss) {
        const gain = 1 - loss / bestLoss;
        best = candidate;
        bestLoss = loss;
        damping = Math.max(damping * 0.2, 1e-12);
        if (gain < 1e-8) return best;
        isImproved = true;
      } else damping *= 6;
    }
    if (!isImproved) return best;
  }
  return best;
}

function lossOfNatural(points: FitPoints, { theta, rho, phi }: Natural): number {
  return lossOf(points, (i) => {
    const x = phi * points.k[i]!;
    const u = x + rho;
    return Math.sqrt((0.5 * theta * (1 + rho * x + Math.sqrt(u * u + 1 - rho * rho))) / points.years);
  });
}

function accumulate({ k, vol, unit, years, count, huber }: FitPoints, { theta, rho, phi }: Natural): void {
  SUMS.fill(0);
  for (let i = 0; i < count; i++) {
    const x = k[i]!;
    const u = phi * x + rho;
    const root = Math.sqrt(u * u + 1 - rho * rho);
    const w = 0.5 * theta * (1 + rho * phi * x + root);
    const sigma = Math.sqrt(w / years);
    const scale = 1 / unit[i]!;
    const miss = (sigma - vol[i]!) * scale;
    const weight = Math.abs(miss) <= huber ? 1 : huber / Math.abs(miss);
    const chain = scale / (2 * years * sigma);
    const a = (chain * w) / theta;
    const b = chain * 0.5 * theta * phi * x * (1 + 1 / root);
    const c = chain * 0.5 * theta * (rho * x + (x * u) / root);
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
function stepped(from: Natural, damping: number): Natural {
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
  if (!(Math.abs(determinant) > 0)) return from;
  return {
    theta: from.theta + (m00 * ra + m01 * rb + m02 * rc) / determinant,
    rho: from.rho + (m01 * ra + m11 * rb + m12 * rc) / determinant,
    phi: from.phi + (m02 * ra + m12 * rb + m22 * rc) / determinant,
  };
}
