import { surfaceGrid, surfaceOf, type Curve, type GridAxis, type GridQuantity, type Side } from '@umwelt/core';
import type { CurveExpiry } from './frame';

/** An expiry as a map takes it. */
export type MapExpiry = Pick<CurveExpiry, 'expiry' | 'years' | 'days' | 'forward' | 'rate' | 'atmVol'> & {
  curve: Curve;
};

/** A quantity of one moment's surface over strikes and times. */
export interface MapRequest {
  /** By time, at least one. */
  expiries: readonly MapExpiry[];
  /** Announcements, in years from now. */
  events: readonly number[];
  /** Price of the underlying; null where options are on the forward itself. */
  spot: number | null;
  quantity: GridQuantity;
  side: Side;
  axis: GridAxis;
  positions: readonly number[];
  /** In years. */
  years: readonly number[];
}

/** Reads a surface; a row for each time. */
export function mapOf({ expiries, events, ...request }: MapRequest): Float64Array[] {
  return surfaceGrid({
    ...request,
    surface: surfaceOf(
      expiries.map(({ curve }) => curve),
      events,
    ),
    terms: expiries,
  });
}

const POSITIONS = 61;
/** How far strikes go, in deviations of the last expiry; and on the standardized axis. */
const REACH = 2.5;
const MOST_DEVIATIONS = 3;
const DELTAS = { from: 2, to: 98 };

function spread(from: number, to: number, count: number): number[] {
  return Array.from({ length: count }, (_, i) => from + ((to - from) * i) / (count - 1));
}

/** Places on an axis that show what the expiries have to say. */
export function mapPositions(axis: GridAxis, expiries: readonly MapExpiry[]): number[] {
  if (axis === 'standardized') return spread(-MOST_DEVIATIONS, MOST_DEVIATIONS, POSITIONS);
  // A high delta of the call is a low strike.
  if (axis === 'delta') return spread(DELTAS.to, DELTAS.from, (DELTAS.to - DELTAS.from) / 2 + 1);
  const last = expiries.at(-1);
  if (!last) return [];
  const reach = REACH * last.atmVol * Math.sqrt(last.years);
  if (axis === 'log') return spread(-reach, reach, POSITIONS);
  const [low, high] = [Math.exp(-reach), Math.exp(reach)];
  const unit = axis === 'strike' ? last.forward : 100;
  return spread(unit * low, unit * high, POSITIONS);
}

const TIMES = 36;
const DAYS_PER_YEAR = 365;

/** Times from the first expiry to the last, dense where they are near, in years. */
export function mapTimes(expiries: readonly MapExpiry[]): number[] {
  const [first, last] = [expiries[0], expiries.at(-1)];
  if (!first || !last) return [];
  if (first === last) return [first.years];
  const ends = [Math.log(first.days / DAYS_PER_YEAR), Math.log(last.days / DAYS_PER_YEAR)] as const;
  return spread(...ends, TIMES).map((log, i) => (i === TIMES - 1 ? last.years : Math.exp(log)));
}
