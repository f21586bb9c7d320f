import { leastSquares } from './least-squares';
import { softened, type FitPoints } from './points';
import {
  comparisonGrid,
  densityFactor,
  isWorthSomething,
  STEEPEST_WING,
  sviAt,
  type Svi,
  type VarianceAt,
} from './svi';

/** Where parameters make sense for the points at hand. */
export interface SviBox {
  readonly lowM: number;
  readonly highM: number;
  readonly leastSigma: number;
  readonly mostSigma: number;
}

/** The box of points: m may lie outside them by their span, σ between a share and some of it. */
export function boxOf({ k, count }: FitPoints): SviBox {
  const span = Math.max(k[count - 1]! - k[0]!, 1e-4);
  return { lowM: k[0]! - span, highM: k[count - 1]! + span, leastSigma: 0.02 * span, mostSigma: 5 * span };
}

export function isInBox([, b, rho, m, sigma]: Svi, { lowM, highM, leastSigma, mostSigma }: SviBox): boolean {
  return b > 0 && Math.abs(rho) < 1 && m >= lowM && m <= highM && sigma >= leastSigma && sigma <= mostSigma;
}

/** Misses of a constraint by so much of its unit weigh like one unit of the spread, growing from round to round. */
const PRESSURES = [100, 3000] as const;
/** What g is pressed over, so that the end is on the right side. */
const LEAST_FACTOR = 2e-3;
/** Where g is sampled, in asinh((k − m)/σ), and how finely the floor is. */
const SAMPLES = 60;
const REACH = 6;
const REACHED = Float64Array.from({ length: SAMPLES }, (_, i) => Math.sinh(REACH * ((2 * i) / (SAMPLES - 1) - 1)));
const FLOOR_SAMPLES = 61;
const STEPS = 12;
const MOST_RHO = 0.999;
const POINT: VarianceAt = { w: 0, slope: 0, curvature: 0 };

/**
 * Fits raw SVI in vol under the pressure of no butterfly arbitrage and of a floor (penalties that grow, as in
 * section 5.2 of Gatheral and Jacquier 2014). The result is near what they allow; the caller sees to the rest.
 *
 * @param floor total variances of a shorter expiry, which the slice may not go under
 */
export function constrainedSvi(points: FitPoints, start: Svi, floor?: (k: number) => number): Svi {
  const { k, vol, unit, years, count, huber } = points;
  const box = boxOf(points);
  const scale = Math.max(sviAt(start, 0, POINT).w, floor?.(0) ?? 0, 1e-10);
  const grid = comparisonGrid(scale, FLOOR_SAMPLES);
  const low = floor && grid.map((at) => (isWorthSomething(at, floor(at)) ? floor(at) : 0));
  const size = count + SAMPLES + (low ? FLOOR_SAMPLES : 0);
  let pressure: number = PRESSURES[0];
  const residuals = (x: Float64Array, out: Float64Array) => {
    const a = x[0]!;
    const b = x[1]!;
    const rho = x[2]!;
    const m = x[3]!;
    const sigma = x[4]!;
    for (let i = 0; i < count; i++) {
      const d = k[i]! - m;
      const w = a + b * (rho * d + Math.sqrt(d * d + sigma * sigma));
      out[i] = softened((Math.sqrt(Math.max(w, 0) / years) - vol[i]!) / unit[i]!, huber);
    }
    let at = count;
    for (let i = 0; i < SAMPLES; i++) {
      const here = m + sigma * REACHED[i]!;
      const short = LEAST_FACTOR - densityFactor(sviAt(x, here, POINT), here);
      out[at++] = short > 0 ? pressure * Math.min(short, 10) : 0;
    }
    for (let i = 0; low && i < FLOOR_SAMPLES; i++) {
      const under = low[i]! - sviAt(x, grid[i]!, POINT).w;
      out[at++] = under > 0 ? (pressure * under) / scale : 0;
    }
  };
  const x = Float64Array.from(start);
  for (const next of PRESSURES) {
    pressure = next;
    leastSquares(residuals, x, size, { steps: STEPS, project: (values) => putInBox(values, box) });
  }
  return Array.from(x) as unknown as Svi;
}

/** Puts parameters into their box, wings and variance included. */
function putInBox(x: Float64Array, { lowM, highM, leastSigma, mostSigma }: SviBox): void {
  const clamp = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);
  x[2] = clamp(x[2]!, -MOST_RHO, MOST_RHO);
  x[1] = clamp(x[1]!, 1e-10, STEEPEST_WING / (1 + Math.abs(x[2]!)));
  x[3] = clamp(x[3]!, lowM, highM);
  x[4] = clamp(x[4]!, leastSigma, mostSigma);
  const rest = x[1]! * x[4]! * Math.sqrt(1 - x[2]! * x[2]!);
  x[0] = Math.max(x[0]!, 1e-10 - rest);
}
