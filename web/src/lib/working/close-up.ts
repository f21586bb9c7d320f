import {
  curveSlope,
  curveVol,
  expiryTerms,
  midsOf,
  oddsDifferences,
  valueContract,
  writtenOn,
  type Basis,
  type ContractView,
  type Difference,
  type Sample,
} from '@umwelt/core';
import type { Focus } from '$lib/data/focus';
import type { Valued } from '$lib/data/valued';
import { choiceOf } from '$lib/data/pricing';
import { numberColumns, type DataTable } from '$lib/tables/data-table';

/** The bases in the order in which the close-up compares them. */
export const COMPARED: readonly Basis[] = ['own', 'curve', 'level', 'index', 'realized', 'manual'];

/** One contract as the close-up shows it. */
export interface CloseUp {
  bid: number;
  ask: number;
  mid: number;
  /** Implied vol of the quote in use. */
  vol: number;
  /** Code of the reason why there is none; 0 where there is. */
  reason: number;
  volume: number;
  openInterest: number;
  /** Mid less the theoretical value of the basis in use. */
  edge: number;
  /** How far the strike lies from the forward, as a share. */
  distance: number;
  breakEven: number;
  views: { basis: Basis; view: ContractView }[];
  /** The view of the basis in use. */
  chosen: ContractView;
}

/**
 * The lit contract under every basis.
 *
 * @param sample paths of the past to its expiry, where `realized` takes its odds from them
 */
export function closeUpOf(shown: Valued, focus: Focus, sample?: Sample | null): CloseUp {
  const slice = shown.snapshot.slices[focus.slice]!;
  const values = shown.values[focus.slice]!;
  const isCall = focus.side === 'call';
  const quotes = isCall ? slice.call : slice.put;
  const vols = isCall ? values.callVols : values.putVols;
  const i = focus.index;
  const sign = isCall ? 1 : -1;
  const own = vols[shown.quotes][i]!;
  const views = COMPARED.map((basis) => ({
    basis,
    view: valueContract(
      i,
      slice.strike,
      slice.fit,
      writtenOn(shown.snapshot, shown.snapshot),
      choiceOf(basis, shown.terms, focus.slice, sample),
      { own: vols[shown.quotes], mid: midsOf(quotes) },
      sign,
    ),
  }));
  const chosen = views.find(({ basis }) => basis === shown.basis)!.view;
  const mid = 0.5 * (quotes.bid[i]! + quotes.ask[i]!);
  return {
    bid: quotes.bid[i]!,
    ask: quotes.ask[i]!,
    mid,
    vol: own,
    reason: vols.reason[i]!,
    volume: quotes.volume[i]!,
    openInterest: quotes.openInterest[i]!,
    edge: mid - chosen.theory,
    distance: focus.strike / slice.fit.forward - 1,
    breakEven: focus.strike + sign * mid,
    views,
    chosen,
  };
}

/** The comparison of the bases, a row each. */
export function basesTable(
  { views }: CloseUp,
  { symbol, asof }: { symbol: string; asof: string },
  { expiry, strike, side }: Focus,
): DataTable {
  const names = ['vol', 'theory', 'delta', 'itm', 'touch', 'breakEven'] as const;
  return {
    columns: [
      { name: 'asof', type: 'instant' },
      { name: 'symbol', type: 'text' },
      { name: 'expiry', type: 'day' },
      ...numberColumns(['strike']),
      { name: 'side', type: 'text' },
      { name: 'basis', type: 'text' },
      ...numberColumns(names),
    ],
    rows: views.map(({ basis, view }) => [
      ...[asof, symbol, expiry, strike, side === 'call' ? 'C' : 'P', basis],
      ...names.map((name) => view[name]),
    ]),
  };
}

/** What each assumption does to the odds of a contract, the largest first. */
export function differencesOf(shown: Valued, { slice, strike, side }: Focus, { vol }: CloseUp): Difference[] {
  const { snapshot, terms } = shown;
  const { fit } = snapshot.slices[slice]!;
  const k = Math.log(strike / fit.forward);
  return oddsDifferences({
    ...{ sign: side === 'call' ? 1 : -1, level: strike, forward: fit.forward, years: fit.years },
    spot: expiryTerms(writtenOn(snapshot, snapshot), fit).spot,
    atmVol: fit.atmVol,
    curveVol: fit.curve ? curveVol(fit.curve, k) : NaN,
    curveSlope: fit.curve ? curveSlope(fit.curve, k) : NaN,
    ownVol: vol,
    indexVol: terms.indexVol,
    realizedVol: terms.realizedVols[slice] ?? NaN,
  });
}
