import { INV_SQRT_2PI } from '../distributions';
import { bachelierUndiscounted } from '../models';

/**
 * Implied volatility of the normal model, in price units per √year: the out-of-the-money price is
 * inverted by Newton steps on its logarithm inside a bracket.
 *
 * @param price undiscounted price
 * @param gain w(F − K)
 * @param years time to expiry, positive
 * @returns NaN at or under intrinsic value
 */
export function impliedNormalVol(price: number, gain: number, years: number): number {
  const outOfTheMoney = price - Math.max(gain, 0);
  if (!(outOfTheMoney > 0 && outOfTheMoney < Infinity)) return NaN;
  const distance = -Math.abs(gain);
  // At the money the price is s/√(2π); elsewhere that is a lower bound of s.
  let lo = outOfTheMoney / INV_SQRT_2PI;
  if (distance === 0) return lo / Math.sqrt(years);
  let hi = Infinity;
  let s = lo + 0.5 * Math.abs(distance);
  for (let pass = 0; pass < 200; pass++) {
    const value = bachelierUndiscounted(distance, s);
    if (value > outOfTheMoney) hi = s;
    else lo = s;
    const d = distance / s;
    const vega = INV_SQRT_2PI * Math.exp(-0.5 * d * d);
    let next = s - (Math.log(value / outOfTheMoney) * value) / vega;
    if (!(next > lo && next < hi)) next = hi < Infinity ? 0.5 * (lo + hi) : 2 * s;
    const step = Math.abs(next - s);
    s = next;
    if (step <= 1e-15 * s || hi - lo <= 1e-15 * s) break;
  }
  return s / Math.sqrt(years);
}
