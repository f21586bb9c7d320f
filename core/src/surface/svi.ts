/**
 * Raw SVI, the total variance of an expiry over log-moneyness k = ln(K/F):
 *
 *   w(k) = a + b(ρ(k − m) + √((k − m)² + σ²))
 *
 * (J. Gatheral and A. Jacquier, "Arbitrage-free SVI volatility surfaces", 2014, definition 3.1). Its wings are lines of
 * slope b(1 ± ρ).
 */
export type Svi = readonly [a: number, b: number, rho: number, m: number, sigma: number];

/** A total variance with its first two derivatives to k. */
export interface VarianceAt {
  w: number;
  slope: number;
  curvature: number;
}

/** Total variance and its derivatives at k, into `out`. */
export function sviAt(svi: ArrayLike<number>, k: number, out: VarianceAt): VarianceAt {
  // By index: taking an array apart by its iterator costs more than all that follows.
  const a = svi[0]!;
  const b = svi[1]!;
  const rho = svi[2]!;
  const sigma = svi[4]!;
  const x = k - svi[3]!;
  const z = Math.sqrt(x * x + sigma * sigma);
  out.w = a + b * (rho * x + z);
  out.slope = b * (rho + x / z);
  out.curvature = (b * sigma * sigma) / (z * z * z);
  return out;
}

/**
 * Durrleman's g(k): the density of ln S_T is a positive multiple of it, so a negative value is a butterfly arbitrage
 * (Gatheral and Jacquier 2014, equation 2.1).
 */
export function densityFactor({ w, slope, curvature }: VarianceAt, k: number): number {
  const first = 1 - (0.5 * k * slope) / w;
  return first * first - 0.25 * slope * slope * (1 / w + 0.25) + 0.5 * curvature;
}

/**
 * Wings may not be steeper: R. Lee, "The moment formula for implied volatility at extreme strikes" (2004), has 2 as the
 * bound; a little under it g stays positive far out.
 */
export const STEEPEST_WING = 1.98;

/** The lowest of a function and where: sampled, then by golden section around samples lower than their neighbours. */
export function lowestOf(of: (t: number) => number, from: number, to: number, samples: number, careful: number) {
  const step = (to - from) / (samples - 1);
  let [at, value] = [from, Infinity];
  let [before, here] = [Infinity, of(from)];
  for (let i = 0; i < samples; i++) {
    const after = i + 1 < samples ? of(from + (i + 1) * step) : Infinity;
    const t = from + i * step;
    if (here < value) [at, value] = [t, here];
    if (here <= before && here <= after && here < careful) {
      const found = goldenSection(of, Math.max(from, t - step), Math.min(to, t + step));
      if (found.value < value) ({ at, value } = found);
    }
    [before, here] = [here, after];
  }
  return { at, value };
}

const GOLDEN = 0.5 * (Math.sqrt(5) - 1);
const GOLDEN_STEPS = 24;

function goldenSection(of: (t: number) => number, from: number, to: number): { at: number; value: number } {
  let [lo, hi] = [from, to];
  let [a, b] = [hi - GOLDEN * (hi - lo), lo + GOLDEN * (hi - lo)];
  let [atA, atB] = [of(a), of(b)];
  for (let step = 0; step < GOLDEN_STEPS; step++) {
    if (atA < atB) {
      [hi, b, atB] = [b, a, atA];
      a = hi - GOLDEN * (hi - lo);
      atA = of(a);
    } else {
      [lo, a, atA] = [a, b, atB];
      b = lo + GOLDEN * (hi - lo);
      atB = of(b);
    }
  }
  return atA < atB ? { at: a, value: atA } : { at: b, value: atB };
}

/** As far out as g is looked at: beyond it follows its limit, which is positive for wings that are not too steep. */
const FAR = 1000;
/** Steps of asinh((k − m)/σ), in which a slice has one width everywhere. */
const STEP = 0.1;
/** Below this g is looked at between the samples. */
const CAREFUL = 0.05;
const POINT: VarianceAt = { w: 0, slope: 0, curvature: 0 };

/** The lowest density factor of a slice, and where; −∞ where its variance is not positive or a wing too steep. */
export function lowestDensityFactor(svi: Svi): { k: number; value: number } {
  const [a, b, rho, m, sigma] = svi;
  const isSound = a + b * sigma * Math.sqrt(1 - rho * rho) > 0 && b * (1 + Math.abs(rho)) <= STEEPEST_WING;
  if (!isSound) return { k: m, value: -Infinity };
  const reach = Math.asinh(FAR / sigma);
  const factor = (t: number) => {
    const k = m + sigma * Math.sinh(t);
    return densityFactor(sviAt(svi, k, POINT), k);
  };
  const { at, value } = lowestOf(factor, -reach, reach, Math.ceil((2 * reach) / STEP), CAREFUL);
  return { k: m + sigma * Math.sinh(at), value };
}

/** What rounding leaves of a g of 0. */
const ZERO = -1e-12;

/** Whether a slice is free of butterfly arbitrage. */
export function isButterflyFree(svi: Svi): boolean {
  const [, b, rho, , sigma] = svi;
  return b >= 0 && Math.abs(rho) < 1 && sigma > 0 && lowestDensityFactor(svi).value >= ZERO;
}

/**
 * The last of the slices from one that is well to one that is wished for that is well itself, by bisection on the line
 * between their parameters.
 */
export function lastWell(well: Svi, wished: Svi, isWell: (svi: Svi) => boolean): Svi {
  if (isWell(wished)) return wished;
  const between = (share: number): Svi => well.map((from, i) => from + share * (wished[i]! - from)) as unknown as Svi;
  let [lo, hi] = [0, 1];
  for (let step = 0; step < 20; step++) {
    const middle = 0.5 * (lo + hi);
    if (isWell(between(middle))) lo = middle;
    else hi = middle;
  }
  return between(lo);
}

/** A plain slice of a variance at the forward: where a search begins that has lost its way from elsewhere. */
export function plainSvi(variance: number): Svi {
  const root = Math.sqrt(variance);
  return [0.5 * variance, 0.5 * root, 0, 0, root];
}

/** As far as two slices are compared, in deviations. */
const COMPARED = 10;

/** A log-moneyness at which slices are compared, for t from −1 to 1: closer together where the quotes are. */
export function comparisonPoint(variance: number, t: number): number {
  return COMPARED * Math.sqrt(variance) * t * (0.2 + 0.8 * t * t);
}

export function comparisonGrid(variance: number, count: number): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => comparisonPoint(variance, (2 * i) / (count - 1) - 1));
}

/** Out of the money by more standard deviations than this an option costs less than 2e-8 of the forward. */
const WORTHLESS = 5.5;

/** Whether an out-of-the-money option at k with a total variance is worth anything that could be earned. */
export function isWorthSomething(k: number, variance: number): boolean {
  const s = Math.sqrt(variance);
  return Math.abs(k) < s * (WORTHLESS + 0.5 * s);
}
