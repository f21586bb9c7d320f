import { closeVol, lastOfSessions, rankOf, sessionClose, yangZhangVol, type Calendar, type Rank } from '@umwelt/core';

/** Historical vols that are kept beside the bars: estimator and window. */
export const HISTORICAL_VOLS = ['close', 'yz'].flatMap((estimator) =>
  [10, 20, 60].map((window) => ({ name: `hv${window}.${estimator}`, estimator, window })),
);

export interface Bar {
  date: string;
  open: number;
  high: number;
  low: number;
  close: number;
  volume: number | null;
}

/** A historical vol by bar: the value on the day of a bar counts that bar; NaN until the window is full. */
export function historicalVol(bars: readonly Bar[], estimator: string, window: number): Float64Array {
  const column = (field: 'open' | 'high' | 'low' | 'close') => Float64Array.from(bars, (bar) => bar[field]);
  if (estimator === 'close') return closeVol(column('close'), window);
  return yangZhangVol(
    { open: column('open'), high: column('high'), low: column('low'), close: column('close') },
    window,
  );
}

/**
 * How many bars are over at a moment: a bar counts once its session has closed, so that no measure knows
 * the rest of its own day.
 *
 * @param bars in order of time
 */
export function barsKnownAt(bars: readonly Pick<Bar, 'date'>[], calendar: Calendar, asof: number): number {
  let count = bars.length;
  while (count > 0 && sessionClose(calendar, bars[count - 1]!.date) > asof) count--;
  return count;
}

/** The last of the measures of each session, in order of time. */
export function bySession<T extends { asof: Date }>(calendar: Calendar, rows: readonly T[]): T[] {
  return lastOfSessions(calendar, rows, (row) => row.asof.getTime());
}

/** Rank and percentile of the last of a series of measures by session, over at most a year of sessions. */
export function rankOfMeasure<T extends { asof: Date }>(
  calendar: Calendar,
  rows: readonly T[],
  value: (row: T) => number | null,
): Rank | null {
  return rankOf(bySession(calendar, rows).map((row) => value(row) ?? NaN));
}
