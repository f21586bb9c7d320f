import type { PricingTerms } from '$lib/data/pricing';
import type { LoadedSnapshot } from '$lib/data/snapshot';
import type { Context } from '$lib/address';
import { barsTo, indexVolOf, realizedOver, type KnownBars } from '$lib/data/measures';

/** What the address says of the bases. */
export type PricingAsked = Pick<Context, 'manual' | 'realizedBy' | 'realizedWindow' | 'pastLaw' | 'drift'>;

interface Worked {
  bars: KnownBars;
  row: number;
  asked: PricingAsked;
  terms: PricingTerms;
}

const worked = new WeakMap<LoadedSnapshot, Worked>();

/**
 * What the bases bring along at the moment of a snapshot: the same object while nothing has changed, so that what
 * depends on it need not be recomputed.
 *
 * @param row the last row of the history that is over then
 */
export function pricingTerms(
  snapshot: LoadedSnapshot,
  bars: KnownBars,
  row: number,
  asked: PricingAsked,
): PricingTerms {
  const known = worked.get(snapshot);
  if (known?.bars === bars && known.row === row && known.asked === asked) return known.terms;
  const terms = workOut(snapshot, bars, row, asked);
  worked.set(snapshot, { bars, row, asked, terms });
  return terms;
}

function workOut(
  snapshot: LoadedSnapshot,
  bars: KnownBars,
  row: number,
  { manual, realizedBy, realizedWindow, pastLaw, drift }: PricingAsked,
): PricingTerms {
  const { slices } = snapshot;
  const volOver = (sessions: number) => realizedOver(bars, row, sessions, realizedBy);
  // One window for all is computed once.
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
