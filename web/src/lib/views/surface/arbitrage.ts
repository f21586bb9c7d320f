import type { Arbitrage } from '@umwelt/core';
import { figures, shortName, type Sentence } from '$lib/formats';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import type { Contradictions } from '$lib/data';

/** What the curves and the quotes are worth as a whole. */
export function arbitrageSentence({ ofQuotes, folded, crossed }: Contradictions): Sentence {
  const earned = ofQuotes.filter(({ afterSpread }) => afterSpread > 0).length;
  const lead =
    earned === 0
      ? 'Nothing to be earned after the spread.'
      : `${figures.counted(earned, 'quote')} contradict the others.`;
  const curveWords =
    folded + crossed === 0
      ? 'The curves have no butterfly or calendar arbitrage.'
      : `Of the curves ${figures.count(folded)} have a butterfly arbitrage and ${figures.count(crossed)} cross the one before.`;
  const within = ofQuotes.length - earned;
  const rest =
    within > 0 ? `${curveWords} ${figures.counted(within, 'contradiction')} of mids within the spread.` : curveWords;
  return { lead, rest };
}

/** Strikes of a contradiction, side and what it is against. */
export function placeWords({ expiry, against, side: of, strikes }: Arbitrage): string {
  const sides = of === 'both' ? '' : ` ${of}${strikes.length > 1 ? 's' : ''}`;
  const where = `${shortName(expiry)} ${strikes.map(figures.strike).join(' / ')}${sides}`;
  return against ? `${where} against ${shortName(against)}` : where;
}

/** Contradictions as a file has them: of quotes, and of curves. */
export function arbitrageTable({ ofQuotes, ofCurves }: Contradictions): DataTable {
  const all = [
    ...ofCurves.map((one) => ({ ...one, of: 'curves' })),
    ...ofQuotes.map((one) => ({ ...one, of: 'quotes' })),
  ];
  return {
    columns: [
      { name: 'of', type: 'text' },
      { name: 'kind', type: 'text' },
      { name: 'expiry', type: 'text' },
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
