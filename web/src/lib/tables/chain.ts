import { reasonName, type SideQuotes, type SideValues, type SideVols } from '@umwelt/core';
import { figures, reasonWords } from '$lib/formats';
import type { ColumnSet } from '$lib/state/context';
import type { FittedSlice, ValuedSlice } from '$lib/workers';

export type ChainColumnId =
  'volume' | 'openInterest' | 'itm' | 'vega' | 'theta' | 'gamma' | 'delta' | 'vol' | 'theory' | 'bid' | 'mid' | 'ask';

interface ColumnText {
  label: string;
  /** Least width in pixels: a table of fixed columns need not be laid out anew when its numbers change. */
  width: number;
  title: string;
}

export const CHAIN_COLUMNS: Record<ChainColumnId, ColumnText> = {
  volume: { label: 'volume', width: 46, title: 'contracts traded in the session' },
  openInterest: { label: 'open', width: 48, title: 'contracts open' },
  itm: { label: 'itm %', width: 36, title: 'odds to end in the money, by the basis in use' },
  vega: { label: 'vega', width: 44, title: 'per vol point' },
  theta: { label: 'theta', width: 50, title: 'per calendar day' },
  gamma: { label: 'gamma', width: 54, title: 'change of delta per unit of price' },
  delta: { label: 'delta', width: 40, title: 'change of the price per unit of price' },
  vol: { label: 'IV', width: 36, title: 'implied vol of the quote in use, in points' },
  theory: { label: 'theory', width: 58, title: 'value on the basis in use; ▲ quote rich, ▼ quote cheap' },
  bid: { label: 'bid', width: 52, title: 'best bid' },
  mid: { label: 'mid', width: 52, title: 'middle of bid and ask' },
  ask: { label: 'ask', width: 52, title: 'best ask' },
};

/** Width of the column of strikes. */
export const STRIKE_WIDTH = 60;

/** Columns of a set, from the edge of the table to the strikes on the side of the calls. */
export const CHAIN_SETS: Record<ColumnSet, readonly ChainColumnId[]> = {
  quotes: ['volume', 'openInterest', 'itm', 'delta', 'vol', 'theory', 'bid', 'mid', 'ask'],
  greeks: ['itm', 'vega', 'theta', 'gamma', 'delta', 'vol', 'theory', 'mid'],
  all: ['volume', 'openInterest', 'itm', 'vega', 'theta', 'gamma', 'delta', 'vol', 'theory', 'bid', 'mid', 'ask'],
};

const QUOTE_COLUMNS: readonly ChainColumnId[] = ['bid', 'mid', 'ask'];

/** The columns of the puts: mirrored, but bid, mid and ask keep their order. */
export function putColumns(calls: readonly ChainColumnId[]): ChainColumnId[] {
  const isQuote = (id: ChainColumnId) => QUOTE_COLUMNS.includes(id);
  return [...calls.filter(isQuote), ...calls.filter((id) => !isQuote(id)).reverse()];
}

/** Where theory lies against the quote: under the bid the quote is rich, over the ask it is cheap. */
export type Verdict = 'rich' | 'cheap' | 'inside' | 'none';

/** One side of a row. */
export interface ChainSide {
  /** Texts of the cells, in the order of the columns of the side. */
  texts: string[];
  verdict: Verdict;
  /** Why the quote has no vol; empty where it has. */
  reason: string;
  /** Share of the largest open interest of the expiry. */
  openShare: number;
}

export interface ChainRow {
  strike: number;
  call: ChainSide;
  put: ChainSide;
}

function verdictOf(bid: number, ask: number, theory: number, isUsable: boolean): Verdict {
  if (!isUsable || !Number.isFinite(theory)) return 'none';
  if (theory < bid) return 'rich';
  return theory > ask ? 'cheap' : 'inside';
}

interface SideInput {
  quotes: SideQuotes;
  values: SideValues;
  vols: SideVols;
}

function textOf(
  id: ChainColumnId,
  { quotes, values }: SideInput,
  own: Float64Array,
  i: number,
  gammaDecimals: number,
): string {
  switch (id) {
    case 'volume':
      return figures.count(quotes.volume[i]);
    case 'openInterest':
      return figures.count(quotes.openInterest[i]);
    case 'itm':
      return figures.fixed(100 * values.itm[i]!, 1);
    case 'delta':
      return figures.fixed(values.delta[i], 2);
    case 'gamma':
      return figures.fixed(values.gamma[i], gammaDecimals);
    case 'theta':
    case 'vega':
      return figures.fixed(values[id][i], 3);
    case 'vol':
      return figures.vol(own[i]);
    case 'theory':
      return figures.fixed(values.theory[i], 2);
    case 'mid':
      return figures.fixed(0.5 * (quotes.bid[i]! + quotes.ask[i]!), 2);
    default:
      return figures.fixed(quotes[id][i], 2);
  }
}

/**
 * The rows of an expiry as they are drawn, the highest strike first.
 *
 * @param quotesInUse the quote that IV is read from
 * @param price of the underlying, for the decimals of gamma
 */
export function chainRows(
  slice: FittedSlice,
  values: ValuedSlice,
  set: ColumnSet,
  quotesInUse: 'bid' | 'mid' | 'ask',
  price: number,
): ChainRow[] {
  const decimals = figures.gammaDecimals(price);
  const callIds = CHAIN_SETS[set];
  const inputs = {
    call: { quotes: slice.call, values: values.call, vols: values.callVols, ids: callIds },
    put: { quotes: slice.put, values: values.put, vols: values.putVols, ids: putColumns(callIds) },
  };
  const most = Math.max(
    1,
    ...[slice.call, slice.put].flatMap((side) => Array.from(side.openInterest).filter(Number.isFinite)),
  );
  const sideAt = (side: 'call' | 'put', i: number): ChainSide => {
    const input = inputs[side];
    const code = input.vols.reason[i]!;
    return {
      texts: input.ids.map((id) => textOf(id, input, input.vols[quotesInUse], i, decimals)),
      verdict: verdictOf(input.quotes.bid[i]!, input.quotes.ask[i]!, input.values.theory[i]!, code === 0),
      reason: code === 0 ? '' : reasonWords(reasonName(code)),
      openShare: (input.quotes.openInterest[i]! || 0) / most,
    };
  };
  return Array.from(slice.strike, (strike, i) => ({
    strike,
    call: sideAt('call', i),
    put: sideAt('put', i),
  })).reverse();
}
