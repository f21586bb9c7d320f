import {
  curveVol,
  findArbitrage,
  isArbitrageFree,
  isCrossed,
  priceContract,
  type Arbitrage,
  type Curve,
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

/** The curves in view that are used, by time, as quotes at the listed strikes without a spread. */
function quotedCurves({ snapshot }: Pick<Valued, 'snapshot'>): (QuotedExpiry & { curve: Curve })[] {
  return snapshot.slices
    .flatMap(({ fit, strike, expiry }) => {
      const { curve, forward, years, rate, discount } = fit;
      if (!curve || !(forward > 0) || !(years > 0) || fit.expiryAside) return [];
      const vol = strike.map((level) => curveVol(curve, Math.log(level / forward)));
      const of = (name: 'call' | 'put') => {
        const price = strike.map(
          (level, i) =>
            priceContract({ model: 'black-76', side: name, forward, strike: level, years, rate, vol: vol[i]! }).price,
        );
        return { bid: price, ask: price, bidVol: vol, askVol: vol };
      };
      return [{ expiry, years, forward, discount, isEarly: false, strike, curve, call: of('call'), put: of('put') }];
    })
    .sort((a, b) => a.years - b.years);
}

/** Where curves contradict themselves or the one before, at listed strikes: what is fitted does not, what is borrowed may. */
export function arbitrageOfCurves(shown: Pick<Valued, 'snapshot'>): Arbitrage[] {
  const isUnsound = shown.snapshot.slices.some(({ fit }) => fit.borrowed && !fit.expiryAside);
  if (!isUnsound) return [];
  return findArbitrage(quotedCurves(shown));
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

/** Contradictions as a file has them: of quotes, and of curves. */
export function arbitrageTable(found: readonly Arbitrage[], ofCurves: readonly Arbitrage[] = []): DataTable {
  const all = [...ofCurves.map((one) => ({ ...one, of: 'curves' })), ...found.map((one) => ({ ...one, of: 'quotes' }))];
  return {
    columns: [
      { name: 'of', type: 'text' },
      { name: 'kind', type: 'text' },
      { name: 'expiry', type: 'day' },
      { name: 'against', type: 'text' },
      { name: 'side', type: 'text' },
      { name: 'strikes', type: 'text' },
      ...numberColumns(['at_mid', 'after_spread']),
    ],
    rows: all.map((one) => [
      one.of,
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
