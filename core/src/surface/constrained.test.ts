import { describe, expect, it } from 'vitest';
import { constrainedSvi, PressedMisses } from './constrained';
import { fitPoints } from './points';
import { isButterflyFree, sviAt, type Svi } from './svi';

const YEARS = 0.25;
const STRIKES = Float64Array.from({ length: 15 }, (_, i) => -0.35 + 0.05 * i);

function pointsOf(svi: Svi, noise: (i: number) => number = () => 0) {
  const out = { w: 0, slope: 0, curvature: 0 };
  const vol = STRIKES.map((k, i) => Math.sqrt(sviAt(svi, k, out).w / YEARS) + noise(i));
  return fitPoints({ logMoneyness: STRIKES, vol, halfSpread: STRIKES.map(() => 0.002), count: STRIKES.length }, YEARS);
}

describe('slopes of what a slice misses', () => {
  const quoted: Svi = [0.004, 0.06, -0.4, 0.02, 0.1];
  const floor = (k: number) => 0.009 + 0.05 * Math.abs(k);
  it.each([
    ['near the quotes', [0.0041, 0.061, -0.41, 0.021, 0.1], undefined],
    ['far from them', [0.03, 0.15, 0.3, -0.1, 0.2], undefined],
    ['with an arbitrage', [-0.004, 0.5, -0.6, 0.05, 0.012], undefined],
    ['under a floor', [0.002, 0.05, -0.3, 0.01, 0.08], floor],
    ['with an arbitrage under a floor', [-0.002, 0.4, -0.8, 0.05, 0.02], floor],
  ] as const)('are those of differences: %s', (_, svi, over) => {
    const missed = new PressedMisses(pointsOf(quoted), svi, over);
    missed.pressure = 7;
    const slopes = Array.from({ length: 5 }, () => new Float64Array(missed.count));
    missed.slopes(Float64Array.from(svi), slopes);
    let pressed = 0;
    svi.forEach((value, j) => {
      const step = 1e-5 * Math.max(Math.abs(value), 0.01);
      const at = (times: number) => {
        const moved = Float64Array.from(svi);
        moved[j] = value + times * step;
        const out = new Float64Array(missed.count);
        missed.residuals(moved, out);
        return out;
      };
      const [a, b, c, d] = [at(-2), at(-1), at(1), at(2)];
      slopes[j]!.forEach((slope, i) => {
        const told = (a[i]! - 8 * b[i]! + 8 * c[i]! - d[i]!) / (12 * step);
        const largest = Math.max(...slopes[j]!.map(Math.abs));
        expect(Math.abs(slope - told), `parameter ${j}, residual ${i}`).toBeLessThan(1e-7 * (largest + 1));
        if (i >= STRIKES.length && slope !== 0) pressed++;
      });
    });
    if (svi[1] > 0.3 || over) expect(pressed).toBeGreaterThan(10);
  });
});

describe('a slice under pressure', () => {
  it('is the one that the points were made of, where that has no arbitrage', () => {
    const svi: Svi = [0.004, 0.06, -0.4, 0.02, 0.1];
    const found = constrainedSvi(pointsOf(svi), [0.006, 0.05, -0.2, 0, 0.15]);
    found.forEach((value, j) => expect(value).toBeCloseTo(svi[j]!, 4));
  });

  it('has none where the points ask for one', () => {
    // The volatility of Axel Vogt (Gatheral and Jacquier 2014, example 3.1), of one year.
    const vogt: Svi = [-0.041, 0.1331, 0.306, 0.3586, 0.4153];
    expect(isButterflyFree(vogt)).toBe(false);
    const strikes = Float64Array.from({ length: 31 }, (_, i) => -1.5 + 0.1 * i);
    const out = { w: 0, slope: 0, curvature: 0 };
    const vol = strikes.map((k) => Math.sqrt(sviAt(vogt, k, out).w));
    const points = fitPoints({ logMoneyness: strikes, vol, halfSpread: strikes.map(() => 0.002), count: 31 }, 1);
    expect(isButterflyFree(constrainedSvi(points, vogt))).toBe(true);
  });
});
