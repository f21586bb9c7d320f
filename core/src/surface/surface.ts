import { INV_SQRT_2PI, normalCdf } from '../distributions';
import { curveAt, type Curve } from './curve';
import { shareOf, stretchesOf, type Stretch } from './event-clock';
import { densityFactor, type VarianceAt } from './svi';

/** The curves of an underlying with the time between them. */
export interface Surface {
  /** Ascending in years, none crossing another. */
  readonly curves: readonly Curve[];
  readonly stretches: readonly Stretch[];
}

/**
 * A surface of curves.
 *
 * @param curves without calendar arbitrage, in any order
 * @param events moments in years from now that carry variance of their own
 */
export function surfaceOf(curves: readonly Curve[], events: readonly number[] = []): Surface {
  const sorted = curves.toSorted((a, b) => a.years - b.years);
  const point: VarianceAt = { w: 0, slope: 0, curvature: 0 };
  const points = sorted.map((curve) => ({ years: curve.years, variance: curveAt(curve, 0, point).w }));
  return { curves: sorted, stretches: stretchesOf(points, events) };
}

/**
 * Total variance and its derivatives at a log-moneyness and a time.
 *
 * Between two expiries linear in total variance at each log-moneyness, by the share of the variance at the forward that has
 * passed: time as it passes with events. Before the first expiry that same share of its variance; after the last its vols,
 * so total variance grows with time. Variance never falls with time, so there is no calendar arbitrage between expiries
 * either, nor butterfly arbitrage before the first.
 *
 * @throws RangeError without a curve
 */
export function surfaceAt({ curves, stretches }: Surface, k: number, years: number, out: VarianceAt): VarianceAt {
  const last = curves.at(-1);
  if (!last) throw new RangeError('a surface needs a curve');
  if (years >= last.years) return scaled(curveAt(last, k, out), years / last.years);
  const at = curves.findIndex((curve) => years < curve.years);
  const share = shareOf(stretches[at]!, years);
  curveAt(curves[at]!, k, out);
  if (at === 0) return scaled(out, share);
  const { w, slope, curvature } = out;
  curveAt(curves[at - 1]!, k, out);
  out.w += share * (w - out.w);
  out.slope += share * (slope - out.slope);
  out.curvature += share * (curvature - out.curvature);
  return out;
}

function scaled(out: VarianceAt, factor: number): VarianceAt {
  out.w *= factor;
  out.slope *= factor;
  out.curvature *= factor;
  return out;
}

const POINT: VarianceAt = { w: 0, slope: 0, curvature: 0 };

/** Vol at a log-moneyness and a time, a decimal. */
export function surfaceVol(surface: Surface, k: number, years: number): number {
  return Math.sqrt(surfaceAt(surface, k, years, POINT).w / years);
}

/**
 * Density of ln(S_T/F): p(k) = g(k)/√(2πw)·e^(−d₂²/2) (Gatheral and Jacquier 2014, equation 2.2).
 *
 * @param at total variance with its derivatives at k
 */
export function logDensity(at: VarianceAt, k: number): number {
  const s = Math.sqrt(at.w);
  const d2 = -k / s - 0.5 * s;
  return ((densityFactor(at, k) * INV_SQRT_2PI) / s) * Math.exp(-0.5 * d2 * d2);
}

/** Probability of ending under k: N(−d₂) with what the slope of the curve adds. */
export function logCumulative({ w, slope }: VarianceAt, k: number): number {
  const s = Math.sqrt(w);
  const d2 = -k / s - 0.5 * s;
  return normalCdf(-d2) + INV_SQRT_2PI * Math.exp(-0.5 * d2 * d2) * (slope / (2 * s));
}
