import { DAYS_PER_YEAR } from './model';

/** What a method says of a contract without moving it; theta, in years, follows from the Black–Scholes equation. */
export type Nodes = readonly [price: number, delta: number, gamma: number, thetaPerYear: number];

/** Derivatives of what a method says to one of the inputs. */
export interface Along {
  slope: (of: 0 | 1 | 2 | 3) => number;
  bend: (of: 0 | 3) => number;
}

/**
 * First and second derivatives by central differences of the fourth order.
 *
 * @param here what is said at x itself
 */
export function along(at: (x: number) => Nodes, x: number, step: number, here: Nodes): Along {
  const [a, b, c, d] = [at(x - 2 * step), at(x - step), at(x + step), at(x + 2 * step)];
  return {
    slope: (k) => (8 * (c[k] - b[k]) - (d[k] - a[k])) / (12 * step),
    bend: (k) => (16 * (b[k] + c[k]) - a[k] - d[k] - 30 * here[k]) / (12 * step * step),
  };
}

/**
 * All Greeks in the units of the conventions, from what vol and spot do to price, delta, gamma and theta. A day takes from
 * delta, gamma and vega what spot and vol add to theta, so that no contract of another life is needed.
 *
 * @param rho ∂V/∂r
 */
export function greeksOf([price, delta, gamma, theta]: Nodes, byVol: Along, bySpot: Along, rho: number) {
  return {
    price,
    delta,
    gamma,
    theta: theta / DAYS_PER_YEAR,
    vega: byVol.slope(0) * 0.01,
    rho: rho * 0.01,
    vanna: byVol.slope(1) * 0.01,
    volga: byVol.bend(0) * 1e-4,
    charm: bySpot.slope(3) / DAYS_PER_YEAR,
    speed: bySpot.slope(2),
    color: bySpot.bend(3) / DAYS_PER_YEAR,
    veta: (byVol.slope(3) * 0.01) / DAYS_PER_YEAR,
    zomma: byVol.slope(2) * 0.01,
  };
}
