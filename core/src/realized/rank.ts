/** Where the last value of a series stands in its lookback. Indices point into the series. */
export interface Rank {
  /** (now − low)/(high − low), 0…1; NaN when the lookback never moved. */
  rank: number;
  /** Share of the lookback's earlier sessions that were strictly lower, 0…1; NaN without any. */
  percentile: number;
  low: number;
  high: number;
  lowIndex: number;
  highIndex: number;
  /** Sessions in the lookback, the one in view included; fewer than asked for when fewer are held. */
  sessions: number;
}

/**
 * Rank and percentile of the last value of a series. Low and high count the last value; the percentile
 * counts the sessions before it. Values that are NaN are passed over.
 *
 * @param values in order of time
 * @param lookback sessions, the last one included
 * @param end after the last value, where there are more
 * @returns null when the last value does not exist
 * @example rankOf([10, 20, 15]).rank // 0.5
 */
export function rankOf(values: ArrayLike<number>, lookback = 252, end = values.length): Rank | null {
  const last = end - 1;
  const now = last >= 0 ? values[last]! : NaN;
  if (!Number.isFinite(now)) return null;
  let lowIndex = last;
  let highIndex = last;
  let low = now;
  let high = now;
  let sessions = 1;
  let lower = 0;
  const first = Math.max(0, last - lookback + 1);
  for (let i = last - 1; i >= first; i--) {
    const value = values[i]!;
    // The difference of what does not exist is no number.
    if (value - value !== 0) continue;
    sessions++;
    if (value < now) lower++;
    if (value < low) {
      low = value;
      lowIndex = i;
    } else if (value > high) {
      high = value;
      highIndex = i;
    }
  }
  return {
    rank: high > low ? (now - low) / (high - low) : NaN,
    percentile: sessions > 1 ? lower / (sessions - 1) : NaN,
    low,
    high,
    lowIndex,
    highIndex,
    sessions,
  };
}

/**
 * How many deviations the last value of a series is from the mean of its lookback, the last one counted; the deviation is
 * that of a sample. NaN where fewer than two values are held, or none moves.
 *
 * @param values in order of time, NaN passed over
 * @param end after the last value, where there are more
 */
export function zScoreOf(values: ArrayLike<number>, lookback = 252, end = values.length): number {
  const now = values[end - 1] ?? NaN;
  if (!Number.isFinite(now)) return NaN;
  const { mean, deviation } = momentsOf(values, Math.max(0, end - lookback), end);
  return deviation > 0 ? (now - mean) / deviation : NaN;
}

/** Mean and deviation of a sample of the values in a range that exist; NaN where there are too few. */
export function momentsOf(
  values: ArrayLike<number>,
  from = 0,
  to = values.length,
): { mean: number; deviation: number } {
  let count = 0;
  let sum = 0;
  for (let i = from; i < to; i++) {
    const value = values[i]!;
    if (value - value !== 0) continue;
    sum += value;
    count++;
  }
  const mean = sum / count;
  let squares = 0;
  for (let i = from; i < to; i++) {
    const away = values[i]! - mean;
    if (away - away === 0) squares += away * away;
  }
  return { mean, deviation: count > 1 ? Math.sqrt(squares / (count - 1)) : NaN };
}
