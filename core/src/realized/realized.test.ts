import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import reference from '../../fixtures/reference.json';
import { closeVol, rankOf, yangZhangVol } from '.';

const column = (values: readonly number[]) => Float64Array.from(values);

describe('historical vols', () => {
  it('close: Hull, Options, Futures, and Other Derivatives, table 15.1 (from memory): 19.3 % a year', () => {
    const prices = [
      20.0, 20.1, 19.9, 20.0, 20.5, 20.25, 20.9, 20.9, 20.9, 20.75, 20.75, 21.0, 21.1, 20.9, 20.9, 21.25, 21.4, 21.4,
      21.25, 21.75, 22.0,
    ];
    const vols = closeVol(column(prices), 20);
    expect(vols[20]! / Math.sqrt(252)).toBeCloseTo(0.01216, 5);
    expect(vols[20]).toBeCloseTo(0.193, 3);
    expect(vols.slice(0, 20).every(Number.isNaN)).toBe(true);
  });

  it('close, by hand: returns of +ln 2 and −ln 2 have a deviation of √2·ln 2', () => {
    expect(closeVol(column([1, 2, 1]), 2, 1)[2]).toBeCloseTo(Math.SQRT2 * Math.LN2, 14);
  });

  it('yang-zhang and close agree with mpmath on 14 bars', () => {
    const { bars, window, yangZhang, close } = reference.realized;
    const field = (name: 'open' | 'high' | 'low' | 'close') => column(bars.map((bar) => bar[name]));
    const columns = { open: field('open'), high: field('high'), low: field('low'), close: field('close') };
    expect(yangZhangVol(columns, window).at(-1)).toBeCloseTo(yangZhang, 13);
    expect(closeVol(columns.close, window).at(-1)).toBeCloseTo(close, 13);
    expect(yangZhangVol(columns, window)[window - 1]).toBeNaN();
  });

  it('yang-zhang, by hand: without any gap or range only the close-to-open returns count', () => {
    const price = column([1, 2, 1]);
    const bars = { open: price, high: price, low: price, close: price };
    expect(yangZhangVol(bars, 2, 1)[2]).toBeCloseTo(Math.SQRT2 * Math.LN2, 14);
  });

  it('scale with the root of the periods and ignore the level of the price', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -0.1, max: 0.1, noNaN: true }), { minLength: 12, maxLength: 30 }),
        (moves) => {
          let level = 10;
          const close = column(moves.map((move) => (level *= Math.exp(move))));
          const scaled = close.map((value) => value * 7);
          const daily = closeVol(close, 10, 252).at(-1)!;
          expect(closeVol(scaled, 10, 252).at(-1)!).toBeCloseTo(daily, 10);
          expect(closeVol(close, 10, 63).at(-1)!).toBeCloseTo(daily / 2, 10);
        },
      ),
    );
  });
});

describe('rank and percentile', () => {
  it('by hand', () => {
    const rank = rankOf([10, 30, 20, 25], 252)!;
    expect(rank).toEqual({ rank: 0.75, percentile: 2 / 3, low: 10, high: 30, lowIndex: 0, highIndex: 1, sessions: 4 });
  });
  it('the lookback ends with the session in view, and passes over gaps', () => {
    expect(rankOf([1, 99, 20, NaN, 25], 3)).toMatchObject({ low: 20, high: 25, rank: 1, percentile: 1, sessions: 2 });
  });
  it('equal values are not lower; a new extreme is 0 or 1; nothing moves: no rank', () => {
    expect(rankOf([5, 5, 6, 5])).toMatchObject({ percentile: 0, rank: 0 });
    expect(rankOf([5, 6, 7])).toMatchObject({ percentile: 1, rank: 1 });
    expect(rankOf([5])).toMatchObject({ rank: NaN, percentile: NaN, sessions: 1 });
    expect(rankOf([5, NaN])).toBeNull();
    expect(rankOf([])).toBeNull();
  });
});
