import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changesOf, impliedBeta, togetherOf } from '.';

const finite = fc.integer({ min: -1000, max: 1000 });

describe('series that move together', () => {
  it('by hand: Anscombe’s first set (F. Anscombe, "Graphs in statistical analysis", 1973)', () => {
    const x = [10, 8, 13, 9, 11, 14, 6, 4, 12, 7, 5];
    const y = [8.04, 6.95, 7.58, 8.81, 8.33, 9.96, 7.24, 4.26, 10.84, 4.82, 5.68];
    const { correlation, slope, pairs } = togetherOf(y, x);
    expect(correlation).toBeCloseTo(0.816, 3);
    expect(slope).toBeCloseTo(0.5, 3);
    expect(pairs).toBe(11);
  });
  it('pass over what either has not, and know nothing of too few or of what stands still', () => {
    expect(togetherOf([1, NaN, 2, 3, 9], [2, 5, 4, 6, NaN])).toEqual({ correlation: 1, slope: 0.5, pairs: 3 });
    expect(togetherOf([1, 2], [1, 2]).correlation).toBeNaN();
    for (const same of [5, 0.1, 0])
      expect(togetherOf([1, 2, 3], [same, same, same])).toMatchObject({ correlation: NaN, slope: NaN });
    expect(togetherOf([], []).pairs).toBe(0);
  });
  it('either way round, between −1 and 1, whatever the scale', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(finite, finite), { minLength: 3, maxLength: 40 }), (pairs) => {
        const [a, b] = [pairs.map(([one]) => one), pairs.map(([, two]) => two)];
        const { correlation, slope } = togetherOf(a, b);
        fc.pre(Number.isFinite(correlation) && Math.abs(slope) > 1e-6 && Math.abs(slope) < 1e6);
        expect(Math.abs(correlation)).toBeLessThanOrEqual(1);
        const back = togetherOf(b, a);
        expect(back.correlation).toBeCloseTo(correlation, 9);
        // The product of both slopes is the square of the correlation.
        expect(slope * back.slope).toBeCloseTo(correlation * correlation, 6);
        const scaled = togetherOf(
          a.map((value) => 3 - 2 * value),
          b,
        );
        expect(scaled.correlation).toBeCloseTo(-correlation, 6);
      }),
    );
  });
  it('have a beta by what is implied, which is the realized one where implied is realized', () => {
    expect(impliedBeta(0.6, 0.4, 0.2)).toBeCloseTo(1.2, 12);
    expect(impliedBeta(0.6, 0.4, 0)).toBeNaN();
    const [a, b] = [
      [0.01, -0.02, 0.015, 0.003],
      [0.004, -0.01, 0.012, -0.002],
    ];
    const deviation = (values: number[]) => {
      const mean = values.reduce((sum, one) => sum + one / values.length, 0);
      return Math.sqrt(values.reduce((sum, one) => sum + (one - mean) ** 2, 0));
    };
    const { correlation, slope } = togetherOf(a!, b!);
    expect(impliedBeta(correlation, deviation(a!), deviation(b!))).toBeCloseTo(slope, 12);
    expect([...changesOf([1, 3, NaN, 4])]).toEqual([NaN, 2, NaN, NaN]);
  });
});
