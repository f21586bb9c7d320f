/** What a curve is fitted to: out-of-the-money vols of one expiry, in any order. */
export interface CurvePoints {
  /** ln(K/F). */
  readonly logMoneyness: ArrayLike<number>;
  /** Implied vol at mid. */
  readonly vol: ArrayLike<number>;
  /** Half of the bid–ask distance in vol. */
  readonly halfSpread: ArrayLike<number>;
  readonly count: number;
}

/** Points as the fits take them. */
export interface FitPoints {
  /** Ascending. */
  readonly k: Float64Array;
  readonly vol: Float64Array;
  /** By what a miss is measured: half the spread, and a little. */
  readonly unit: Float64Array;
  readonly years: number;
  readonly count: number;
  /** Misses beyond so many units pull linearly, not quadratically (P. Huber, "Robust estimation of a location parameter", 1964). */
  readonly huber: number;
}

/** Added to each half spread, in vol: a quote is not known better than to its tick, however narrow it stands. */
const LEAST_UNIT = 0.0005;
const HUBER = 1.5;

/** Takes points for a fit: sorted, of several at one strike the last. */
export function fitPoints({ logMoneyness, vol, halfSpread, count }: CurvePoints, years: number): FitPoints {
  const order = Array.from({ length: count }, (_, i) => i)
    .filter((i) => vol[i]! > 0 && Number.isFinite(logMoneyness[i]!))
    .sort((i, j) => logMoneyness[i]! - logMoneyness[j]! || i - j)
    .filter((i, at, all) => at + 1 === all.length || logMoneyness[all[at + 1]!] !== logMoneyness[i]);
  const column = (values: ArrayLike<number>) => Float64Array.from(order, (i) => values[i]!);
  return {
    k: column(logMoneyness),
    vol: column(vol),
    unit: column(halfSpread).map((half) => (half > 0 ? half : 0) + LEAST_UNIT),
    years,
    count: order.length,
    huber: HUBER,
  };
}

/** A miss whose square is Huber's loss: for searches that know squares alone. */
export function softened(miss: number, huber: number): number {
  const far = Math.abs(miss);
  return far <= huber ? miss : Math.sign(miss) * Math.sqrt(2 * huber * far - huber * huber);
}

/** Huber's loss of vols, in units of the points. */
export function lossOf({ vol, unit, count, huber }: FitPoints, modelVol: (i: number) => number): number {
  let sum = 0;
  for (let i = 0; i < count; i++) {
    sum += 0.5 * softened((modelVol(i) - vol[i]!) / unit[i]!, huber) ** 2;
  }
  return sum;
}
