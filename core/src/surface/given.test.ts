import { describe, expect, it } from 'vitest';
import { priceContract } from '../models';
import {
  curveVol,
  fitGiven,
  isArbitrageFree,
  isCrossed,
  naturalCurve,
  surfacePoint,
  type Curve,
  type GivenSlice,
} from '.';

const strikes = Array.from({ length: 25 }, (_, i) => 70 + 2.5 * i);
const slice = (years: number, forward: number, volAt: (strike: number) => number): GivenSlice => ({
  ...{ years, forward, strikes, vols: strikes.map(volAt) },
});
/** Raw SVI of J. Gatheral and A. Jacquier, "Arbitrage-free SVI volatility surfaces" (2014), section 3. */
const svi = (a: number, b: number, rho: number, m: number, sigma: number, years: number, forward: number) => {
  const curve: Curve = { kind: 'svi', years, forward, parameters: [a, b, rho, m, sigma] };
  return { curve, slice: slice(years, forward, (strike) => curveVol(curve, Math.log(strike / forward))) };
};

describe('a surface of given vols', () => {
  const near = svi(0.002, 0.05, -0.4, 0.01, 0.1, 0.25, 100);
  const far = svi(0.006, 0.08, -0.35, 0.02, 0.15, 0.75, 102);
  it('meets the vols of raw SVI to the last digits that count, and finds nothing wrong with them', () => {
    const { fits, calendarArbitrage } = fitGiven([far.slice, near.slice]);
    expect(fits.map(({ years }) => years)).toEqual([0.75, 0.25]);
    for (const { rmse, maxError, butterflyArbitrage, curve } of fits) {
      expect(rmse).toBeLessThan(1e-6);
      expect(maxError).toBeLessThan(5e-6);
      expect(butterflyArbitrage).toEqual([]);
      expect(isArbitrageFree(curve)).toBe(true);
    }
    expect(calendarArbitrage).toEqual([]);
  });
  it('a vol that stands out is a negative density around it, which the fit has not', () => {
    const vols = [...near.slice.vols];
    vols[12] = vols[12]! - 0.03;
    const { fits } = fitGiven([{ ...near.slice, vols }]);
    // The dip itself is a peak of density, which its neighbours pay for.
    expect(fits[0]!.butterflyArbitrage).toEqual([
      { from: strikes[10], to: strikes[12] },
      { from: strikes[12], to: strikes[14] },
    ]);
    expect(isArbitrageFree(fits[0]!.curve)).toBe(true);
    expect(fits[0]!.maxError).toBeGreaterThan(0.01);
    // What counts for nothing moves nothing.
    const weights = vols.map((_, i) => (i === 12 ? 1e-9 : 1));
    const weighted = fitGiven([{ ...near.slice, vols, weights }]).fits[0]!;
    expect(Math.abs(curveVol(weighted.curve, 0) - curveVol(near.curve, 0))).toBeLessThan(1e-5);
  });
  it('a nearer expiry with more variance is told, and made way for', () => {
    const over = slice(0.25, 100, () => 0.4);
    const under = slice(0.5, 100, () => 0.2);
    const { fits, calendarArbitrage } = fitGiven([over, under]);
    expect(calendarArbitrage).toEqual([{ nearYears: 0.25, farYears: 0.5 }]);
    expect(isCrossed(fits[0]!.curve, fits[1]!.curve)).toBe(false);
    // At the same share of the forward, whatever the forwards are: one that carries more is none.
    const carried = [0.25, 0.5].map((years) => {
      const forward = 100 * Math.exp(0.3 * years);
      return {
        years,
        forward,
        strikes: [0.8, 0.9, 1, 1.1, 1.2].map((x) => x * forward),
        vols: [0.3, 0.25, 0.2, 0.22, 0.25],
      };
    });
    expect(fitGiven(carried).calendarArbitrage).toEqual([]);
  });
  it('is linear in total variance at one share of the forward, and integrates to one', () => {
    const { surface } = fitGiven([near.slice, far.slice]);
    const years = 0.5;
    const forward = Math.sqrt(100 * 102);
    for (const x of [0.85, 1, 1.2]) {
      const w = [near, far].map(({ curve }) => curveVol(curve, Math.log(x)) ** 2 * curve.years);
      expect(surfacePoint(surface, years, x * forward).vol).toBeCloseTo(Math.sqrt((w[0]! + w[1]!) / 2 / years), 6);
    }
    expect(surfacePoint(surface, 0.1, 90).vol).toBeCloseTo(curveVol(near.curve, Math.log(0.9)), 6);
    expect(surfacePoint(surface, 2, 102).vol).toBeCloseTo(curveVol(far.curve, 0), 6);
    const step = 0.05;
    let [mass, mean] = [0, 0];
    for (let price = step / 2; price < 500; price += step) {
      const { density } = surfacePoint(surface, years, price);
      mass += density * step;
      mean += price * density * step;
    }
    expect(mass).toBeCloseTo(1, 4);
    expect(mean).toBeCloseTo(forward, 1);
  });
  it('density is the second difference of call prices (Breeden and Litzenberger 1978)', () => {
    const { surface } = fitGiven([near.slice]);
    const call = (strike: number) =>
      priceContract({
        ...{ model: 'black-76', side: 'call', forward: 100, strike, years: 0.25, rate: 0 },
        vol: surfacePoint(surface, 0.25, strike).vol,
      }).price;
    for (const strike of [85, 100, 112]) {
      const h = 0.05;
      const second = (call(strike + h) - 2 * call(strike) + call(strike - h)) / (h * h);
      expect(surfacePoint(surface, 0.25, strike).density).toBeCloseTo(second, 6);
    }
  });
  it('of few points is as simple as they are', () => {
    const one = fitGiven([{ years: 0.5, forward: 100, strikes: [100], vols: [0.2] }]);
    expect(one.fits[0]).toMatchObject({ curve: { kind: 'flat' }, butterflyArbitrage: [] });
    expect(one.fits[0]!.rmse).toBeCloseTo(0, 12);
    const five = naturalCurve({ theta: 0.02, rho: -0.5, phi: 6 }, 0.5, 100);
    const few = [80, 90, 100, 110, 120];
    const found = fitGiven([
      { years: 0.5, forward: 100, strikes: few, vols: few.map((strike) => curveVol(five, Math.log(strike / 100))) },
    ]);
    expect(found.fits[0]!.curve.kind).toBe('svi3');
    expect(found.fits[0]!.maxError).toBeLessThan(1e-5);
  });
});
