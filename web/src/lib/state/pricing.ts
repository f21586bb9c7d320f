import type { PricingTerms } from '$lib/workers/pricing';
import type { LoadedSnapshot } from '$lib/workers/snapshot';
import type { Context } from './context';
import { barsTo, indexVolOf, realizedOver, type KnownBars } from './measures';

/** What the address says of the bases. */
export type PricingAsked = Pick<Context, 'manual' | 'realizedBy' | 'realizedWindow' | 'pastLaw' | 'drift'>;

/**
 * What the bases bring along at the moment of a snapshot.
 *
 * @param row the last row of the history that is over then
 */
export function pricingTerms(
  snapshot: LoadedSnapshot,
  bars: KnownBars,
  row: number,
  { manual, realizedBy, realizedWindow, pastLaw, drift }: PricingAsked,
): PricingTerms {
  const { slices } = snapshot;
  const volOver = (sessions: number) => realizedOver(bars, row, sessions, realizedBy);
  // One window for all is worked out once.
  const vol = realizedWindow > 0 ? volOver(realizedWindow) : NaN;
  const last = bars.at[row] ?? -1;
  const { close, high, low } = barsTo(bars, last);
  return {
    manual,
    indexVol: indexVolOf(snapshot),
    realizedVols: slices.map(({ fit }) => (realizedWindow > 0 ? vol : volOver(fit.sessions))),
    past: pastLaw === 'lognormal' ? null : { bars: { close, high, low }, sampling: pastLaw, drift },
    usualPast: { bars: { close, high, low }, sampling: 'stretches', drift },
  };
}
