import { ewmaVol, fitGarch, fitHar, garchVol, harVol, logReturns, sessionVariances } from './forecast';
import type { BarColumns } from './yang-zhang';

/** Models that forecast the vol of the sessions ahead from bars. */
export const VOL_MODELS = ['ewma', 'garch', 'har'] as const;
export type VolModel = (typeof VOL_MODELS)[number];

/**
 * What a model expects of the sessions ahead; what does not depend on how many they are is fitted once.
 *
 * @param bars adjusted
 * @returns by sessions ahead, 1 at least: a vol of a year as a decimal; NaN where too few bars are held
 */
export function forecastBy(model: VolModel, bars: BarColumns): (sessions: number) => number {
  switch (model) {
    case 'ewma': {
      const vol = ewmaVol(logReturns(bars.close));
      return () => vol;
    }
    case 'garch': {
      const garch = fitGarch(logReturns(bars.close));
      return (sessions) => (garch ? garchVol(garch, Math.max(1, sessions)) : NaN);
    }
    case 'har': {
      // The first session has no night before it.
      const variances = sessionVariances(bars).subarray(1);
      const known = new Map<number, number>();
      return (sessions) => {
        const ahead = Math.max(1, Math.round(sessions));
        const before = known.get(ahead);
        if (before !== undefined) return before;
        const har = fitHar(variances, ahead);
        const vol = har ? harVol(har, variances) : NaN;
        known.set(ahead, vol);
        return vol;
      };
    }
  }
}
