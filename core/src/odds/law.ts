import { countUpTo, INV_SQRT_2PI, normalCdf, normalDensity } from '../distributions';
import { curveAt, logCumulative, logDensity, type Curve, type VarianceAt } from '../surface';

/** Where the price may end: the law of k = ln(S_T/F). */
export interface Law {
  /** P(ln(S_T/F) ≤ k). */
  under(k: number): number;
  /** Density of ln(S_T/F), per unit of k. */
  density(k: number): number;
}

/**
 * The lognormal law of one vol: P(k) = N(k/s + s/2), so that the price ends at the forward on average.
 *
 * @param deviation s = σ√T; 0 is the forward for certain
 */
export function lognormalLaw(deviation: number): Law {
  if (!(deviation > 0)) {
    const isKnown = deviation === 0;
    // On the forward itself half of it, as the prices have it.
    return { under: (k) => (isKnown ? 0.5 + 0.5 * Math.sign(k) : NaN), density: () => NaN };
  }
  const z = (k: number) => k / deviation + 0.5 * deviation;
  return { under: (k) => normalCdf(z(k)), density: (k) => normalDensity(z(k)) / deviation };
}

/** The law that the fitted curve of an expiry implies: its slope and its curvature count (Breeden and Litzenberger 1978). */
export function curveLaw(curve: Curve): Law {
  const point: VarianceAt = { w: 0, slope: 0, curvature: 0 };
  return {
    // Nobody asks for more than ±∞ of a curve.
    under: (k) => (Number.isFinite(k) ? logCumulative(curveAt(curve, k, point), k) : Number(k > 0)),
    density: (k) => logDensity(curveAt(curve, k, point), k),
  };
}

/** So many quantiles of a large sample say what all of it does. */
const MOST_KERNELS = 2000;

/**
 * The law of a sample: what share of it lies under, and its density by a Gaussian kernel whose width is Silverman's
 * ("Density estimation for statistics and data analysis", 1986, equation 3.31).
 *
 * @param sorted values of k, ascending
 * @param independent how many of them are
 */
export function sampleLaw(sorted: Float64Array, independent = sorted.length): Law {
  const count = sorted.length;
  if (count < 2) return { under: () => NaN, density: () => NaN };
  const step = Math.max(1, count / MOST_KERNELS);
  const centres = Float64Array.from(
    { length: Math.floor(count / step) },
    (_, i) => sorted[Math.floor((i + 0.5) * step)]!,
  );
  const mean = sorted.reduce((sum, value) => sum + value, 0) / count;
  const deviation = Math.sqrt(sorted.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (count - 1));
  const quartile = (share: number) => sorted[Math.min(count - 1, Math.floor(share * count))]!;
  const spread = Math.min(deviation, (quartile(0.75) - quartile(0.25)) / 1.34) || deviation;
  const width = 0.9 * spread * Math.max(2, independent) ** -0.2;
  const scale = INV_SQRT_2PI / (centres.length * width);
  return {
    under: (k) => shareUnder(sorted, k),
    density: (k) => {
      let sum = 0;
      for (const centre of centres) sum += Math.exp(-0.5 * ((k - centre) / width) ** 2);
      return sum * scale;
    },
  };
}

/** The law of values in no order, where few levels are asked for: it counts, and has no density. */
export function countedLaw(values: Float64Array): Law {
  return {
    under: (k) => {
      let count = 0;
      for (let i = 0; i < values.length; i++) if (values[i]! <= k) count++;
      return count / values.length;
    },
    density: () => NaN,
  };
}

/** Share of ascending values that lie at or under another; NaN of none. */
export function shareUnder(sorted: Float64Array, value: number): number {
  return countUpTo(sorted, value) / sorted.length;
}

/** Log-moneyness of a level; −∞ at or under 0, where no lognormal price goes. */
const logOf = (level: number, forward: number) => (level > 0 ? Math.log(level / forward) : -Infinity);

/** P(S_T ≤ level). */
export function oddsUnder(law: Law, forward: number, level: number): number {
  return law.under(logOf(level, forward));
}

/** What lies between two levels; the outer ends of the first and the last zone are null. */
export interface Zone {
  from: number | null;
  to: number | null;
  probability: number;
}

/**
 * Odds that the price ends in each of the zones that levels cut the axis into: n levels make n + 1 zones, which sum to 1.
 *
 * @param levels in any order; twice the same makes an empty zone
 */
export function zoneOdds(law: Law, forward: number, levels: readonly number[]): Zone[] {
  const sorted = [...levels].sort((a, b) => a - b);
  const under = sorted.map((level) => oddsUnder(law, forward, level));
  return [...sorted, null].map((to, i) => ({
    from: sorted[i - 1] ?? null,
    to,
    probability: (under[i] ?? 1) - (i > 0 ? under[i - 1]! : 0),
  }));
}
