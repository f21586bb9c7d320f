import {
  drawPaths,
  expiryTerms,
  writtenOn,
  type Basis,
  type BasisChoice,
  type Drift,
  type ExpiryFit,
  type ManualVol,
  type PastBars,
  type Sample,
  type Sampling,
} from '@umwelt/core';
import type { LoadedSnapshot } from './snapshot';

/** Past moves that odds are drawn from. */
export interface PastTerms {
  bars: PastBars;
  sampling: Sampling;
  drift: Drift;
}

/** What the bases bring along at a moment. */
export interface PricingTerms {
  manual: ManualVol;
  indexVol: number;
  /** Historical vol by expiry, in the order of the snapshot: a window may reach as far back as the expiry lies ahead. */
  realizedVols: readonly number[];
  /** Where the odds of `realized` are those of the past itself; null where they are lognormal. */
  past: PastTerms | null;
  /** The past as it is drawn from where it is asked for all the same. */
  usualPast: PastTerms;
}

/**
 * What an expiry is valued by under a basis.
 *
 * @param sample paths to that expiry; null where none can be drawn, undefined where they are not known yet
 */
export function choiceOf(
  basis: Basis,
  { manual, indexVol, realizedVols, past }: PricingTerms,
  slice: number,
  sample: Sample | null | undefined,
): BasisChoice {
  const choice = { basis, manual, indexVol, realizedVol: realizedVols[slice] ?? NaN };
  return past ? { ...choice, sample: sample ?? null } : choice;
}

const MOST_SAMPLES = 48;
const drawn = new Map<string, Sample | null>();

/** Paths of the past over some sessions from a log-moneyness on, cached for later callers. */
export function pastPaths({ bars, sampling, drift }: PastTerms, sessions: number, start: number): Sample | null {
  const { close } = bars;
  const key = [close.length, close.at(-1), close[0], sessions, start, sampling, drift].join();
  const found = drawn.has(key) ? drawn.get(key)! : drawPaths(bars, { sessions, start, sampling, drift });
  drawn.delete(key);
  drawn.set(key, found);
  if (drawn.size > MOST_SAMPLES) drawn.delete(drawn.keys().next().value!);
  return found;
}

/** Paths of the past to an expiry. */
export function sampleTo(
  snapshot: Pick<LoadedSnapshot, 'kind' | 'exercise' | 'price'>,
  fit: ExpiryFit,
  past: PastTerms,
): Sample | null {
  if (!(fit.forward > 0) || !(fit.years > 0)) return null;
  const { spot } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  return pastPaths(past, fit.sessions, Math.log(spot / fit.forward));
}
