const MOST_PASSES = 100;

/**
 * Where a function that has different signs at two places is nothing: secants between them by the Illinois rule (M. Dowell and
 * P. Jarratt, "A modified regula falsi method", 1971).
 *
 * @param atA value at a, of another sign than `atB` at b
 * @param narrow how near it is found, as a share of the place or of 1
 */
export function rootBetween(
  gapAt: (x: number) => number,
  a: number,
  b: number,
  atA: number,
  atB: number,
  narrow = 1e-14,
): number {
  let [lo, hi, atLo, atHi] = [a, b, atA, atB];
  let side = 0;
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const next = (lo * atHi - hi * atLo) / (atHi - atLo);
    const at = gapAt(next);
    if (at === 0 || Math.abs(hi - lo) <= narrow * Math.max(1, Math.abs(next))) return next;
    if (at * atHi > 0) {
      if (Math.abs(next - hi) <= narrow * Math.max(1, Math.abs(next))) return next;
      [hi, atHi] = [next, at];
      if (side < 0) atLo *= 0.5;
      side = -1;
    } else {
      if (Math.abs(next - lo) <= narrow * Math.max(1, Math.abs(next))) return next;
      [lo, atLo] = [next, at];
      if (side > 0) atHi *= 0.5;
      side = 1;
    }
  }
  return 0.5 * (lo + hi);
}
