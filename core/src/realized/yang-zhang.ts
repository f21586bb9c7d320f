/** Bars in order of time, one array per field, all positive. */
export interface BarColumns {
  readonly open: Float64Array;
  readonly high: Float64Array;
  readonly low: Float64Array;
  readonly close: Float64Array;
}

/**
 * Historical vol `yang-zhang` (D. Yang and Q. Zhang, "Drift-independent volatility estimation based on
 * high, low, open, and close prices", 2000): overnight variance + k · open-to-close variance +
 * (1 − k) · Rogers–Satchell variance, with k = 0.34/(1.34 + (n + 1)/(n − 1)). Both variances are sample
 * variances (n − 1); the overnight return needs the close before, so n returns need n + 1 bars.
 *
 * @param bars the bars
 * @param window n, at least 2
 * @param periodsPerYear bars in a year
 * @returns one value per bar, NaN until the window is full
 */
export function yangZhangVol(bars: BarColumns, window: number, periodsPerYear = 252): Float64Array {
  const { open, high, low, close } = bars;
  const count = close.length;
  const out = new Float64Array(count).fill(NaN);
  const overnight = new Float64Array(count);
  const session = new Float64Array(count);
  const range = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    overnight[i] = i > 0 ? Math.log(open[i]! / close[i - 1]!) : NaN;
    const up = Math.log(high[i]! / open[i]!);
    const down = Math.log(low[i]! / open[i]!);
    const end = Math.log(close[i]! / open[i]!);
    session[i] = end;
    range[i] = up * (up - end) + down * (down - end);
  }
  const k = 0.34 / (1.34 + (window + 1) / (window - 1));
  for (let i = window; i < count; i++) {
    const variance =
      sampleVariance(overnight, i, window) + k * sampleVariance(session, i, window) + (1 - k) * mean(range, i, window);
    out[i] = Math.sqrt(variance * periodsPerYear);
  }
  return out;
}

function mean(values: Float64Array, last: number, window: number): number {
  let sum = 0;
  for (let j = last - window + 1; j <= last; j++) sum += values[j]!;
  return sum / window;
}

function sampleVariance(values: Float64Array, last: number, window: number): number {
  const centre = mean(values, last, window);
  let squares = 0;
  for (let j = last - window + 1; j <= last; j++) squares += (values[j]! - centre) ** 2;
  return squares / (window - 1);
}
