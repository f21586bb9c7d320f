import { listedPair, pairOn, pairStrikes, type EquidistantPair, type PairUnit, type ExpiryId } from '@umwelt/core';
import { listedPairOf, usedExpiries, type CurveExpiry, type KnownExpiry, type PairPlace } from '$lib/film';
import { figures, shortExpiry, type Sentence } from '$lib/formats';
import { numberColumns, type DataTable } from '$lib/tables';
import type { LoadedSnapshot, ValuedSlice } from '$lib/data';

/** A pair of an expiry; where its strikes are listed and quoted with their mids, else by the curve. */
export interface PairRow extends EquidistantPair, ExpiryId {
  days: number;
  years: number;
  forward: number;
  isQuoted: boolean;
}

export interface PairChoice {
  unit: PairUnit;
  /** Listed strikes, per cent of the forward, or deviations. */
  size: number;
}

/** Sizes that are offered, by unit. */
export const PAIR_SIZES: Record<PairUnit, readonly number[]> = {
  steps: [1, 2, 3, 4, 5, 6, 8, 10],
  percent: [1, 2, 3, 5, 7.5, 10, 15, 20],
  deviations: [0.5, 1, 1.5, 2],
};

export const UNIT_NAMES: Record<PairUnit, string> = {
  steps: 'listed strikes',
  percent: '% of the forward',
  deviations: 'deviations',
};

/** Pairs of expiries by their curves alone; in listed strikes where these are known. */
export function curvePairs(
  expiries: readonly (KnownExpiry & Pick<CurveExpiry, 'near'>)[],
  { unit, size }: PairChoice,
): PairRow[] {
  return usedExpiries({ expiries }).flatMap((one): PairRow[] => {
    const { expiry, settlement, days, years, forward, rate, curve } = one;
    const pair = unit === 'steps' ? listedPairOf(one, size) : pairOn(curve, rate, pairStrikes(curve, unit, size));
    return pair ? [{ ...pair, expiry, settlement, days, years, forward, isQuoted: false }] : [];
  });
}

/** Pairs of all expiries of a snapshot that have one. */
export function snapshotPairs(snapshot: LoadedSnapshot, values: readonly ValuedSlice[], choice: PairChoice): PairRow[] {
  if (choice.unit !== 'steps')
    return curvePairs(
      snapshot.slices.map(({ fit }) => fit),
      choice,
    );
  return snapshot.slices.flatMap((slice, i): PairRow[] => {
    const [used] = usedExpiries({ expiries: [slice.fit] });
    const strikes = used && listedPair(slice.strike, used.forward, choice.size);
    if (!used || !strikes) return [];
    const { expiry, settlement, days, years, forward, rate, curve } = used;
    const [put, call] = strikes.map((strike) => slice.strike.indexOf(strike)) as [number, number];
    const { putVols, callVols } = values[i]!;
    const isQuoted = putVols.reason[put] === 0 && callVols.reason[call] === 0;
    const pair = pairOn(curve, rate, strikes);
    if (!isQuoted) return [{ ...pair, expiry, settlement, days, years, forward, isQuoted }];
    const mid = (side: 'put' | 'call', at: number) => 0.5 * (slice[side].bid[at]! + slice[side].ask[at]!);
    const [putVol, callVol] = [putVols.mid[put]!, callVols.mid[call]!];
    const [putPrice, callPrice] = [mid('put', put), mid('call', call)];
    return [
      {
        ...{ expiry, settlement, days, years, forward, isQuoted, putVol, callVol, putPrice, callPrice },
        ...{ putStrike: strikes[0], callStrike: strikes[1], ratio: putPrice / callPrice, gap: putVol - callVol },
      },
    ];
  });
}

/** Where the pair of an expiry is looked for in the past. */
export function pastPlace({ putStrike, callStrike, forward, years }: PairRow, { unit, size }: PairChoice): PairPlace {
  if (unit === 'steps') return { axis: 'steps', size, years };
  return unit === 'deviations'
    ? { axis: 'standardized', put: -size, call: size, years }
    : { axis: 'forward', put: (100 * putStrike) / forward, call: (100 * callStrike) / forward, years };
}

/** The pairs as a file has them. */
export function pairsTable(rows: readonly PairRow[], { symbol, asof }: { symbol: string; asof: string }): DataTable {
  const vol = (value: number) => figures.vol(value, 2);
  return {
    columns: [
      { name: 'asof', type: 'instant' },
      { name: 'symbol', type: 'text' },
      { name: 'expiry', type: 'day' },
      { name: 'settlement', type: 'text' },
      ...numberColumns(['days'], figures.days),
      ...numberColumns(['put_strike', 'call_strike'], figures.strike),
      ...numberColumns(['put_vol', 'call_vol'], vol),
      ...numberColumns(['put_price', 'call_price', 'ratio'], (value) => figures.fixed(value, 2)),
      ...numberColumns(['gap'], (value) => figures.volChange(value, 2)),
      { name: 'of', type: 'text' },
    ],
    rows: rows.map((row) => [
      ...[asof, symbol, row.expiry, row.settlement, row.days, row.putStrike, row.callStrike, row.putVol, row.callVol],
      ...[row.putPrice, row.callPrice, row.ratio, row.gap, row.isQuoted ? 'mids' : 'curve'],
    ]),
  };
}

/**
 * What the pair of an expiry costs more on one side, and how that stands in its past.
 *
 * @param under share of the past sessions whose gap was lower, NaN where there are none
 */
export function pairSentence(row: PairRow | null, under: number, sessions: number): Sentence {
  if (!row) return { lead: 'No pair.', rest: 'No expiry has strikes this far on both sides.' };
  const [dear, cheap] = row.gap >= 0 ? ['put', 'call'] : ['call', 'put'];
  const times = row.ratio >= 1 ? row.ratio : 1 / row.ratio;
  const costly = row.ratio >= 1 ? 'put' : 'call';
  const past = Number.isFinite(under)
    ? ` The gap was lower in ${figures.percent(under, 0)} of ${figures.counted(sessions, 'session')}.`
    : '';
  return {
    lead: `${shortExpiry(row)}: the ${dear} trades ${figures.vol(Math.abs(row.gap))} points over the ${cheap} as far out,`,
    rest: `and the ${costly} costs ${figures.fixed(times, 2)} times the other.${past}`,
  };
}
