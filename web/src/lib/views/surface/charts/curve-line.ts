import { callDelta, curveVol, logMoneynessAtDelta } from '@umwelt/core';
import type { CurveExpiry } from '$lib/film';
import { type Axis, type SkewScale } from '../params';

/** An expiry as its curve is drawn. */
export type Drawable = Pick<CurveExpiry, 'years' | 'forward' | 'curve' | 'atmVol'>;

/** A curve as points in the units of the axes. */
export interface CurveLine {
  x: number[];
  y: number[];
}

const CURVE_POINTS = 61;
/** Far wings of near expiries would flatten everything else: curves are cut at this many deviations. */
const MOST_DEVIATIONS = 4;

/** Where a strike stands on an axis; deltas are those of the call on the forward, in per cent. */
export function axisValue(axis: Axis, strike: number, { forward, atmVol, years, curve }: Drawable): number {
  const k = Math.log(strike / forward);
  switch (axis) {
    case 'strike':
      return strike;
    case 'forward':
      return (100 * strike) / forward;
    case 'log':
      return k;
    case 'standardized':
      return k / (atmVol * Math.sqrt(years));
    case 'delta':
      return curve ? 100 * callDelta(curve, k) : NaN;
  }
}

/** A vol as it stands upright: in points, in points over the money, or as total variance. */
export function upright(scale: SkewScale, vol: number, { atmVol, years }: Pick<Drawable, 'atmVol' | 'years'>): number {
  if (scale === 'variance') return vol * vol * years;
  return 100 * (scale === 'shape' ? vol - atmVol : vol);
}

/** The curve of an expiry between two strikes, as far out as deviations allow; nothing without a curve. */
export function curveLine(
  expiry: Drawable,
  strikes: readonly [lowest: number, highest: number] | null,
  axis: Axis,
  scale: SkewScale,
  points = CURVE_POINTS,
): CurveLine {
  const { forward, atmVol, years, curve } = expiry;
  const x: number[] = [];
  const y: number[] = [];
  if (!curve || !strikes) return { x, y };
  const reach = MOST_DEVIATIONS * atmVol * Math.sqrt(years);
  const from = Math.max(Math.log(strikes[0] / forward), -reach);
  const to = Math.min(Math.log(strikes[1] / forward), reach);
  for (let i = 0; i < points; i++) {
    const k = from + ((to - from) * i) / (points - 1);
    x.push(axisValue(axis, forward * Math.exp(k), expiry));
    y.push(upright(scale, curveVol(curve, k), expiry));
  }
  return { x, y };
}

const AXIS_FORMATS: Record<Axis, string> = {
  strike: '~f',
  forward: '.0f',
  log: '.2f',
  standardized: '.1f',
  delta: '.0f',
};

/** How the ticks of an axis are written. */
export const axisFormat = (axis: Axis): string => AXIS_FORMATS[axis];

/** The strike that stands at a place of an axis: the other way of axisValue. */
export function strikeAt(axis: Axis, at: number, { forward, atmVol, years, curve }: Drawable): number {
  switch (axis) {
    case 'strike':
      return at;
    case 'forward':
      return (forward * at) / 100;
    case 'log':
      return forward * Math.exp(at);
    case 'standardized':
      return forward * Math.exp(at * atmVol * Math.sqrt(years));
    case 'delta':
      return curve ? forward * Math.exp(logMoneynessAtDelta(curve, at / 100)) : NaN;
  }
}
