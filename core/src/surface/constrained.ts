import { leastSquares } from './least-squares';
import { softened, softenedSlope, type FitPoints } from './points';
import { comparisonGrid, isWorthSomething, STEEPEST_WING, sviAt, type Svi, type VarianceAt } from './svi';

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
/** √(t² + 1) of each. */
const ROOTS = REACHED.map((t) => Math.hypot(t, 1));
/** What is further off is so by so much. */
const MOST_SHORT = 10;
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
  const box = boxOf(points);
  const pressed = new PressedMisses(points, start, floor);
  const x = Float64Array.from(start);
  for (const pressure of PRESSURES) {
    pressed.pressure = pressure;
    leastSquares((at, out) => pressed.residuals(at, out), x, pressed.count, {
      steps: STEPS,
      project: (values) => putInBox(values, box),
      slopesAt: (at, slopes) => pressed.slopes(at, slopes),
    });
  }
  return Array.from(x) as unknown as Svi;
}

/** What of a slice is to be small: misses of points, then what is short of no arbitrage, then what is under the floor. */
export class PressedMisses {
  pressure: number = PRESSURES[0];
  readonly count: number;
  private readonly grid: Float64Array;
  /** The floor where an option is worth something, 0 elsewhere. */
  private readonly low: Float64Array;
  private readonly scale: number;

  constructor(
    private readonly points: FitPoints,
    start: Svi,
    floor?: (k: number) => number,
  ) {
    this.scale = Math.max(sviAt(start, 0, POINT).w, floor?.(0) ?? 0, 1e-10);
    this.grid = floor ? comparisonGrid(this.scale, FLOOR_SAMPLES) : new Float64Array(0);
    this.low = this.grid.map((at) => (isWorthSomething(at, floor!(at)) ? floor!(at) : 0));
    this.count = points.count + SAMPLES + this.grid.length;
  }

  residuals(x: Float64Array, out: Float64Array): void {
    const { points, pressure, grid, low, scale } = this;
    const { k, vol, unit, years, count, huber } = points;
    const [a, b, rho, m, sigma] = [x[0]!, x[1]!, x[2]!, x[3]!, x[4]!];
    const square = sigma * sigma;
    for (let i = 0; i < count; i++) {
      const d = k[i]! - m;
      const w = a + b * (rho * d + Math.sqrt(d * d + square));
      out[i] = softened((Math.sqrt(Math.max(w, 0) / years) - vol[i]!) / unit[i]!, huber);
    }
    for (let i = 0; i < SAMPLES; i++) {
      const t = REACHED[i]!;
      const root = ROOTS[i]!;
      const at = m + sigma * t;
      const w = a + b * sigma * (rho * t + root);
      const slope = b * (rho + t / root);
      const first = 1 - (0.5 * at * slope) / w;
      const factor = first * first - 0.25 * slope * slope * (1 / w + 0.25) + (0.5 * b) / (sigma * root * root * root);
      const short = LEAST_FACTOR - factor;
      out[count + i] = short > 0 ? pressure * Math.min(short, MOST_SHORT) : 0;
    }
    for (let i = 0; i < grid.length; i++) {
      const d = grid[i]! - m;
      const under = low[i]! - (a + b * (rho * d + Math.sqrt(d * d + square)));
      out[count + SAMPLES + i] = under > 0 ? (pressure * under) / scale : 0;
    }
  }

  slopes(x: Float64Array, slopes: readonly Float64Array[]): void {
    const { points, pressure, grid, low, scale } = this;
    const { k, vol, unit, years, count, huber } = points;
    const [a, b, rho, m, sigma] = [x[0]!, x[1]!, x[2]!, x[3]!, x[4]!];
    const [byA, byB, byRho, byM, bySigma] = slopes as [
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
    ];
    /** Of a multiple of the total variance, at a distance from m. */
    const put = (i: number, times: number, d: number, z: number) => {
      byA[i] = times;
      byB[i] = times * (rho * d + z);
      byRho[i] = times * b * d;
      byM[i] = -times * b * (rho + d / z);
      bySigma[i] = (times * b * sigma) / z;
    };
    for (let i = 0; i < count; i++) {
      const d = k[i]! - m;
      const z = Math.sqrt(d * d + sigma * sigma);
      const model = Math.sqrt(Math.max(a + b * (rho * d + z), 0) / years);
      const outer = softenedSlope((model - vol[i]!) / unit[i]!, huber) / unit[i]!;
      put(i, model > 0 ? outer / (2 * model * years) : 0, d, z);
    }
    for (let i = 0; i < SAMPLES; i++) {
      const t = REACHED[i]!;
      const root = ROOTS[i]!;
      const at = m + sigma * t;
      const wide = rho * t + root;
      const w = a + b * sigma * wide;
      const lean = rho + t / root;
      const slope = b * lean;
      const bend = 1 / (sigma * root * root * root);
      const first = 1 - (0.5 * at * slope) / w;
      const short = LEAST_FACTOR - (first * first - 0.25 * slope * slope * (1 / w + 0.25) + 0.5 * b * bend);
      const times = short > 0 && short < MOST_SHORT ? -pressure : 0;
      // Of g by the variance, its slope, its curvature, and where it is looked at.
      const byW = times * ((first * at * slope) / (w * w) + (0.25 * slope * slope) / (w * w));
      const bySlope = times * (-(first * at) / w - 0.5 * slope * (1 / w + 0.25));
      const byCurvature = times * 0.5;
      const byPlace = (-times * first * slope) / w;
      const row = count + i;
      byA[row] = byW;
      byB[row] = byW * sigma * wide + bySlope * lean + byCurvature * bend;
      byRho[row] = byW * b * sigma * t + bySlope * b;
      byM[row] = byPlace;
      bySigma[row] = byW * b * wide - (byCurvature * b * bend) / sigma + byPlace * t;
    }
    for (let i = 0; i < grid.length; i++) {
      const d = grid[i]! - m;
      const z = Math.sqrt(d * d + sigma * sigma);
      put(count + SAMPLES + i, low[i]! > a + b * (rho * d + z) ? -pressure / scale : 0, d, z);
    }
  }
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
