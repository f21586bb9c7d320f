import { normalCdf, normalDensity } from '../distributions';
import { DAYS_PER_YEAR } from './model';
import { tailSlope } from './normalized';

/** Inputs of the normal model; `vol` is in price units per √year, forward and strike may be negative. */
export interface BachelierInput {
  sign: number;
  forward: number;
  strike: number;
  years: number;
  rate: number;
  vol: number;
}

/** So many deviations out the density is under the smallest double. */
const DENSITY_END = 40;

/**
 * Undiscounted price of the normal model (Bachelier 1900): w(F − K)N(wd) + s·n(d), d = (F − K)/s,
 * s = σ√T. Out of the money the two terms are joined so that no digits are lost.
 *
 * @param gain w(F − K), the undiscounted intrinsic value before it is floored
 * @param deviation s = σ√T in price units, zero allowed
 */
export function bachelierUndiscounted(gain: number, deviation: number): number {
  if (deviation === 0) return Math.max(gain, 0);
  const d = Math.abs(gain) / deviation;
  if (d > DENSITY_END) return Math.max(gain, 0);
  const outOfTheMoney = deviation * Math.sqrt(2 * Math.PI) * normalDensity(d) * tailSlope(d);
  return Math.max(gain, 0) + outOfTheMoney;
}

/**
 * Price and all Greeks of the normal model, in the units of the conventions (vega ∂V/∂σ ÷ 100, rho
 * holds the forward). At zero deviation gamma, vega and the Greeks built on them are zero away from the
 * forward; gamma, speed, color and zomma do not exist on it and are NaN.
 */
export function bachelierValues(input: BachelierInput) {
  const { sign, forward, strike, years, rate, vol } = input;
  const discount = Math.exp(-rate * years);
  const deviation = vol * Math.sqrt(years);
  const gain = sign * (forward - strike);
  const price = discount * bachelierUndiscounted(gain, deviation);
  const rho = -years * price * 0.01;
  if (deviation === 0) {
    const step = gain === 0 ? 0.5 : gain > 0 ? 1 : 0;
    const bent = gain === 0 ? NaN : 0;
    return {
      price,
      delta: sign * discount * step,
      gamma: bent,
      theta: (rate * price) / DAYS_PER_YEAR,
      vega: bent,
      rho,
      vanna: bent,
      volga: bent,
      charm: (rate * sign * discount * step) / DAYS_PER_YEAR,
      speed: bent,
      color: bent,
      veta: bent,
      zomma: bent,
      itm: step,
      touch: gain === 0 ? 1 : 0,
    };
  }
  const d = (forward - strike) / deviation;
  const bell = discount * normalDensity(d);
  const delta = sign * discount * normalCdf(sign * d);
  const gamma = bell / deviation;
  const vegaRaw = bell * Math.sqrt(years);
  const half = 1 / (2 * years);
  return {
    price,
    delta,
    gamma,
    theta: (rate * price - bell * vol * Math.sqrt(years) * half) / DAYS_PER_YEAR,
    vega: vegaRaw * 0.01,
    rho,
    vanna: ((-bell * d) / vol) * 0.01,
    volga: ((vegaRaw * d * d) / vol) * 1e-4,
    charm: (rate * delta + bell * d * half) / DAYS_PER_YEAR,
    speed: (-bell * d) / (deviation * deviation),
    color: (gamma * (rate + (1 - d * d) * half)) / DAYS_PER_YEAR,
    veta: (vegaRaw * 0.01 * (rate - (1 + d * d) * half)) / DAYS_PER_YEAR,
    zomma: ((gamma * (d * d - 1)) / vol) * 0.01,
    itm: normalCdf(sign * d),
    touch: Math.min(1, 2 * normalCdf(-Math.abs(d))),
  };
}
