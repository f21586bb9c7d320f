import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { normalInverse } from '../distributions';
import { priceContract } from '../models';
import { oddsAbove } from '../odds';
import {
  callDelta,
  constantMaturityVol,
  curveDensityFactor,
  curveSlope,
  curveVariance,
  curveVol,
  deltaSkew,
  flatCurve,
  fitCurve,
  forwardVol,
  isArbitrageFree,
  logMoneynessAtDelta,
  naturalCurve,
  termState,
  type Curve,
} from '.';

interface Natural {
  theta: number;
  rho: number;
  phi: number;
  years: number;
}
const naturals = fc
  .record({
    years: fc.double({ min: 0.01, max: 2, noNaN: true }),
    vol: fc.double({ min: 0.05, max: 1.2, noNaN: true }),
    rho: fc.double({ min: -0.9, max: 0.9, noNaN: true }),
    share: fc.double({ min: 0.05, max: 0.95, noNaN: true }),
  })
  .map(({ years, vol, rho, share }): Natural => {
    const theta = vol * vol * years;
    const tilt = theta * (1 + Math.abs(rho));
    return { theta, rho, phi: share * Math.min(3.9 / tilt, 2 / Math.sqrt(tilt)), years };
  });
const curves = naturals.map((natural) => naturalCurve(natural, natural.years, 100));
const deviationOf = (curve: Curve) => Math.sqrt(curveVariance(curve, 0));

/** Points of a curve, n strikes out to a number of deviations on each side. */
function pointsOf(curve: Curve, n: number, reach = 2.5) {
  const logMoneyness = Array.from({ length: n }, (_, i) => deviationOf(curve) * reach * ((2 * i) / (n - 1) - 1));
  return {
    logMoneyness,
    vol: logMoneyness.map((k) => curveVol(curve, k)),
    halfSpread: logMoneyness.map(() => 0.003),
    count: n,
  };
}

describe('curve', () => {
  it('has its level at the forward and the slope that differences give', () => {
    fc.assert(
      fc.property(curves, fc.double({ min: -2, max: 2, noNaN: true }), (curve, z) => {
        expect(curveVol(curve, 0)).toBeCloseTo(deviationOf(curve) / Math.sqrt(curve.years), 12);
        const k = z * deviationOf(curve);
        const h = 1e-5 * deviationOf(curve);
        const difference = (curveVol(curve, k + h) - curveVol(curve, k - h)) / (2 * h);
        expect(Math.abs(curveSlope(curve, k) - difference)).toBeLessThan(1e-6 * (1 + Math.abs(difference)));
      }),
    );
  });

  it('the conditions of theorem 4.2 mean a density that is nowhere negative', () => {
    fc.assert(
      fc.property(curves, (curve) => {
        expect(isArbitrageFree(curve)).toBe(true);
        for (let z = -8; z <= 8; z += 0.05) {
          expect(curveDensityFactor(curve, z * deviationOf(curve))).toBeGreaterThanOrEqual(-1e-12);
        }
      }),
    );
  });

  it('outside them a butterfly arbitrage is seen', () => {
    const steep = naturalCurve({ theta: 0.01, rho: -0.9, phi: 60 }, 0.1, 100);
    expect(isArbitrageFree(steep)).toBe(false);
    const factors = Array.from({ length: 200 }, (_, i) => curveDensityFactor(steep, (i - 100) * 0.01));
    expect(Math.min(...factors)).toBeLessThan(0);
  });
});

describe('fit', () => {
  it('finds a noise-free curve again', () => {
    fc.assert(
      fc.property(curves, fc.integer({ min: 6, max: 60 }), (curve, n) => {
        const fit = fitCurve(pointsOf(curve, n), curve.years, 100)!;
        expect(fit.rmse).toBeLessThan(2e-6);
        expect(isArbitrageFree(fit.curve)).toBe(true);
      }),
      { numRuns: 300 },
    );
  });

  it('is hardly moved by a wrong-side outlier of 20 vol points', () => {
    const curve = naturalCurve({ theta: 0.004, rho: -0.5, phi: 12 }, 0.1, 100);
    const points = pointsOf(curve, 25);
    points.vol[5]! += 0.2;
    const fit = fitCurve(points, curve.years, 100)!;
    expect(Math.abs(curveVol(fit.curve, 0) - curveVol(curve, 0))).toBeLessThan(0.001);
  });

  it('answers arbitrary vols with a curve free of butterfly arbitrage', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0.02, max: 2, noNaN: true }), { minLength: 1, maxLength: 30 }), (vol) => {
        const logMoneyness = vol.map((_, i) => (i - vol.length / 2) * 0.03);
        const halfSpread = vol.map((_, i) => 0.001 * (1 + (i % 5)));
        const fit = fitCurve({ logMoneyness, vol, halfSpread, count: vol.length }, 0.2, 50)!;
        expect(curveVariance(fit.curve, 0)).toBeGreaterThan(0);
        expect(isArbitrageFree(fit.curve)).toBe(true);
        expect(fit.curve.kind).toBe(vol.length < 4 ? 'flat' : fit.curve.kind);
      }),
    );
  });

  it('does not exist without points', () => {
    expect(fitCurve({ logMoneyness: [], vol: [], halfSpread: [], count: 0 }, 1, 100)).toBeNull();
  });
});

describe('delta', () => {
  it('a flat curve has its 25-delta call where the closed form says, and no skew', () => {
    const flat = flatCurve(0.2, 0.25, 100);
    // ln(K/F) = σ²T/2 − σ√T·N⁻¹(Δ)
    expect(logMoneynessAtDelta(flat, 0.25)).toBeCloseTo(0.005 - 0.1 * normalInverse(0.25), 12);
    expect(deltaSkew(flat, 0.25)).toEqual({ callVol: 0.2, putVol: 0.2, riskReversal: 0, butterfly: 0 });
  });
  it('round trip, and the risk reversal rises with the tilt', () => {
    fc.assert(
      fc.property(naturals, fc.double({ min: 0.05, max: 0.95, noNaN: true }), (natural, delta) => {
        const curve = naturalCurve(natural, natural.years, 100);
        expect(callDelta(curve, logMoneynessAtDelta(curve, delta))).toBeCloseTo(delta, 10);
        // Its sign need not be the tilt's: both strikes lie σ²T/2 to the right of where they would be even.
        const tilt = Math.max(Math.abs(natural.rho), 0.001);
        const [up, down] = [tilt, -tilt].map(
          (rho) => deltaSkew(naturalCurve({ ...natural, rho }, natural.years, 100), 0.25).riskReversal,
        );
        expect(up).toBeGreaterThan(down!);
      }),
    );
  });
});

describe('term', () => {
  const points = [
    { years: 0.05, vol: 0.3 },
    { years: 0.15, vol: 0.25 },
    { years: 0.5, vol: 0.22 },
  ];
  it('constant maturity, by hand: total variance is linear between, vol flat outside', () => {
    // (0.09·0.05 + 0.0625·0.15)/2 = 0.0069375 at 0.1 years
    expect(constantMaturityVol(points, 0.1)).toBeCloseTo(Math.sqrt(0.0069375 / 0.1), 14);
    expect(constantMaturityVol(points, 0.01)).toBe(0.3);
    expect(constantMaturityVol(points, 2)).toBe(0.22);
    expect(constantMaturityVol(points, 0.15)).toBeCloseTo(0.25, 14);
    expect(constantMaturityVol([], 1)).toBeNaN();
  });
  it('forward vol adds up to the far variance, and negative variance is not hidden', () => {
    const between = forwardVol(points[0]!, points[1]!);
    expect(0.09 * 0.05 + between ** 2 * 0.1).toBeCloseTo(0.0625 * 0.15, 14);
    expect(forwardVol({ years: 0.1, vol: 0.5 }, { years: 0.11, vol: 0.3 })).toBeNaN();
  });
  it('states', () => {
    expect([0.006, -0.006, 0.005, NaN].map((slope) => termState(slope))).toEqual([
      'contango',
      'backwardation',
      'flat',
      'flat',
    ]);
  });
});

describe('odds and moves', () => {
  it('the odds of a curve are the slope of its call prices', () => {
    fc.assert(
      fc.property(curves, fc.double({ min: -2, max: 2, noNaN: true }), (curve, z) => {
        const k = z * deviationOf(curve);
        const call = (at: number) =>
          priceContract({
            model: 'black-76',
            side: 'call',
            forward: 100,
            strike: 100 * Math.exp(at),
            years: curve.years,
            rate: 0,
            vol: curveVol(curve, at),
          }).price;
        const h = 1e-4 * deviationOf(curve);
        const slope = -(call(k + h) - call(k - h)) / (100 * (Math.exp(k + h) - Math.exp(k - h)));
        const odds = oddsAbove(k, curveVol(curve, k), curveSlope(curve, k), curve.years);
        expect(Math.abs(odds - slope)).toBeLessThan(1e-6);
        expect(odds >= -1e-9 && odds <= 1 + 1e-9).toBe(true);
      }),
    );
  });
});
