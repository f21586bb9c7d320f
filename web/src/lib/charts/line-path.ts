/**
 * A line as an SVG path: values scaled so that the lowest lies at the bottom and the highest at the top, with gaps
 * where there is none.
 *
 * @param values NaN for none
 * @param xs horizontal position of each value
 * @param range what lies at the bottom and at the top, where these are not its own lowest and highest
 */
export function linePath(
  values: readonly number[],
  xs: readonly number[],
  top: number,
  bottom: number,
  range?: readonly [low: number, high: number],
): string {
  const known = values.filter(Number.isFinite);
  const [low, high] = range ?? [Math.min(...known), Math.max(...known)];
  const span = high - low || 1;
  let isDrawing = false;
  return values
    .map((value, i) => {
      const command = isDrawing ? 'L' : 'M';
      isDrawing = Number.isFinite(value);
      return isDrawing
        ? `${command}${xs[i]!.toFixed(1)} ${(bottom - ((value - low) / span) * (bottom - top)).toFixed(1)}`
        : '';
    })
    .join('');
}
