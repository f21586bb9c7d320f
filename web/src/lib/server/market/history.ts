import {
  adjustedBars,
  ESTIMATOR_CODES,
  ESTIMATORS,
  historicalVol,
  lastOfSessions,
  namedVol,
  sessionClose,
  VOL_WINDOWS,
  type Adjustment,
  type BarColumns,
  type Calendar,
} from '@umwelt/core';

/** Names of the historical vols that can be asked for: estimator and window. */
export const HISTORICAL_VOLS = ESTIMATORS.flatMap((estimator) =>
  VOL_WINDOWS.map((window) => `hv${window}.${ESTIMATOR_CODES[estimator]}`),
);

export interface Bar {
  date: string;
  open: number;
  high: number;
  low: number;
  close: number;
  volume: number | null;
}

export function columnsOf(bars: readonly Bar[]): BarColumns {
  const column = (field: keyof BarColumns) => Float64Array.from(bars, (bar) => bar[field]);
  return { open: column('open'), high: column('high'), low: column('low'), close: column('close') };
}

/** Bars on the footing of the last one: without the steps of dividends and splits. */
export function adjusted(bars: readonly Bar[], adjustments: readonly Adjustment[]): Bar[] {
  const dates = bars.map(({ date }) => date);
  const { open, high, low, close } = adjustedBars(columnsOf(bars), dates, adjustments);
  return bars.map((bar, i) => ({ ...bar, open: open[i]!, high: high[i]!, low: low[i]!, close: close[i]! }));
}

/**
 * A historical vol by bar: the value on the day of a bar counts that bar; NaN until the window is full.
 *
 * @param bars adjusted
 * @param name of the vol: hv20.yz
 * @throws RangeError where there is no such vol
 */
export function volByBar(bars: readonly Bar[], name: string): Float64Array {
  const vol = namedVol(name);
  if (!vol) throw new RangeError(`there is no historical vol ${name}`);
  return historicalVol(columnsOf(bars), vol.estimator, vol.window);
}

/** The vol of the basis `realized`. */
export const USUAL_VOL = 'hv20.yz';

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
