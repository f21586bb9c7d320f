import { normalInverse } from '../distributions';
import type { Side } from '../contracts';
import { priceContract } from '../models';
import { logCumulative, logDensity, surfaceAt, surfaceVol, type Surface } from './surface';
import type { VarianceAt } from './svi';

/** What a surface is read for at every strike and time. */
export const GRID_QUANTITIES = [
  'vol',
  'variance',
  'density',
  'cumulative',
  'price',
  'delta',
  'gamma',
  'theta',
  'vega',
  'rho',
  'vanna',
  'volga',
  'charm',
] as const;
export type GridQuantity = (typeof GRID_QUANTITIES)[number];

/** How the strikes of a grid are told: alike at all times in each of these units. */
export const GRID_AXES = ['strike', 'forward', 'log', 'standardized', 'delta'] as const;
export type GridAxis = (typeof GRID_AXES)[number];

/** Forward and rate of an expiry. */
export interface GridTerms {
  readonly years: number;
  readonly forward: number;
  /** Continuously compounded. */
  readonly rate: number;
}

export interface GridRequest {
  surface: Surface;
  /** Ascending in years, at least one. */
  terms: readonly GridTerms[];
  /** Price of the underlying; null where options are on the forward itself. */
  spot: number | null;
  quantity: GridQuantity;
  side: Side;
  axis: GridAxis;
  /** Positions on the axis: strikes, per cent of the forward, ln(K/F), deviations, or forward call deltas in per cent. */
  positions: ArrayLike<number>;
  /** Times in years. */
  years: ArrayLike<number>;
}

/** Beyond this many deviations an option says nothing. */
const MOST_DEVIATIONS = 4.5;

/**
 * Forward and rate at a time: between expiries the logarithm of the forward and the rate are linear in time, outside them
 * the forward grows by the drift of the nearest stretch, and the rate stays.
 *
 * @param spot where the forward starts from today; null holds the first one
 */
export function termsAt(terms: readonly GridTerms[], spot: number | null, years: number): GridTerms {
  const last = terms.at(-1)!;
  const at = terms.findIndex((one) => one.years >= years);
  const far = at < 0 ? last : terms[at]!;
  if (far.years === years) return far;
  const near =
    at < 0
      ? (terms.at(-2) ?? { years: 0, forward: spot ?? last.forward, rate: last.rate })
      : (terms[at - 1] ?? { years: 0, forward: spot ?? far.forward, rate: far.rate });
  const share = (years - near.years) / (far.years - near.years);
  const forward = Math.exp(Math.log(near.forward) + share * Math.log(far.forward / near.forward));
  const within = Math.min(1, Math.max(0, share));
  return { years, forward, rate: near.rate + within * (far.rate - near.rate) };
}

const MOST_STEPS = 60;
const SAME = 1e-12;

/** Log-moneyness of a forward call delta at a time, by k = s²/2 − s·N⁻¹(Δ) with s = σ(k)√T; NaN where that does not settle. */
function moneynessOf(surface: Surface, years: number, delta: number): number {
  const z = normalInverse(delta);
  let k = 0;
  for (let i = 0; i < MOST_STEPS; i++) {
    const s = surfaceVol(surface, k, years) * Math.sqrt(years);
    const next = 0.5 * s * s - s * z;
    if (Math.abs(next - k) < SAME) return next;
    // Half steps where the slope of the curve makes whole ones swing.
    k = i < 8 ? next : 0.5 * (k + next);
  }
  return NaN;
}

function moneynessAt(axis: GridAxis, position: number, surface: Surface, terms: GridTerms): number {
  switch (axis) {
    case 'strike':
      return Math.log(position / terms.forward);
    case 'forward':
      return Math.log(position / 100);
    case 'log':
      return position;
    case 'standardized':
      return position * surfaceVol(surface, 0, terms.years) * Math.sqrt(terms.years);
    case 'delta':
      return moneynessOf(surface, terms.years, position / 100);
  }
}

const POINT: VarianceAt = { w: 0, slope: 0, curvature: 0 };

/**
 * A quantity of a surface over strikes and times.
 *
 * Greeks and prices are of European contracts with the vol of the surface, in the units of docs/conventions.md; density is
 * that of ln(S_T/F), cumulative the odds of ending under the strike.
 *
 * @returns a row for each time; NaN further than 4.5 deviations from the forward
 * @throws RangeError without a curve or terms
 */
export function surfaceGrid(request: GridRequest): Float64Array[] {
  const { surface, terms, spot, quantity, side, axis, positions, years } = request;
  if (terms.length === 0) throw new RangeError('a grid needs the terms of an expiry');
  return Array.from(years, (time) => {
    const at = termsAt(terms, spot, time);
    const deviation = surfaceVol(surface, 0, time) * Math.sqrt(time);
    return Float64Array.from(positions, (position) => {
      const k = moneynessAt(axis, position, surface, at);
      if (!(Math.abs(k) <= MOST_DEVIATIONS * deviation)) return NaN;
      const point = surfaceAt(surface, k, time, POINT);
      if (quantity === 'variance') return point.w;
      if (quantity === 'vol') return Math.sqrt(point.w / time);
      if (quantity === 'density') return logDensity(point, k);
      if (quantity === 'cumulative') return logCumulative(point, k);
      const strike = at.forward * Math.exp(k);
      const vol = Math.sqrt(point.w / time);
      const common = { side, strike, years: time, rate: at.rate, vol };
      const values =
        spot === null
          ? priceContract({ model: 'black-76', forward: at.forward, ...common })
          : priceContract({
              model: 'black-scholes-merton',
              spot,
              yield: at.rate - Math.log(at.forward / spot) / time,
              ...common,
            });
      return values[quantity];
    });
  });
}
