import { closeVol } from './close';
import { yangZhangVol, type BarColumns } from './yang-zhang';

/** Estimators of historical vol, by the names of docs/conventions.md. */
export const ESTIMATORS = ['close', 'close0', 'parkinson', 'garman-klass', 'rogers-satchell', 'yang-zhang'] as const;
export type Estimator = (typeof ESTIMATORS)[number];

/** Short names, as they stand in the names of series: hv20.yz. */
export const ESTIMATOR_CODES: Record<Estimator, string> = {
  close: 'close',
  close0: 'close0',
  parkinson: 'pk',
  'garman-klass': 'gk',
  'rogers-satchell': 'rs',
  'yang-zhang': 'yz',
};

/** Windows that are offered, in sessions. */
export const VOL_WINDOWS = [10, 20, 30, 60, 90, 252] as const;

/** Estimator and window of the name of a series; null where it is none. */
export function namedVol(name: string): { estimator: Estimator; window: number } | null {
  const [, sessions, code] = /^hv(\d{1,4})\.(\w+)$/.exec(name) ?? [];
  const estimator = ESTIMATORS.find((one) => ESTIMATOR_CODES[one] === code);
  const window = Number(sessions);
  return estimator && window >= 2 ? { estimator, window } : null;
}

/**
 * The square of what one bar adds, for estimators that average over bars without a mean: n bars, no close before the first
 * but for `close0`.
 */
const SQUARES: Record<Exclude<Estimator, 'close' | 'yang-zhang'>, (bars: BarColumns, i: number) => number> = {
  close0: ({ close }, i) => Math.log(close[i]! / close[i - 1]!) ** 2,
  // M. Parkinson, "The extreme value method for estimating the variance of the rate of return", 1980.
  parkinson: ({ high, low }, i) => Math.log(high[i]! / low[i]!) ** 2 / (4 * Math.LN2),
  // M. Garman and M. Klass, "On the estimation of security price volatilities from historical data", 1980, the practical form.
  'garman-klass': ({ open, high, low, close }, i) =>
    0.5 * Math.log(high[i]! / low[i]!) ** 2 - (2 * Math.LN2 - 1) * Math.log(close[i]! / open[i]!) ** 2,
  // L. Rogers and S. Satchell, "Estimating variance from high, low and closing prices", 1991.
  'rogers-satchell': ({ open, high, low, close }, i) =>
    Math.log(high[i]! / close[i]!) * Math.log(high[i]! / open[i]!) +
    Math.log(low[i]! / close[i]!) * Math.log(low[i]! / open[i]!),
};

/**
 * Bars that an estimator needs for a window: those with returns need the close before the first.
 *
 * @example barsNeeded('yang-zhang', 20) // 21
 */
export function barsNeeded(estimator: Estimator, window: number): number {
  return ['close', 'close0', 'yang-zhang'].includes(estimator) ? window + 1 : window;
}

/**
 * Historical vol by any estimator, rolling over the bars.
 *
 * @param bars in order of time; a bar with a missing price has no vol in the windows that hold it
 * @param window n bars or returns, at least 2
 * @param periodsPerYear bars in a year
 * @returns one value per bar, NaN until the window is full
 * @throws RangeError for a window under 2
 */
export function historicalVol(
  bars: BarColumns,
  estimator: Estimator,
  window: number,
  periodsPerYear = 252,
): Float64Array {
  if (!(window >= 2)) throw new RangeError('a window has at least two bars');
  if (estimator === 'close') return closeVol(bars.close, window, periodsPerYear);
  if (estimator === 'yang-zhang') return yangZhangVol(bars, window, periodsPerYear);
  const square = SQUARES[estimator];
  const count = bars.close.length;
  const squares = Float64Array.from({ length: count }, (_, i) =>
    i === 0 && estimator === 'close0' ? NaN : square(bars, i),
  );
  const out = new Float64Array(count).fill(NaN);
  for (let i = barsNeeded(estimator, window) - 1; i < count; i++) {
    let sum = 0;
    for (let j = i - window + 1; j <= i; j++) sum += squares[j]!;
    // Ranges of prices that were rounded may add up to a little less than nothing.
    out[i] = Math.sqrt((Math.max(0, sum) / window) * periodsPerYear);
  }
  return out;
}

/** Average absolute logarithmic move from close to close over the last n returns, as a share; NaN until there are n. */
export function averageMove(close: Float64Array, window: number): Float64Array {
  const out = new Float64Array(close.length).fill(NaN);
  for (let i = window; i < close.length; i++) {
    let sum = 0;
    for (let j = i - window + 1; j <= i; j++) sum += Math.abs(Math.log(close[j]! / close[j - 1]!));
    out[i] = sum / window;
  }
  return out;
}

/**
 * One deviation of a session that a vol of a year means: 16 % a year is 1.008 % a session.
 *
 * @example sessionMove(0.16) // 0.01008
 */
export function sessionMove(vol: number, sessionsPerYear = 252): number {
  return vol / Math.sqrt(sessionsPerYear);
}

/** What changes the price of a share without anybody having gained or lost by it. */
export interface Adjustment {
  /** The first day on which the price is without it. */
  exDate: string;
  /** A cash dividend in money, or a split in new shares for an old one. */
  kind: 'cash' | 'split';
  amount: number;
}

/**
 * Bars before each dividend and split brought to the footing of the last one, by factors: 1 − D/C for a dividend D after
 * the close C, 1/ratio for a split (common practice). Returns across an ex-date are then
 * those of somebody who held the share.
 *
 * @param dates of the bars, ascending
 */
export function adjustedBars(
  bars: BarColumns,
  dates: readonly string[],
  adjustments: readonly Adjustment[],
): BarColumns {
  const factor = new Float64Array(dates.length).fill(1);
  for (const { exDate, kind, amount } of adjustments) {
    const first = dates.findIndex((date) => date >= exDate);
    const end = first < 0 ? dates.length : first;
    const before = bars.close[end - 1];
    // What comes after the last bar, or went before the first, changes none.
    if (first < 0 || before === undefined) continue;
    const by = kind === 'split' ? 1 / amount : 1 - amount / before;
    if (!(by > 0)) continue;
    for (let i = 0; i < end; i++) factor[i]! *= by;
  }
  const of = (values: Float64Array) => values.map((value, i) => value * factor[i]!);
  return { open: of(bars.open), high: of(bars.high), low: of(bars.low), close: of(bars.close) };
}
