import { curveVol, sviOf, type Curve } from './curve';
import type { FitPoints } from './points';
import { isButterflyFree } from './svi';

/** Where the shape of a curve comes from: its own quotes, an expiry beside it, or the session before. */
export const CURVE_SHAPES = ['own', 'neighbour', 'past'] as const;
export type CurveShape = (typeof CURVE_SHAPES)[number];

const ROUNDS = 6;

/**
 * A curve of the shape of another, at the level that a few points say: the vols of the other times one factor, by least
 * squares with Huber weights.
 *
 * @param shape of raw SVI, of about the same time to expiry
 * @returns null where the other says one vol only, is of another kind, or has an arbitrage at this level
 */
export function shapedLike(shape: Curve, points: FitPoints, years: number, forward: number): Curve | null {
  const svi = sviOf(shape);
  if (!svi || svi[1] === 0 || points.count === 0) return null;
  const { k, vol, unit, huber } = points;
  const known = k.map((x) => curveVol(shape, x));
  let factor = 1;
  for (let round = 0; round < ROUNDS; round++) {
    let [top, bottom] = [0, 0];
    for (let i = 0; i < points.count; i++) {
      const miss = Math.abs(factor * known[i]! - vol[i]!) / unit[i]!;
      const weight = (round === 0 ? 1 : Math.min(1, huber / miss)) / unit[i]! ** 2;
      top += weight * known[i]! * vol[i]!;
      bottom += weight * known[i]! ** 2;
    }
    factor = top / bottom;
  }
  const scale = (factor * factor * years) / shape.years;
  const [a, b, rho, m, sigma] = svi;
  const scaled = [scale * a, scale * b, rho, m, sigma] as const;
  return factor > 0 && isButterflyFree(scaled) ? { kind: 'svi', years, forward, parameters: scaled } : null;
}
