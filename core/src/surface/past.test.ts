import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { priceContract } from '../models';
import {
  callDelta,
  constantMaturityVol,
  deltaSkew,
  curveVol,
  flatCurve,
  leanOf,
  listedPair,
  logMoneynessAtDelta,
  maturityMeasures,
  naturalCurve,
  pairOn,
  pairStrikes,
  quantileRows,
  slopePerTenDelta,
  standardizedVols,
  surfaceOf,
  surfaceVol,
  termMeasures,
  timedMeasures,
} from '.';
import { quantileOf } from '../distributions';

const tilted = naturalCurve({ theta: 0.01, rho: -0.6, phi: 8 }, 0.25, 100);

describe('the slope of the skew', () => {
  it('is the vol over ten points of delta, in the limit', () => {
    const step = 1e-5;
    const middle = callDelta(tilted, 0);
    const vol = (delta: number) => curveVol(tilted, logMoneynessAtDelta(tilted, delta));
    const limit = (0.1 * (vol(middle - step) - vol(middle + step))) / (2 * step);
    expect(slopePerTenDelta(tilted)).toBeCloseTo(limit, 8);
    expect(slopePerTenDelta(tilted)).toBeLessThan(0);
  });

  it('is none on a level curve, and changes its sign with the curve', () => {
    expect(slopePerTenDelta(flatCurve(0.2, 0.5, 100))).toBeCloseTo(0, 15);
    const mirrored = naturalCurve({ theta: 0.01, rho: 0.6, phi: 8 }, 0.25, 100);
    expect(slopePerTenDelta(mirrored)).toBeGreaterThan(0);
  });

  it('leans where the risk reversal is over half a point', () => {
    expect([-0.0051, 0.0049, 0.0051, NaN].map((value) => leanOf(value))).toEqual([
      'put-rich',
      'even',
      'call-rich',
      'even',
    ]);
  });
});

describe('a pair either side of the forward', () => {
  it('finds the strikes that are listed, the forward itself being none', () => {
    const strikes = [90, 95, 100, 105, 110];
    expect(listedPair(strikes, 101, 1)).toEqual([100, 105]);
    expect(listedPair(strikes, 101, 2)).toEqual([95, 110]);
    expect(listedPair(strikes, 100, 1)).toEqual([95, 105]);
    expect(listedPair(strikes, 101, 3)).toBeNull();
    expect(listedPair(strikes, 89, 1)).toBeNull();
    expect(listedPair([], 100, 1)).toBeNull();
  });

  it('with one vol has the put–call symmetry of lognormal prices, c(F·x) = x·p(F/x)', () => {
    // P. Carr and J. Bowie, "Static simplicity", 1994: C(K)/√K = P(F²/K)/√(F²/K).
    const flat = flatCurve(0.25, 0.3, 80);
    const [put, call] = pairStrikes(flat, 'deviations', 1.2);
    expect(put * call).toBeCloseTo(6400, 9);
    const pair = pairOn(flat, 0.03, [put, call]);
    expect(pair.callPrice / pair.putPrice).toBeCloseTo(call / 80, 10);
    expect(pair.gap).toBeCloseTo(0, 14);
  });

  it('takes its vols and prices from the curve', () => {
    const strikes = pairStrikes(tilted, 'percent', 5);
    expect(strikes).toEqual([95, 105]);
    const pair = pairOn(tilted, 0.02, strikes);
    expect(pair.putVol).toBeCloseTo(curveVol(tilted, Math.log(0.95)), 14);
    const { price } = priceContract({
      model: 'black-76',
      side: 'put',
      forward: 100,
      strike: 95,
      years: 0.25,
      rate: 0.02,
      vol: pair.putVol,
    });
    expect(pair.putPrice).toBeCloseTo(price, 14);
    expect(pair.ratio).toBeCloseTo(pair.putPrice / pair.callPrice, 14);
    expect(pair.gap).toBeCloseTo(pair.putVol - pair.callVol, 15);
  });
});

describe('the past of a curve', () => {
  const z = [-2, -1, 0, 1, 2];
  it('reads a maturity between expiries at deviations of its own', () => {
    const surface = surfaceOf([tilted, naturalCurve({ theta: 0.025, rho: -0.5, phi: 5 }, 0.5, 100)]);
    const out = new Float64Array(5);
    expect(standardizedVols(surface, 0.25, z, out)).toBe(true);
    z.forEach((deviations, i) => expect(out[i]).toBeCloseTo(curveVol(tilted, deviations * 0.1), 12));
    standardizedVols(surface, 0.4, z, out);
    const atm = surfaceVol(surface, 0, 0.4);
    expect(out[1]).toBeCloseTo(surfaceVol(surface, -atm * Math.sqrt(0.4), 0.4), 14);
  });

  it('says nothing of maturities out of reach', () => {
    const out = new Float64Array(5);
    for (const years of [0.1, 0.3]) expect(standardizedVols(surfaceOf([tilted]), years, z, out)).toBe(false);
    expect([...out]).toEqual([NaN, NaN, NaN, NaN, NaN]);
    expect(standardizedVols(surfaceOf([]), 0.25, z, out)).toBe(false);
  });

  it('has quantiles between the order statistics, by hand', () => {
    const sorted = [1, 2, 4, 8, 16];
    expect([0, 0.25, 0.5, 0.9, 1].map((share) => quantileOf(sorted, share))).toEqual([1, 2, 4, 12.8, 16]);
    expect(quantileOf([], 0.5)).toBeNaN();
    expect(quantileOf([3], 0.95)).toBe(3);
  });

  it('takes quantiles by column, passing over what there is not', () => {
    const rows = [Float64Array.of(1, NaN), Float64Array.of(3, 5), Float64Array.of(2, NaN)];
    expect(quantileRows(rows, [0.5, 1]).map((row) => [...row])).toEqual([
      [2, 5],
      [3, 5],
    ]);
  });

  it('keeps quantiles in their order', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1 }), (values) => {
        const sorted = Float64Array.from(values).sort();
        const found = [0.05, 0.25, 0.5, 0.75, 0.95].map((share) => quantileOf(sorted, share));
        for (let i = 1; i < found.length; i++) expect(found[i]).toBeGreaterThanOrEqual(found[i - 1]! - 1e-9);
      }),
    );
  });
});

describe('measures along the expiries', () => {
  const expiryOf = (theta: number, phi: number, years: number) => {
    const curve = naturalCurve({ theta, rho: -0.5, phi }, years, 100);
    const [near, far] = [deltaSkew(curve, 0.25), deltaSkew(curve, 0.1)];
    return {
      years,
      curve,
      atmVol: curveVol(curve, 0),
      riskReversal25: near.riskReversal,
      butterfly25: near.butterfly,
      riskReversal10: far.riskReversal,
      butterfly10: far.butterfly,
    };
  };
  const expiries = [expiryOf(0.004, 10, 0.1), expiryOf(0.009, 7, 0.2), expiryOf(0.02, 5, 0.5)];

  it('at a listed time are those of its expiry', () => {
    const [, second] = expiries;
    const at = maturityMeasures(expiries, 0.2);
    for (const [name, value] of Object.entries(timedMeasures(second!)))
      expect(at[name as 'slope']).toBeCloseTo(value, 12);
  });

  it('between expiries take puts and calls by themselves', () => {
    const call = (one: (typeof expiries)[number]) => one.atmVol + one.butterfly25 + 0.5 * one.riskReversal25;
    const put = (one: (typeof expiries)[number]) => one.atmVol + one.butterfly25 - 0.5 * one.riskReversal25;
    const vol = (of: typeof call) =>
      constantMaturityVol(
        expiries.map((one) => ({ years: one.years, vol: of(one) })),
        0.3,
      );
    expect(maturityMeasures(expiries, 0.3).riskReversal25).toBeCloseTo(vol(call) - vol(put), 14);
    // Half way in time between the slopes of its neighbours, by thirds.
    const [, b, c] = expiries.map((one) => timedMeasures(one).slope);
    expect(maturityMeasures(expiries, 0.3).slope).toBeCloseTo(b! + (c! - b!) / 3, 12);
    expect(maturityMeasures(expiries, 9).slope).toBe(c);
    expect(maturityMeasures([], 0.1).slope).toBeNaN();
  });

  it('tell what an event carries, by hand', () => {
    // 20 % throughout, and an event of five per cent before the second expiry.
    const flat = [0.1, 0.2, 0.3].map((years, i) => ({
      years,
      atmVol: Math.sqrt((0.04 * years + (i > 0 ? 0.0025 : 0)) / years),
    }));
    const found = termMeasures(flat, [0.15]);
    expect(found.map(({ eventMove }) => eventMove)).toEqual([NaN, expect.closeTo(0.05, 10), NaN]);
    for (const { ambientVol } of found) expect(ambientVol).toBeCloseTo(0.2, 10);
    expect(found[1]!.forwardVol).toBeCloseTo(Math.sqrt((0.004 + 0.0025) / 0.1), 10);
    // A series that settles hours after the second is told apart from the first too, whatever both are off by.
    const late = { years: 0.2 + 0.27 / 365, atmVol: flat[1]!.atmVol + 0.0002 };
    const four = termMeasures([flat[0]!, flat[1]!, late, flat[2]!], [0.15]);
    expect([four[0], four[1]]).toEqual(found.slice(0, 2));
    expect(four[3]!.ambientVol).toBeCloseTo(0.2, 10);
    expect(four[3]!.forwardVol).toBeCloseTo(0.2, 2);
    expect(four[2]!.forwardVol).toBeCloseTo(four[1]!.forwardVol, 3);
    expect(four[2]!.eventMove).toBeCloseTo(0.05, 2);
    expect(
      termMeasures(
        [
          { years: 0.1, atmVol: 0.3 },
          { years: 0.2, atmVol: 0.1 },
        ],
        [],
      )[1]!.forwardVol,
    ).toBeNaN();
  });
});
