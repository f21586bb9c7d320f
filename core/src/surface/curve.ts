/**
 * The fitted curve of one expiry as total variance w over log-moneyness k = ln(K/F):
 *
 *   w(k) = θ/2 · (1 + ρφk + √((φk + ρ)² + 1 − ρ²))
 *
 * the slice of J. Gatheral and A. Jacquier, "Arbitrage-free SVI volatility surfaces" (2014), section 4:
 * θ the total variance at the forward, ρ the tilt, φ the curvature. It has no butterfly arbitrage where
 * θφ(1 + |ρ|) < 4 and θφ²(1 + |ρ|) ≤ 4 (their theorem 4.2). `flat` is θ alone, for expiries with too few
 * points to say more.
 */
export interface Curve {
  readonly kind: 'ssvi' | 'flat';
  readonly years: number;
  readonly forward: number;
  readonly theta: number;
  readonly rho: number;
  readonly phi: number;
}

/** Total variance σ²T at log-moneyness k. */
export function curveVariance(curve: Curve, k: number): number {
  const { theta, rho, phi } = curve;
  const u = phi * k + rho;
  return 0.5 * theta * (1 + rho * phi * k + Math.sqrt(u * u + 1 - rho * rho));
}

/** Volatility at log-moneyness k, a decimal per √year. */
export function curveVol(curve: Curve, k: number): number {
  return Math.sqrt(curveVariance(curve, k) / curve.years);
}

/** Slope of the volatility, ∂σ/∂k. */
export function curveSlope(curve: Curve, k: number): number {
  return varianceSlope(curve, k) / (2 * curve.years * curveVol(curve, k));
}

function varianceSlope({ theta, rho, phi }: Curve, k: number): number {
  const u = phi * k + rho;
  return 0.5 * theta * phi * (rho + u / Math.sqrt(u * u + 1 - rho * rho));
}

/**
 * Durrleman's g(k): the density of ln S_T is a positive multiple of it, so a negative value is a
 * butterfly arbitrage (Gatheral and Jacquier 2014, equation 2.1).
 */
export function curveDensityFactor(curve: Curve, k: number): number {
  const { theta, rho, phi } = curve;
  const w = curveVariance(curve, k);
  const slope = varianceSlope(curve, k);
  const u = phi * k + rho;
  const root = Math.sqrt(u * u + 1 - rho * rho);
  const bend = (0.5 * theta * phi * phi * (1 - rho * rho)) / (root * root * root);
  const first = 1 - (k * slope) / (2 * w);
  return first * first - 0.25 * slope * slope * (1 / w + 0.25) + 0.5 * bend;
}

/** Whether the parameters meet the sufficient conditions of theorem 4.2. */
export function isArbitrageFree({ theta, rho, phi }: Curve): boolean {
  const tilt = 1 + Math.abs(rho);
  return theta > 0 && theta * phi * tilt < 4 && theta * phi * phi * tilt <= 4 * (1 + 1e-12);
}
