/** Points on (−1, 1) at which a smooth function is told by its values, descending: zeros of a Chebyshev polynomial. */
export function chebyshevPoints(count: number): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => Math.cos((Math.PI * (i + 0.5)) / count));
}

/** Coefficients of the polynomial through values at {@link chebyshevPoints}; the first counts half. */
export function chebyshevSeries(values: Float64Array): Float64Array {
  const count = values.length;
  return Float64Array.from(values, (_, j) => {
    let sum = 0;
    for (let i = 0; i < count; i++) sum += values[i]! * Math.cos((Math.PI * j * (i + 0.5)) / count);
    return (2 * sum) / count;
  });
}

/** Coefficients of the derivative of a series. */
export function chebyshevSlope(series: Float64Array): Float64Array {
  const count = series.length;
  const slope = new Float64Array(count);
  for (let j = count - 1; j > 0; j--) slope[j - 1] = (slope[j + 1] ?? 0) + 2 * j * series[j]!;
  return slope;
}

/** Value of a series at x on [−1, 1], by the recurrence of C. W. Clenshaw, "A note on the summation of Chebyshev series" (1955). */
export function chebyshevAt(series: Float64Array, x: number): number {
  let [ahead, further] = [0, 0];
  const twice = 2 * x;
  for (let j = series.length - 1; j > 0; j--) {
    const here = twice * ahead - further + series[j]!;
    further = ahead;
    ahead = here;
  }
  return x * ahead - further + 0.5 * series[0]!;
}
