import {
  constantMaturityVol,
  curveVol,
  quantileRows,
  standardizedVols,
  surfaceOf,
  type Curve,
  type Surface,
} from '@umwelt/core';
import { usedExpiries, type Frame } from './frame';

/** Shares of the sessions under the lines of a band. */
export const BAND_SHARES = [0.05, 0.25, 0.5, 0.75, 0.95] as const;

/** What the past gave at some places: a row for each share. */
export interface Band {
  at: Float64Array;
  rows: Float64Array[];
  /** Sessions that are counted. */
  sessions: number;
  /** Share of them that lay strictly under what is now, by place; NaN where nothing is compared. */
  under: Float64Array;
}

/** Deviations from the forward at which the band of a skew is drawn. */
export const BAND_DEVIATIONS = Float64Array.from({ length: 41 }, (_, i) => -3 + 0.15 * i);

export interface SkewBandRequest {
  years: number;
  /** Whether vols are taken over the one at the money, so that their level does not count. */
  isShape: boolean;
  /** What is compared with it. */
  now: { curve: Curve; atmVol: number } | null;
}

/** Frames with their surfaces, which are made once. */
export interface PastMoment {
  frame: Frame;
  surface: Surface;
}

/** A frame with the surface of its expiries. */
export function pastMoment(frame: Frame): PastMoment {
  return { frame, surface: surfaceOf(usedExpiries(frame).map(({ curve }) => curve)) };
}

/** The share of a column's values that are under another one. */
function sharesUnder(rows: readonly Float64Array[], now: ArrayLike<number>): Float64Array {
  return Float64Array.from(now, (value, column) => {
    const held = rows.map((row) => row[column]!).filter(Number.isFinite);
    if (held.length === 0 || !Number.isFinite(value)) return NaN;
    return held.filter((other) => other < value).length / held.length;
  });
}

/** The band of the skews of one maturity. */
export function skewBand(moments: readonly PastMoment[], { years, isShape, now }: SkewBandRequest): Band {
  const rows: Float64Array[] = [];
  for (const { surface } of moments) {
    const row = new Float64Array(BAND_DEVIATIONS.length);
    if (!standardizedVols(surface, years, BAND_DEVIATIONS, row)) continue;
    if (isShape) {
      const atm = row[row.length >> 1]!;
      for (let i = 0; i < row.length; i++) row[i]! -= atm;
    }
    rows.push(row);
  }
  const deviation = now ? now.atmVol * Math.sqrt(years) : NaN;
  const held = Float64Array.from(BAND_DEVIATIONS, (z) =>
    now ? curveVol(now.curve, z * deviation) - (isShape ? now.atmVol : 0) : NaN,
  );
  return {
    at: BAND_DEVIATIONS,
    rows: quantileRows(rows, BAND_SHARES),
    sessions: rows.length,
    under: sharesUnder(rows, held),
  };
}

const DAYS_PER_YEAR = 365;

/**
 * The band of the vols at the money by days; beyond what was listed a session does not count.
 *
 * @param now what is compared with it, by day
 */
export function termBand(moments: readonly PastMoment[], days: ArrayLike<number>, now: ArrayLike<number>): Band {
  const rows = moments.map(({ frame }) => {
    const points = usedExpiries(frame).map(({ years, atmVol }) => ({ years, vol: atmVol }));
    return Float64Array.from(days, (day) => {
      const years = day / DAYS_PER_YEAR;
      const isInside = points.length > 0 && years >= points[0]!.years && years <= points.at(-1)!.years;
      return isInside ? constantMaturityVol(points, years) : NaN;
    });
  });
  return {
    at: Float64Array.from(days),
    rows: quantileRows(rows, BAND_SHARES),
    sessions: rows.length,
    under: sharesUnder(rows, now),
  };
}
