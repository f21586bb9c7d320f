import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { normalCdf, normalInverse } from '../distributions';
import {
  curveAt,
  curveDensityFactor,
  curveUncertainty,
  curveVariance,
  curveVol,
  deltaSkew,
  fitCurve,
  fitCurveTo,
  fitPoints,
  fitRawSvi,
  flatCurve,
  isArbitrageFree,
  isCrossed,
  judged,
  lowestGap,
  naturalCurve,
  shapedLike,
  SVI_FIT,
  SVI_FIT_LENGTH,
  withoutCalendarArbitrage,
  type Curve,
  type CurvePoints,
} from '.';

const range = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const svi = (...parameters: number[]): Curve => ({ kind: 'svi', years: 1, forward: 100, parameters });

/** Raw SVI from its jump-wings form (Gatheral and Jacquier 2014, lemma 3.2), at one year. */
function ofJumpWings(v: number, psi: number, p: number, c: number, least: number): Curve {
  const root = Math.sqrt(v);
  const b = 0.5 * root * (c + p);
  const rho = 1 - (p * root) / b;
  const beta = rho - (2 * psi * root) / b;
  const alpha = Math.sign(beta) * Math.sqrt(1 / (beta * beta) - 1);
  const m =
    (v - least) / (b * (-rho + Math.sign(alpha) * Math.sqrt(1 + alpha * alpha) - alpha * Math.sqrt(1 - rho * rho)));
  const sigma = alpha * m;
  return svi(least - b * sigma * Math.sqrt(1 - rho * rho), b, rho, m, sigma);
}

/** Slices of raw SVI that are free of butterfly arbitrage, with more freedom than three parameters have. */
const slices = fc
  .record({
    vol: range(0.08, 0.9),
    years: range(0.02, 2),
    wing: range(0.1, 0.9),
    rho: range(-0.85, 0.6),
    shift: range(-0.5, 0.5),
    bend: range(0.3, 1.5),
  })
  .map(({ vol, years, wing, rho, shift, bend }): Curve => {
    const deviation = vol * Math.sqrt(years);
    const [b, m, sigma] = [wing * deviation, shift * deviation, bend * deviation];
    const a = deviation * deviation - b * (-rho * m + Math.sqrt(m * m + sigma * sigma));
    return { kind: 'svi', years, forward: 100, parameters: [a, b, rho, m, sigma] };
  })
  .filter((curve) => curve.parameters[0]! > 0 && isArbitrageFree(curve));

/** Points of a curve at even log-moneynesses, as far out as so many deviations. */
function pointsOf(curve: Curve, count: number, reach = 3, halfSpread = 0.003) {
  const deviation = Math.sqrt(curveVariance(curve, 0));
  const logMoneyness = Array.from({ length: count }, (_, i) => deviation * reach * ((2 * i) / (count - 1) - 1));
  const vol = logMoneyness.map((k) => curveVol(curve, k));
  return { logMoneyness, vol, halfSpread: logMoneyness.map(() => halfSpread), count } satisfies CurvePoints;
}

const GRID = Array.from({ length: 801 }, (_, i) => (i - 400) / 40);

describe('raw SVI', () => {
  it("Vogt's slice has an arbitrage, and the two repairs of the paper have none (section 5.1, numbers from memory)", () => {
    expect(isArbitrageFree(svi(-0.041, 0.1331, 0.306, 0.3586, 0.4153))).toBe(false);
    const vogt = ofJumpWings(0.01742625, -0.1752111, 0.6997381, 1.316798, 0.0116249);
    expect(isArbitrageFree(vogt)).toBe(false);
    expect(vogt.parameters[0]).toBeCloseTo(-0.041, 4);
    expect(isArbitrageFree(ofJumpWings(0.01742625, -0.1752111, 0.6997381, 0.3493158, 0.01548182))).toBe(true);
    expect(isArbitrageFree(ofJumpWings(0.01742625, -0.1752111, 0.6997381, 0.8564763, 0.0116249))).toBe(true);
  });
  it('refuses wings over the bound of Lee, variance under zero and a tilt over one', () => {
    expect(isArbitrageFree(svi(0.04, 1.2, 0.7, 0, 0.4))).toBe(false);
    expect(isArbitrageFree(svi(-0.04, 0.1, 0, 0, 0.1))).toBe(false);
    expect(isArbitrageFree(svi(0.04, 0.1, -1.1, 0, 0.1))).toBe(false);
    expect(isArbitrageFree(flatCurve(0.2, 1, 100))).toBe(true);
  });
  it('the linear split finds parameters again, whatever the weights, in few passes', () => {
    const out = new Float64Array(SVI_FIT_LENGTH);
    fc.assert(
      fc.property(slices, fc.integer({ min: 8, max: 80 }), fc.integer({ min: 0, max: 5 }), (curve, count, uneven) => {
        const { logMoneyness, vol } = pointsOf(curve, count);
        const k = Float64Array.from(logMoneyness);
        const w = Float64Array.from(vol, (sigma) => sigma * sigma * curve.years);
        const weight = k.map((_, i) => 1 + uneven * (i % 3));
        fitRawSvi({ k, w, weight, from: 0, count }, out);
        const [a, b, rho, m, sigma] = curve.parameters as [number, number, number, number, number];
        const size = Math.sqrt(curveVariance(curve, 0));
        expect(out[SVI_FIT.a]! - a).toBeCloseTo(0, 7);
        expect(out[SVI_FIT.b]! / b).toBeCloseTo(1, 5);
        expect(out[SVI_FIT.rho]! - rho).toBeCloseTo(0, 5);
        expect((out[SVI_FIT.m]! - m) / size).toBeCloseTo(0, 5);
        expect((out[SVI_FIT.sigma]! - sigma) / size).toBeCloseTo(0, 5);
        const found = { ...curve, parameters: Array.from(out.subarray(0, SVI_FIT.squares)) };
        const squares = Array.from(k, (x, i) => (curveVariance(found, x) - w[i]!) ** 2);
        expect(Math.sqrt(squares.reduce((sum, square) => sum + square, 0) / count)).toBeLessThan(1e-9);
        expect(out[SVI_FIT.passes]).toBeLessThan(30);
      }),
      { numRuns: 300 },
    );
  });
});

describe('the curve of an expiry', () => {
  it('without noise raw SVI is found to a millionth of vol', () => {
    fc.assert(
      fc.property(slices, fc.integer({ min: 8, max: 200 }), (curve, count) => {
        const fit = fitCurve(pointsOf(curve, count), curve.years, 100)!;
        for (const z of [-3, -1, -0.2, 0, 0.5, 2, 3]) {
          const k = z * Math.sqrt(curveVariance(curve, 0));
          expect(Math.abs(curveVol(fit.curve, k) - curveVol(curve, k))).toBeLessThan(1e-6);
        }
      }),
      { numRuns: 300 },
    );
  });
  it('few points have fewer parameters, and say so', () => {
    const curve = naturalCurve({ theta: 0.01, rho: -0.5, phi: 6 }, 0.25, 100);
    const kinds = [1, 2, 3, 4, 7, 30].map(
      (count) => fitCurve(pointsOf(curve, Math.max(2, count)), 0.25, 100)!.curve.kind,
    );
    expect(kinds.slice(0, 5)).toEqual(['flat', 'flat', 'flat', 'svi3', 'svi3']);
    const one = { logMoneyness: [0.02], vol: [0.3], halfSpread: [0], count: 1 };
    expect(curveVol(fitCurve(one, 0.25, 100)!.curve, 0.5)).toBeCloseTo(0.3, 12);
    expect(fitCurve({ ...one, count: 0 }, 0.25, 100)).toBeNull();
  });
  it('duplicate strikes, points in any order, points that are no numbers', () => {
    const curve = naturalCurve({ theta: 0.01, rho: -0.5, phi: 6 }, 0.25, 100);
    const { logMoneyness, vol, halfSpread, count } = pointsOf(curve, 20);
    const order = Array.from({ length: count }, (_, i) => (7 * i) % count);
    const mixed = {
      logMoneyness: [...order.map((i) => logMoneyness[i]!), logMoneyness[3]!, NaN, 0.1],
      vol: [...order.map((i) => vol[i]!), vol[3]!, 0.2, NaN],
      halfSpread: [...order.map((i) => halfSpread[i]!), 0.003, 0.003, 0.003],
      count: count + 3,
    };
    const fit = fitCurve(mixed, 0.25, 100)!;
    expect(fit.points).toBe(count);
    expect(fit.rmse).toBeLessThan(1e-6);
  });
  it('a wild quote is passed by, where there are others', () => {
    const curve = naturalCurve({ theta: 0.01, rho: -0.5, phi: 6 }, 0.25, 100);
    const points = pointsOf(curve, 25);
    points.vol[4]! += 0.15;
    points.vol[20]! -= 0.08;
    const fit = fitCurve(points, 0.25, 100)!;
    for (const k of [-0.2, 0, 0.15]) expect(Math.abs(curveVol(fit.curve, k) - curveVol(curve, k))).toBeLessThan(0.0015);
  });
});

describe('a mixture', () => {
  const years = 0.15;
  /** A trial that ends well or badly, 3 to 2. */
  const outcome: Curve = { kind: 'mixture', years, forward: 100, parameters: [0.6, 1.24, 0.1, 0.4, 0.64, 0.12] };
  it('has the derivatives that differences give, and a density of mean one', () => {
    const at = (k: number) => ({ ...curveAt(outcome, k, { w: 0, slope: 0, curvature: 0 }) });
    for (const k of [-0.6, -0.2, -0.01, 0.01, 0.3]) {
      const h = 1e-5;
      const [low, here, high] = [at(k - h), at(k), at(k + h)];
      expect((high.w - low.w) / (2 * h)).toBeCloseTo(here.slope, 7);
      expect((high.slope - low.slope) / (2 * h)).toBeCloseTo(here.curvature, 5);
    }
    // p(k) = g(k)/√(2πw)·e^(−d₂²/2), equation 2.2 of Gatheral and Jacquier.
    let [sum, mean] = [0, 0];
    const step = 0.002;
    for (let k = -1.5; k < 1.5; k += step) {
      const { w } = at(k);
      const d2 = -k / Math.sqrt(w) - 0.5 * Math.sqrt(w);
      const density = (curveDensityFactor(outcome, k) * Math.exp(-0.5 * d2 * d2)) / Math.sqrt(2 * Math.PI * w);
      sum += density * step;
      mean += density * Math.exp(k) * step;
    }
    expect(sum).toBeCloseTo(1, 6);
    expect(mean).toBeCloseTo(1, 6);
  });
  it('is taken where quotes have two humps that no other curve follows, and nowhere else', () => {
    const fit = fitCurve(pointsOf(outcome, 25, 1.6), years, 100)!;
    expect(fit.curve.kind).toBe('mixture');
    expect(fit.errorInHalfSpreads).toBeLessThan(0.5);
    const factors = GRID.map((z) => curveDensityFactor(fit.curve, 0.1 * z));
    expect(Math.min(...factors)).toBeGreaterThan(-1e-9);
  });
});

/** Quotes as they come: a slice with noise, some of it wild, on uneven strikes. */
const quoteSets = fc
  .record({
    curve: slices,
    count: fc.integer({ min: 1, max: 40 }),
    reach: range(0.3, 3.5),
    noise: range(0, 0.02),
    seed: fc.integer({ min: 1, max: 1e6 }),
    wild: fc.boolean(),
  })
  .map(({ curve, count, reach, noise, seed, wild }) => {
    const points = pointsOf(curve, Math.max(count, 2), reach);
    let state = seed;
    const uniform = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
    const vol = points.vol.map((value) =>
      Math.max(0.01, value + noise * (2 * uniform() - 1) + (wild && uniform() < 0.1 ? 0.4 * (uniform() - 0.3) : 0)),
    );
    const logMoneyness = points.logMoneyness.map((k) => k + 0.02 * (uniform() - 0.5));
    const halfSpread = vol.map(() => 0.0005 + 0.01 * uniform());
    return { given: { logMoneyness, vol, halfSpread, count }, years: curve.years };
  });

/** Undiscounted price of the out-of-the-money option, by the forward. */
function outPrice(curve: Curve, k: number): number {
  const s = Math.sqrt(curveVariance(curve, k));
  const sign = k < 0 ? -1 : 1;
  const d1 = -k / s + 0.5 * s;
  return sign * (normalCdf(sign * d1) - Math.exp(k) * normalCdf(sign * (d1 - s)));
}
const own = (curve: Curve) => ({ curve, shape: 'own' as const });
/** What a longer option may be worth less than a shorter one: nobody can earn so small a share of the forward. */
const EARNED = 4e-8;

describe('without arbitrage', () => {
  // UMWELT_SETS=10000 takes two minutes; some hundreds are enough for every day.
  const sets = Number(process.env['UMWELT_SETS'] ?? 400);
  it('in random sets of quotes, in strikes and between expiries', { timeout: 0.06 * 1000 * sets + 30_000 }, () => {
    const SETS_PER_SURFACE = 4;
    fc.assert(
      fc.property(fc.array(quoteSets, { minLength: SETS_PER_SURFACE, maxLength: SETS_PER_SURFACE }), (surface) => {
        const fitted = surface
          .sort((a, b) => a.years - b.years)
          .map(({ given, years }) => ({
            points: fitPoints(given, years),
            curve: fitCurve(given, years, 100)!.curve,
            shape: 'own' as const,
          }));
        const curves = withoutCalendarArbitrage(fitted).map(({ curve }) => curve);
        curves.forEach((curve, i) => {
          const size = Math.sqrt(curveVariance(curve, 0));
          const before = curves[i - 1];
          for (const z of GRID) {
            const k = z * size;
            if (!(curveDensityFactor(curve, k) > -1e-9))
              throw new Error(`butterfly at ${k} of ${JSON.stringify(curve)}`);
            if (before && !(outPrice(curve, k) - outPrice(before, k) > -EARNED)) {
              throw new Error(`calendar at ${k} of ${JSON.stringify([before, curve])}`);
            }
          }
        });
      }),
      { numRuns: sets / SETS_PER_SURFACE },
    );
  });
  it('curves that keep clear of each other are left as they are', () => {
    const curves = [0.1, 0.2, 0.5].map((years) => naturalCurve({ theta: 0.04 * years, rho: -0.4, phi: 3 }, years, 100));
    const fitted = curves.map((curve) => ({ ...own(curve), points: fitPoints(pointsOf(curve, 15), curve.years) }));
    withoutCalendarArbitrage(fitted).forEach(({ curve, shape }, i) => {
      expect(curve).toBe(curves[i]);
      expect(shape).toBe('own');
    });
  });
  it('an expiry that misses its own quotes moves no other one, and takes their shape', () => {
    const [front, next, last] = [0.02, 0.1, 0.3].map((years) =>
      naturalCurve({ theta: 0.04 * years, rho: -0.4, phi: 3 }, years, 100),
    ) as [Curve, Curve, Curve];
    const wild = pointsOf(front, 10);
    const fitted = [
      { ...own(naturalCurve({ theta: 0.02, rho: 0.8, phi: 9 }, 0.02, 100)), points: fitPoints(wild, 0.02) },
      ...[next, last].map((curve) => ({ ...own(curve), points: fitPoints(pointsOf(curve, 15), curve.years) })),
    ];
    const [first, second, third] = withoutCalendarArbitrage(fitted);
    expect([second!.curve, third!.curve]).toEqual([next, last]);
    expect(first!.shape).toBe('neighbour');
    expect(isCrossed(first!.curve, next)).toBe(false);
    expect(isArbitrageFree(first!.curve)).toBe(true);
    expect(Math.abs(curveVol(first!.curve, 0) - 0.2)).toBeLessThan(0.02);
  });
  it('a crossing within the noise is taken out within the spread', () => {
    const near = naturalCurve({ theta: 0.01, rho: -0.6, phi: 8 }, 0.25, 100);
    const far = naturalCurve({ theta: 0.0105, rho: -0.2, phi: 8 }, 0.27, 100);
    expect(isCrossed(near, far)).toBe(true);
    const fitted = [near, far].map((curve) => ({
      ...own(curve),
      points: fitPoints(pointsOf(curve, 21, 1.2, 0.01), curve.years),
    }));
    const [first, second] = withoutCalendarArbitrage(fitted);
    expect(first!.curve).toBe(near);
    expect(second!.shape).toBe('own');
    expect(lowestGap(near, second!.curve).value).toBeGreaterThanOrEqual(-1e-9);
    expect(judged(second!.curve, fitted[1]!.points).errorInHalfSpreads).toBeLessThan(1);
  });
  it('a flat curve that has to be lifted stays flat, or says that its shape is another’s', () => {
    const near = naturalCurve({ theta: 0.02, rho: -0.5, phi: 5 }, 0.1, 100);
    const few = fitPoints({ logMoneyness: [-0.02, 0.03], vol: [0.3, 0.31], halfSpread: [0.05, 0.05], count: 2 }, 0.2);
    const fitted = [
      { ...own(near), points: fitPoints(pointsOf(near, 15), 0.1) },
      { ...own(flatCurve(0.305, 0.2, 100)), points: few },
    ];
    const [, second] = withoutCalendarArbitrage(fitted);
    expect(isCrossed(near, second!.curve)).toBe(false);
    expect(second!.shape === 'own').toBe(second!.curve.kind === 'flat');
  });
});

describe('shapes of another session', () => {
  const shape = naturalCurve({ theta: 0.01, rho: -0.5, phi: 6 }, 0.1, 100);
  it('stand at the level that two points say, with the skew of the other', () => {
    const given = { logMoneyness: [-0.05, 0.02], vol: [-0.05, 0.02].map((k) => 1.2 * curveVol(shape, k)) };
    const curve = shapedLike(shape, fitPoints({ ...given, halfSpread: [0.01, 0.01], count: 2 }, 0.096), 0.096, 101)!;
    for (const k of [-0.2, 0, 0.1]) expect(curveVol(curve, k)).toBeCloseTo(1.2 * curveVol(shape, k), 12);
    expect(curve).toMatchObject({ kind: 'svi', years: 0.096, forward: 101 });
    expect(isArbitrageFree(curve)).toBe(true);
  });
  it('are not taken from what has none', () => {
    const points = fitPoints({ logMoneyness: [0], vol: [0.3], halfSpread: [0.01], count: 1 }, 0.1);
    expect(shapedLike(flatCurve(0.2, 0.1, 100), points, 0.1, 100)).toBeNull();
  });
});

describe('how well a curve is known', () => {
  const curve = naturalCurve({ theta: 0.01, rho: -0.4, phi: 6 }, 0.1, 100);
  /** Vols off by normal misses of a fifth of their half spreads; seeded, so that the test cannot flicker. */
  const noisy = (half: number, count: number, seed: number) => {
    const given = pointsOf(curve, count, 1, half);
    let state = seed;
    const uniform = () => ((state = (state * 48_271) % 2_147_483_647) + 0.5) / 2_147_483_648;
    const vol = Array.from(given.vol, (one) => one + 0.2 * half * normalInverse(uniform()));
    return fitPoints({ ...given, vol, halfSpread: vol.map(() => half) }, curve.years);
  };
  it('errors are as large as they are said to be', () => {
    const off = { atm: [] as number[], skew: [] as number[] };
    for (let seed = 1; seed <= 300; seed++) {
      const points = noisy(0.01, 15, 7919 * seed);
      const fit = fitCurveTo(points, 100)!.curve;
      const known = curveUncertainty(points, fit, 'own');
      off.atm.push((curveVol(fit, 0) - curveVol(curve, 0)) / known.atmVol);
      off.skew.push((deltaSkew(fit, 0.25).riskReversal - deltaSkew(curve, 0.25).riskReversal) / known.riskReversal25);
    }
    const rms = (values: number[]) => Math.sqrt(values.reduce((sum, one) => sum + one * one, 0) / values.length);
    // 300 draws: within a tenth of 1 or so by chance; a fit of three parameters is known a little better than one of four.
    for (const values of [off.atm, off.skew]) {
      expect(rms(values)).toBeGreaterThan(0.75);
      expect(rms(values)).toBeLessThan(1.25);
    }
  });
  it('wider quotes and fewer of them are known less, a shape that is not their own not at all', () => {
    const error = (half: number, count: number) => curveUncertainty(noisy(half, count, 11), curve, 'own').atmVol;
    expect(error(0.02, 15)).toBeGreaterThan(1.5 * error(0.01, 15));
    expect(error(0.01, 40)).toBeLessThan(0.8 * error(0.01, 10));
    expect(curveUncertainty(noisy(0.01, 3, 11), curve, 'past').riskReversal25).toBeNaN();
  });
});
