import {
  findArbitrage,
  isArbitrageFree,
  isCrossed,
  type Arbitrage,
  type QuotedExpiry,
  type SideQuotes,
  type SideVols,
} from '@umwelt/core';
import { figures, shortDay, type Sentence } from '$lib/formats';
import type { Valued } from '$lib/state/workbench.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';

const side = (quotes: SideQuotes, vols: SideVols) => ({
  bid: quotes.bid,
  ask: quotes.ask,
  bidVol: vols.bid,
  askVol: vols.ask,
});

/** The quotes in view as they are looked through: of expiries that are used, ascending in time. */
export function quotedExpiries({ snapshot, values }: Pick<Valued, 'snapshot' | 'values'>): QuotedExpiry[] {
  return snapshot.slices
    .map((slice, i): QuotedExpiry | null => {
      const { fit } = slice;
      if (!(fit.forward > 0) || !(fit.years > 0) || fit.expiryAside) return null;
      const { callVols, putVols } = values[i]!;
      return {
        expiry: slice.expiry,
        years: fit.years,
        forward: fit.forward,
        discount: fit.discount,
        isEarly: snapshot.exercise === 'american',
        strike: slice.strike,
        call: side(slice.call, callVols),
        put: side(slice.put, putVols),
      };
    })
    .filter((expiry) => expiry !== null)
    .sort((a, b) => a.years - b.years);
}

/** What contradicts itself in the quotes in view. */
export function arbitrageOf(shown: Pick<Valued, 'snapshot' | 'values'>): Arbitrage[] {
  return findArbitrage(quotedExpiries(shown));
}

/** What the curves and the quotes are worth as a whole. */
export function arbitrageSentence({ snapshot }: Pick<Valued, 'snapshot'>, found: readonly Arbitrage[]): Sentence {
  const curves = snapshot.slices
    .filter(({ fit }) => fit.curve && !fit.expiryAside && fit.years > 0)
    .map(({ fit }) => fit.curve!)
    .sort((a, b) => a.years - b.years);
  const folded = curves.filter((curve) => !isArbitrageFree(curve)).length;
  const crossed = curves.slice(1).filter((curve, i) => isCrossed(curves[i]!, curve)).length;
  const earned = found.filter(({ afterSpread }) => afterSpread > 0).length;
  const lead =
    earned === 0
      ? 'Nothing to be earned after the spread.'
      : `${figures.counted(earned, 'quote')} contradict the others.`;
  const curveWords =
    folded + crossed === 0
      ? 'The curves have no butterfly or calendar arbitrage.'
      : `Of the curves ${figures.count(folded)} have a butterfly arbitrage and ${figures.count(crossed)} cross the one before.`;
  const within = found.length - earned;
  const rest =
    within > 0 ? `${curveWords} ${figures.counted(within, 'contradiction')} of mids within the spread.` : curveWords;
  return { lead, rest };
}

/** Strikes of a contradiction, side and what it is against. */
export function placeWords({ expiry, against, side: of, strikes }: Arbitrage): string {
  const sides = of === 'both' ? '' : ` ${of}${strikes.length > 1 ? 's' : ''}`;
  const where = `${shortDay(expiry)} ${strikes.map(figures.strike).join(' / ')}${sides}`;
  return against ? `${where} against ${shortDay(against)}` : where;
}

export function arbitrageTable(found: readonly Arbitrage[]): DataTable {
  return {
    columns: [
      { name: 'kind', type: 'text' },
      { name: 'expiry', type: 'day' },
      { name: 'against', type: 'text' },
      { name: 'side', type: 'text' },
      { name: 'strikes', type: 'text' },
      ...numberColumns(['at_mid', 'after_spread']),
    ],
    rows: found.map((one) => [
      one.kind,
      one.expiry,
      one.against ?? '',
      one.side,
      one.strikes.join(' '),
      one.atMid,
      one.afterSpread,
    ]),
  };
}
