import {
  coneSlice,
  curveVol,
  historicalVol,
  orNull,
  SESSIONS_PER_YEAR,
  VOL_WINDOWS,
  type Estimator,
} from '@umwelt/core';
import type { Queryable } from '../db';
import type { HeldColumns } from './held';
import { listCurves } from './queries';
import { curveOfRow } from './rows';

/** Deviations from the forward at which curves are read. */
const DEVIATIONS = Array.from({ length: 41 }, (_, i) => -2.5 + 0.125 * i);

const namedIn = (symbols: readonly string[]) => {
  const named = new Set(symbols);
  return ({ symbol }: { symbol: string }) => named.has(symbol);
};

/**
 * The curve of the expiry nearest to so many days, of each of some underlyings: vols by deviations ln(K/F)/(σ√T), null beyond
 * the strikes that are listed. What is borrowed stands in place of its own.
 */
export async function skewsAt(
  database: Queryable,
  held: HeldColumns,
  symbols: readonly string[],
  days: number,
  moment?: Date,
) {
  const view = await held.read(['price'], 1, { moment, isWanted: namedIn(symbols) });
  const moments = view.underlyings.map(({ symbol }, row) => ({ symbol, instant: view.instant(row) }));
  const known = moments.filter(({ instant }) => !Number.isNaN(instant));
  const found = await Promise.all(
    known.map(async ({ symbol, instant }) => {
      const rows = await listCurves(database, symbol, [new Date(instant)]);
      const used = rows.filter((row) => row.curveKind && row.curve && row.expiryAside === null && row.years > 0);
      const [nearest] = used.toSorted((a, b) => Math.abs(a.days - days) - Math.abs(b.days - days));
      if (!nearest) return null;
      const { expiry, settlement, years, atmVol, forward, lowest, highest } = nearest;
      const curve = curveOfRow(nearest)!;
      const deviation = (atmVol ?? NaN) * Math.sqrt(years);
      const vols = DEVIATIONS.map((z) => {
        const strike = curve.forward * Math.exp(z * deviation);
        return strike >= (lowest ?? Infinity) && strike <= (highest ?? -Infinity)
          ? orNull(curveVol(curve, z * deviation))
          : null;
      });
      return {
        ...{ symbol, asof: new Date(instant).toISOString(), expiry, settlement },
        ...{ days: nearest.days, forward, atmVol, vols },
        borrowedFrom: nearest.borrowedFrom ?? null,
      };
    }),
  );
  return { deviations: DEVIATIONS, skews: found.filter((one) => one !== null) };
}

/** Windows of the cones, in sessions. */
const CONE_WINDOWS = [...VOL_WINDOWS, 120].sort((a, b) => a - b);
const TERM_DAYS = [7, 30, 60, 90, 180, 360];
const DAYS_PER_YEAR = 365;
/** Sessions of bars that the windows are taken from. */
const CONE_SESSIONS = 504;

/** What historical vols of each window were, of each of some underlyings, and the vols at the money by sessions ahead. */
export async function conesAt(held: HeldColumns, symbols: readonly string[], estimator: Estimator, moment?: Date) {
  // The close before is read off the bars, which are needed whole.
  const names = [...TERM_DAYS.map((days) => `iv${days}`), 'before'];
  const view = await held.read(names, CONE_SESSIONS, { moment, isWanted: namedIn(symbols) });
  return {
    windows: CONE_WINDOWS,
    sessions: TERM_DAYS.map((days) => (days * SESSIONS_PER_YEAR) / DAYS_PER_YEAR),
    cones: view.underlyings.map(({ symbol }, row) => {
      const bars = view.bars(row, CONE_SESSIONS);
      const slices = CONE_WINDOWS.map((window) => coneSlice(historicalVol(bars, estimator, window), window));
      return {
        symbol,
        bars: bars.close.length,
        quantiles: slices.map(({ quantiles }) => quantiles.map(orNull)),
        now: slices.map(({ now }) => orNull(now)),
        term: TERM_DAYS.map((days) => orNull(view.value(`iv${days}`, row))),
      };
    }),
  };
}
