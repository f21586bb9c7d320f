import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  borrowedCurve,
  curveAt,
  curveVol,
  flatCurve,
  isArbitrageFree,
  naturalCurve,
  PLAIN_BORROW,
  type BorrowTerms,
  type Curve,
} from '.';

const other = naturalCurve({ theta: 0.01, rho: -0.6, phi: 7 }, 0.25, 4000);
const mixture: Curve = {
  kind: 'mixture',
  years: 0.25,
  forward: 4000,
  parameters: [0.5, 0.9, 0.12, 0.5, 1.1, 0.08],
};
const own = { years: 0.25, forward: 402 };
const borrow = (terms: Partial<BorrowTerms>, from = other, to = own) =>
  borrowedCurve(from, to, { ...PLAIN_BORROW, ...terms });
const vols = (curve: Curve) => [-0.3, -0.1, 0, 0.05, 0.2].map((k) => curveVol(curve, k));

describe('a borrowed curve', () => {
  it('without adjustments has the vols of the other at the same share of the forward', () => {
    for (const from of [other, mixture])
      vols(borrow({}, from)).forEach((vol, i) => expect(vol).toBeCloseTo(vols(from)[i]!, 13));
    // Of another time it has the same vols, not the same variance.
    const longer = borrow({}, other, { years: 0.5, forward: 402 });
    expect(vols(longer)).toEqual(vols(borrow({})).map((vol) => expect.closeTo(vol, 13)));
  });

  it('at as many deviations is stretched with the root of time', () => {
    const longer = borrow({ map: 'standardized' }, other, { years: 1, forward: 402 });
    expect(curveVol(longer, 0.2)).toBeCloseTo(curveVol(other, 0.1), 13);
    expect(curveVol(longer, -0.4)).toBeCloseTo(curveVol(other, -0.2), 13);
  });

  it('by price stands where the other has its strike, by ratio and offset', () => {
    const shifted = borrow({ map: 'price', ratio: 10, offset: -15 });
    const at = (strike: number) => curveVol(shifted, Math.log(strike / 402));
    for (const strike of [350, 400, 440])
      expect(at(strike)).toBeCloseTo(curveVol(other, Math.log((10 * strike - 15) / 4000)), 13);
    // The ratio of the forwards without an offset is the same share of the forward.
    vols(borrow({ map: 'price' })).forEach((vol, i) => expect(vol).toBeCloseTo(vols(other)[i]!, 12));
  });

  it('is shifted, tilted and bent by what is said, by hand at one deviation', () => {
    const flat = flatCurve(0.2, 0.25, 100);
    const adjusted = borrow({ volShift: 0.02, slope: -0.01, curvature: 0.005 }, flat);
    // One deviation of the shifted vol; u = 1/√(1 + 1/9).
    const u = 1 / Math.sqrt(1 + 1 / 9);
    expect(curveVol(adjusted, 0.11)).toBeCloseTo(0.22 - 0.01 * u + 0.005 * u * u, 13);
    expect(curveVol(adjusted, -0.11)).toBeCloseTo(0.22 + 0.01 * u + 0.005 * u * u, 13);
    expect(curveVol(adjusted, 0)).toBeCloseTo(0.22, 13);
    // Far out the adjustments level off at three.
    expect(curveVol(adjusted, -50)).toBeCloseTo(0.22 + 0.03 + 0.045, 4);
  });

  it('has derivatives that agree with differences', () => {
    const range = (min: number, max: number) => fc.double({ min, max, noNaN: true });
    fc.assert(
      fc.property(
        fc.constantFrom('forward' as const, 'standardized' as const, 'price' as const),
        fc.constantFrom(other, mixture),
        range(-0.25, 0.25),
        range(-0.03, 0.05),
        range(-0.02, 0.02),
        range(-0.004, 0.01),
        range(-100, 100),
        (map, from, k, volShift, slope, curvature, offset) => {
          const curve = borrow({ map, volShift, slope, curvature, offset }, from, { years: 0.4, forward: 390 });
          const point = () => ({ w: 0, slope: 0, curvature: 0 });
          const h = 1e-4;
          const [low, here, high] = [k - h, k, k + h].map((x) => curveAt(curve, x, point()));
          fc.pre(here!.w > 1e-4);
          expect(here!.slope).toBeCloseTo((high!.w - low!.w) / (2 * h), 5);
          expect(here!.curvature).toBeCloseTo((high!.slope - low!.slope) / (2 * h), 4);
        },
      ),
    );
  });

  it('says whether what was made of it can be earned from', () => {
    expect(isArbitrageFree(borrow({}))).toBe(true);
    expect(isArbitrageFree(borrow({ volShift: 0.02 }))).toBe(true);
    expect(isArbitrageFree(borrow({ curvature: -0.2 }, flatCurve(0.3, 0.25, 100)))).toBe(false);
  });

  it('never falls to nothing, and is not lent on', () => {
    expect(curveVol(borrow({ volShift: -0.5 }), 0)).toBeCloseTo(0.001, 12);
    expect(() => borrow({}, borrow({}))).toThrow(RangeError);
    expect(() => borrow({ map: 'price', ratio: -1 })).toThrow(RangeError);
    expect(curveVol(borrow({ map: 'price', ratio: 10, offset: -4500 }), 0)).toBeGreaterThan(0);
  });
});
