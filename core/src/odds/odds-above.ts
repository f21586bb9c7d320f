import { normalCdf, normalDensity } from '../distributions';

/**
 * Risk-neutral P(S_T > K), −e^(rT)·∂C/∂K with the vol moving along its curve: N(d₂) − √T·n(d₂)·∂σ/∂k.
 * The second term is what N(d₂) alone leaves out (Breeden and Litzenberger, "Prices of state-contingent
 * claims implicit in option prices", 1978).
 *
 * @param k ln(K/F)
 * @param vol volatility at k
 * @param slope ∂σ/∂k at k; 0 for a flat vol
 * @example oddsAbove(0, 0.2, 0, 1) // 0.4602
 */
export function oddsAbove(k: number, vol: number, slope: number, years: number): number {
  const rootYears = Math.sqrt(years);
  const deviation = vol * rootYears;
  const d2 = -k / deviation - 0.5 * deviation;
  return normalCdf(d2) - rootYears * normalDensity(d2) * slope;
}
