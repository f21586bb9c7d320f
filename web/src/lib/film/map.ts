import {
  quantileOf,
  surfaceGrid,
  surfaceOf,
  type Curve,
  type GridAxis,
  type GridQuantity,
  type Side,
} from '@umwelt/core';
import { usedExpiries, type CurveExpiry, type Frame } from './frame';

/** An expiry as a map takes it. */
export type MapExpiry = Pick<
  CurveExpiry,
  'expiry' | 'settlement' | 'years' | 'days' | 'forward' | 'rate' | 'atmVol'
> & {
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

/** What a map asks of the past: how far its values go. */
export type ExtentRequest = Pick<MapRequest, 'quantity' | 'axis'> & {
  sides: readonly Side[];
  /** Prices of the underlying at the moments; null where options are on the forward itself. */
  spots: readonly number[] | null;
};

/** Moments that are looked at, and how much of what they hold may lie outside: spikes would flatten all the rest. */
const MOST_LOOKED = 32;
const OUTSIDE = 0.005;

/** From where to where the values of maps of some moments go; null where there are none. */
export function extentOf(
  moments: readonly Frame[],
  { quantity, axis, sides, spots }: ExtentRequest,
): [low: number, high: number] | null {
  const every = Math.max(1, Math.ceil(moments.length / MOST_LOOKED));
  const values = moments.flatMap((frame, i) => {
    const expiries = usedExpiries(frame);
    if (i % every !== 0 || expiries.length === 0) return [];
    const places = {
      positions: mapPositions(axis, expiries),
      years: mapTimes(expiries).filter((_, at) => at % 3 === 0),
    };
    return sides.flatMap((side) =>
      mapOf({ expiries, events: [], spot: spots?.[i] ?? null, quantity, side, axis, ...places }).flatMap((row) =>
        Array.from(row).filter(Number.isFinite),
      ),
    );
  });
  if (values.length === 0) return null;
  values.sort((a, b) => a - b);
  return [quantileOf(values, OUTSIDE), quantileOf(values, 1 - OUTSIDE)];
}

const POSITIONS = 61;
/** How far strikes go, in deviations of the last expiry; and on the standardized axis. */
const REACH = 2.5;
const MOST_DEVIATIONS = 3;
const DELTAS = { from: 2, to: 98 };

function spread(from: number, to: number, count: number): number[] {
  return Array.from({ length: count }, (_, i) => from + ((to - from) * i) / (count - 1));
}

/** How far the axes of maps of some moments go together. */
export function mapReach(
  axis: GridAxis,
  moments: readonly Frame[],
): { positions: [number, number]; days: [number, number] } | null {
  const all = moments.map((frame) => usedExpiries(frame)).filter((expiries) => expiries.length > 0);
  if (all.length === 0) return null;
  const ends = all.flatMap((expiries) => {
    const positions = mapPositions(axis, expiries);
    return [positions[0]!, positions.at(-1)!];
  });
  const days = all.flatMap((expiries) => [expiries[0]!.days, expiries.at(-1)!.days]);
  const positions: [number, number] = [Math.min(...ends), Math.max(...ends)];
  // A high delta stands at the left.
  return {
    positions: axis === 'delta' ? [positions[1], positions[0]] : positions,
    days: [Math.min(...days), Math.max(...days)],
  };
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
