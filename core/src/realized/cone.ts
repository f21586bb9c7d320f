import { quantileOf } from '../distributions';

/** Shares of the windows under the lines of a cone. */
export const CONE_SHARES = [0, 0.1, 0.25, 0.5, 0.75, 0.9, 1] as const;

/** What vols over one window were. Vols are decimals. */
export interface ConeSlice {
  window: number;
  /** At CONE_SHARES. */
  quantiles: number[];
  /** The same, spread about their mean by what overlapping windows hide. */
  corrected: number[];
  mean: number;
  /** The last one; NaN where it is not there. */
  now: number;
  /** Windows that are counted, which overlap. */
  count: number;
  /** Windows that would not. */
  independent: number;
}

/**
 * By how much the sample variance of n averages over overlapping windows of h falls short, as a factor that makes it good:
 * 1/(1 − h/n + (h² − 1)/(3n²)) (S. Hodges and R. Tompkins, "Volatility cones and their sampling properties", 2002, from
 * memory). With windows of one it is n/(n − 1).
 *
 * @param window h, at most n
 * @param count n
 * @returns NaN where fewer windows are held than one has sessions
 */
export function overlapFactor(window: number, count: number): number {
  if (count < window || count < 2) return NaN;
  return 1 / (1 - window / count + (window * window - 1) / (3 * count * count));
}

/**
 * Quantiles of a historical vol by window.
 *
 * @param vols rolling over the sessions, NaN for what there is not
 */
export function coneSlice(vols: ArrayLike<number>, window: number): ConeSlice {
  const held = Array.from(vols).filter(Number.isFinite);
  const mean = held.reduce((sum, vol) => sum + vol / held.length, 0);
  const sorted = held.toSorted((a, b) => a - b);
  const quantiles = CONE_SHARES.map((share) => quantileOf(sorted, share));
  const widen = Math.sqrt(overlapFactor(window, held.length));
  return {
    window,
    quantiles,
    corrected: quantiles.map((vol) => Math.max(0, mean + widen * (vol - mean))),
    mean: held.length > 0 ? mean : NaN,
    now: vols[vols.length - 1] ?? NaN,
    count: held.length,
    independent: Math.floor((held.length + window - 1) / window),
  };
}
