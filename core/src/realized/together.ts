/** How two series move together, by the values that both have. */
export interface Together {
  /** Pearson's correlation; NaN where fewer than three pairs are held, or one of them never moves. */
  correlation: number;
  /** Slope of the first on the second: what it moves by for each unit of the other. */
  slope: number;
  pairs: number;
}

/**
 * Correlation and slope of two aligned series, such as returns by session.
 *
 * @param values the one that is explained; NaN for what there is not
 * @param others of the same length
 */
export function togetherOf(values: ArrayLike<number>, others: ArrayLike<number>): Together {
  let pairs = 0;
  let sumX = 0;
  let sumY = 0;
  for (let i = 0; i < values.length; i++) {
    if (!Number.isFinite(values[i]!) || !Number.isFinite(others[i]!)) continue;
    pairs++;
    sumY += values[i]!;
    sumX += others[i]!;
  }
  const [meanX, meanY] = [sumX / pairs, sumY / pairs];
  let xx = 0;
  let yy = 0;
  let xy = 0;
  for (let i = 0; i < values.length; i++) {
    if (!Number.isFinite(values[i]!) || !Number.isFinite(others[i]!)) continue;
    const [x, y] = [others[i]! - meanX, values[i]! - meanY];
    xx += x * x;
    yy += y * y;
    xy += x * y;
  }
  // What rounding leaves of values that stand still is no movement.
  const moves = (squares: number, mean: number) => squares > pairs * (1e-12 * mean) ** 2;
  const isKnown = pairs >= 3 && moves(xx, meanX) && moves(yy, meanY);
  return {
    // Rounding alone carries a perfect one over its bounds.
    correlation: isKnown ? Math.max(-1, Math.min(1, xy / Math.sqrt(xx * yy))) : NaN,
    slope: isKnown ? xy / xx : NaN,
    pairs,
  };
}

/**
 * Beta by implied vols: the correlation of the past times the ratio of what is implied (D. French, J. Groth and J. Kolari,
 * "Current investor expectations and better betas", Journal of Portfolio Management, 1983, from memory).
 *
 * @param vol of the one
 * @param other of what it is held against
 * @example impliedBeta(0.6, 0.3, 0.2) // 0.9
 */
export function impliedBeta(correlation: number, vol: number, other: number): number {
  return other > 0 ? (correlation * vol) / other : NaN;
}

/** Values less those before them, of returns or of vols; NaN for the first, and where either is missing. */
export function changesOf(values: ArrayLike<number>): Float64Array {
  return Float64Array.from({ length: values.length }, (_, i) => (i === 0 ? NaN : values[i]! - values[i - 1]!));
}
