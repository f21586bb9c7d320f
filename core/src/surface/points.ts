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
  const order: number[] = [];
  let isSorted = true;
  for (let i = 0; i < count; i++) {
    if (!(vol[i]! > 0 && Number.isFinite(logMoneyness[i]!))) continue;
    isSorted &&= order.length === 0 || logMoneyness[order.at(-1)!]! < logMoneyness[i]!;
    order.push(i);
  }
  const kept = isSorted ? order : withoutDoubles(order, logMoneyness);
  const points = {
    ...{ k: new Float64Array(kept.length), vol: new Float64Array(kept.length), unit: new Float64Array(kept.length) },
    ...{ years, count: kept.length, huber: HUBER },
  };
  for (let at = 0; at < kept.length; at++) {
    const i = kept[at]!;
    points.k[at] = logMoneyness[i]!;
    points.vol[at] = vol[i]!;
    points.unit[at] = (halfSpread[i]! > 0 ? halfSpread[i]! : 0) + LEAST_UNIT;
  }
  return points;
}

/** Positions in the order of their strikes, of several at one strike the last. */
function withoutDoubles(order: readonly number[], logMoneyness: ArrayLike<number>): number[] {
  return order
    .toSorted((i, j) => logMoneyness[i]! - logMoneyness[j]! || i - j)
    .filter((i, at, all) => at + 1 === all.length || logMoneyness[all[at + 1]!] !== logMoneyness[i]);
}

/** A miss whose square is Huber's loss: for searches that know squares alone. */
export function softened(miss: number, huber: number): number {
  const far = Math.abs(miss);
  return far <= huber ? miss : Math.sign(miss) * Math.sqrt(2 * huber * far - huber * huber);
}

/** By how much {@link softened} grows with the miss. */
export function softenedSlope(miss: number, huber: number): number {
  const far = Math.abs(miss);
  return far <= huber ? 1 : huber / Math.sqrt(2 * huber * far - huber * huber);
}

/** Huber's loss of vols, in units of the points. */
export function lossOf({ vol, unit, count, huber }: FitPoints, modelVol: (i: number) => number): number {
  let sum = 0;
  for (let i = 0; i < count; i++) {
    sum += 0.5 * softened((modelVol(i) - vol[i]!) / unit[i]!, huber) ** 2;
  }
  return sum;
}
