/**
 * A quantile by linear interpolation between order statistics (definition 7 of R. J. Hyndman and Y. Fan, "Sample quantiles
 * in statistical packages", 1996).
 *
 * @param sorted ascending, finite
 * @param share 0…1
 * @returns NaN of nothing
 * @example quantileOf([1, 2, 3, 4], 0.5) // 2.5
 */
export function quantileOf(sorted: ArrayLike<number>, share: number): number {
  if (sorted.length === 0) return NaN;
  const at = share * (sorted.length - 1);
  const below = Math.floor(at);
  const low = sorted[below]!;
  return low + (at - below) * ((sorted[below + 1] ?? low) - low);
}

/**
 * How many ascending values lie under a level, or on it.
 *
 * @param isUnder whether those on it do not count
 * @example countUpTo(Float64Array.of(1, 2, 2, 3), 2) // 3
 */
export function countUpTo(sorted: Float64Array, level: number, isUnder = false): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    const value = sorted[middle]!;
    if (value < level || (!isUnder && value === level)) low = middle + 1;
    else high = middle;
  }
  return low;
}
