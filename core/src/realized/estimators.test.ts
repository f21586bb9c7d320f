import { describe, expect, it } from 'vitest';
import {
  adjustedBars,
  averageMove,
  barsNeeded,
  ESTIMATORS,
  historicalVol,
  sessionMove,
  type BarColumns,
  type Estimator,
} from '.';
import { gaussians } from './testing';

const column = (...values: number[]) => Float64Array.from(values);

describe('estimators, worked by hand', () => {
  const bars: BarColumns = {
    open: column(100, 102, 101),
    high: column(104, 103, 105),
    low: column(99, 100, 101),
    close: column(102, 101, 104),
  };
  const squares: Record<string, number> = {
    close0: Math.log(101 / 102) ** 2 + Math.log(104 / 101) ** 2,
    parkinson: (Math.log(103 / 100) ** 2 + Math.log(105 / 101) ** 2) / (4 * Math.log(2)),
    'garman-klass':
      0.5 * (Math.log(103 / 100) ** 2 + Math.log(105 / 101) ** 2) -
      (2 * Math.log(2) - 1) * (Math.log(101 / 102) ** 2 + Math.log(104 / 101) ** 2),
    'rogers-satchell':
      Math.log(103 / 101) * Math.log(103 / 102) +
      Math.log(100 / 101) * Math.log(100 / 102) +
      Math.log(105 / 104) * Math.log(105 / 101),
  };
  it.each(Object.entries(squares))('%s', (estimator, sum) => {
    const vol = historicalVol(bars, estimator as Estimator, 2, 252);
    expect(vol[2]).toBeCloseTo(Math.sqrt((252 * sum) / 2), 12);
    expect(vol[0]).toBeNaN();
  });
  it('need as many bars as docs/conventions.md says', () => {
    expect(ESTIMATORS.map((name) => barsNeeded(name, 10))).toEqual([11, 11, 10, 10, 10, 11]);
    for (const estimator of ESTIMATORS) {
      const first = historicalVol(bars, estimator, 2).findIndex(Number.isFinite);
      expect(first).toBe(barsNeeded(estimator, 2) - 1);
    }
    expect(() => historicalVol(bars, 'close', 1)).toThrow(RangeError);
  });
  it('a bar without a price has no vol in the windows that hold it, and none elsewhere is lost', () => {
    const holes = { ...bars, high: column(NaN, 103, 105) };
    expect(historicalVol(holes, 'parkinson', 2)[1]).toBeNaN();
    expect(historicalVol(holes, 'parkinson', 2)[2]).toBeCloseTo(historicalVol(bars, 'parkinson', 2)[2]!, 14);
  });
  it('the average move, and what a vol of a year means for a session', () => {
    expect(averageMove(bars.close, 2)[2]).toBeCloseTo((Math.log(102 / 101) + Math.log(104 / 101)) / 2, 14);
    expect(averageMove(bars.close, 2)[1]).toBeNaN();
    // The usual example: 16 % a year is 1.008 % a session.
    expect(100 * sessionMove(0.16)).toBeCloseTo(1.008, 3);
  });
});

describe('estimators on simulated Brownian paths', () => {
  const DAYS = 4000;
  const STEPS = 1500;
  const SIGMA = 0.2;
  const daily = SIGMA / Math.sqrt(252);
  const random = gaussians(11);
  const [open, high, low, close] = [0, 1, 2, 3].map(() => new Float64Array(DAYS)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  let level = 0;
  for (let day = 0; day < DAYS; day++) {
    let [most, least] = [level, level];
    open[day] = Math.exp(level);
    for (let step = 0; step < STEPS; step++) {
      level += (daily * random()) / Math.sqrt(STEPS);
      if (level > most) most = level;
      if (level < least) least = level;
    }
    [high[day], low[day], close[day]] = [Math.exp(most), Math.exp(least), Math.exp(level)];
    // The next day begins where this one ended: there is no night.
  }
  const bars = { open, high, low, close };
  /** Mean and variance of a square of single days, in units of the true one. */
  const moments = (square: (i: number) => number) => {
    const values = Float64Array.from({ length: DAYS - 1 }, (_, i) => square(i + 1) / daily ** 2);
    const mean = values.reduce((sum, value) => sum + value / values.length, 0);
    const variance = values.reduce((sum, value) => sum + (value - mean) ** 2 / values.length, 0);
    return { mean, variance };
  };
  const twice = (values: Float64Array, i: number) => column(values[i]!, values[i]!);
  /** What an estimator says of single days: a window of two days that are the same day is that day. */
  const ofDay = (estimator: 'parkinson' | 'garman-klass') =>
    moments((i) => {
      const day = { open: twice(open, i), high: twice(high, i), low: twice(low, i), close: twice(close, i) };
      return historicalVol(day, estimator, 2, 1)[1]! ** 2;
    });
  const base = moments((i) => Math.log(close[i]! / close[i - 1]!) ** 2);
  it.each([
    // Parkinson 1980: 5.2 times; Garman and Klass 1980: 7.4 times; both of continuous paths.
    ['parkinson', 5.2],
    ['garman-klass', 7.4],
  ] as const)('%s is as efficient against close to close as published', (estimator, efficiency) => {
    const { mean, variance } = ofDay(estimator);
    // A path of steps falls short of its true extremes by about 0.9 of a step's deviation at both ends.
    expect(mean).toBeGreaterThan(0.92);
    expect(mean).toBeLessThan(1.02);
    const found = base.variance / base.mean ** 2 / (variance / mean ** 2);
    expect(Math.abs(found / efficiency - 1)).toBeLessThan(0.12);
  });
  it('agree in the mean', () => {
    for (const estimator of ESTIMATORS) {
      const vols = historicalVol(bars, estimator, 250, 252).filter(Number.isFinite);
      const mean = vols.reduce((sum, vol) => sum + vol / vols.length, 0);
      expect(Math.abs(mean / SIGMA - 1), estimator).toBeLessThan(0.045);
    }
  });
});

describe('bars adjusted', () => {
  const dates = ['2031-01-06', '2031-01-07', '2031-01-08', '2031-01-09'];
  const price = column(100, 100, 98, 49.5);
  const bars = { open: price, high: price, low: price, close: price };
  it('for a dividend and a split: returns are those of somebody who held the share', () => {
    const { close } = adjustedBars(bars, dates, [
      { exDate: '2031-01-08', kind: 'cash', amount: 2 },
      { exDate: '2031-01-09', kind: 'split', amount: 2 },
    ]);
    const returns = [1, 2, 3].map((i) => close[i]! / close[i - 1]! - 1);
    // A fall by the dividend is none; after the split two shares of 49.5 stand for one of 98.
    expect(returns[0]).toBeCloseTo(0, 14);
    expect(returns[1]).toBeCloseTo(0, 14);
    expect(returns[2]).toBeCloseTo(99 / 98 - 1, 14);
    expect(close[3]).toBe(49.5);
  });
  it('not for what lies before the first bar, after the last one, or takes the whole price', () => {
    const same = adjustedBars(bars, dates, [
      { exDate: '2031-01-01', kind: 'cash', amount: 2 },
      { exDate: '2031-02-01', kind: 'split', amount: 2 },
      { exDate: '2031-01-07', kind: 'cash', amount: 100 },
    ]);
    expect([...same.close]).toEqual([...price]);
  });
});
