import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import reference from '../../fixtures/reference.json';
import { exp, log, normalCdf, normalDensity, normalInverse } from '.';

const relative = (a: number, b: number) => Math.abs(a / b - 1);

describe('normal law', () => {
  it.each(reference.normal)('N($z) agrees with mpmath', ({ z, cdf }) => {
    expect(relative(normalCdf(z), cdf)).toBeLessThan(2e-15);
  });

  it.each(reference.inverse)('the quantile of $p agrees with mpmath', ({ p, z }) => {
    expect(Math.abs(normalInverse(p) - z)).toBeLessThanOrEqual(4e-16 * Math.max(1, Math.abs(z)));
  });

  it('has limits at the ends and refuses what is no probability', () => {
    expect([normalCdf(-Infinity), normalCdf(Infinity), normalCdf(50)]).toEqual([0, 1, 1]);
    expect(normalCdf(NaN)).toBeNaN();
    expect([normalInverse(0), normalInverse(1)]).toEqual([-Infinity, Infinity]);
    expect([normalInverse(-0.1), normalInverse(1.1), normalInverse(NaN)]).toEqual([NaN, NaN, NaN]);
  });

  it('is symmetric, and inverse and cdf undo each other', () => {
    fc.assert(
      fc.property(fc.double({ min: -8, max: 8, noNaN: true }), (z) => {
        expect(normalCdf(z) + normalCdf(-z)).toBeCloseTo(1, 15);
        // Above the middle 1 − p has lost digits, so the round trip is made on the lower tail.
        const lower = -Math.abs(z);
        const back = normalInverse(normalCdf(lower));
        expect(Math.abs(back - lower)).toBeLessThan(
          1e-14 * Math.max(1, Math.abs(lower)) + (1e-15 / normalDensity(lower)) * normalCdf(lower),
        );
      }),
    );
  });
});

describe('elementary functions of the hot loops', () => {
  it('exp and log agree with the platform to a few units in the last place', () => {
    fc.assert(
      fc.property(fc.double({ min: -700, max: 700, noNaN: true }), (x) => {
        expect(relative(exp(x), Math.exp(x))).toBeLessThan(5e-16);
      }),
    );
    fc.assert(
      fc.property(fc.double({ min: 1e-300, max: 1e300, noNaN: true }), (x) => {
        expect(Math.abs(log(x) - Math.log(x))).toBeLessThanOrEqual(5e-16 * Math.max(1e-2, Math.abs(Math.log(x))));
      }),
    );
  });
});
