import {
  annualized,
  expiryTerms,
  priceContract,
  reasonName,
  writtenOn,
  type ContractValues,
  type ModelId,
  type Side,
} from '@umwelt/core';
import { figures, reasonWords } from '$lib/formats';
import type { FittedSlice, LoadedSnapshot, ValuedSlice } from '$lib/data';
import { CHAIN_COLUMNS, type ChainColumnId } from '$lib/columns';

/** An expiry with its values, as rows are written from it. */
export interface ChainSlice {
  snapshot: LoadedSnapshot;
  slice: FittedSlice;
  values: ValuedSlice;
}

export interface CellSettings {
  columns: readonly ChainColumnId[];
  /** The quote that IV is read from. */
  quotes: 'bid' | 'mid' | 'ask';
  decimals: number;
  /** What Greeks and money are multiplied by: units of a contract, times contracts. */
  times: number;
}

/** Where theory lies against the quote: under the bid the quote is rich, over the ask it is cheap. */
export type Standing = 'rich' | 'cheap' | 'inside' | 'none';

/** One side of a row. */
export interface ChainSide {
  /** Texts of the cells, in the order of the columns of the calls. */
  texts: string[];
  standing: Standing;
  /** Where theory lies from bid (0) to ask (1), a little beyond both; NaN where there is no quote. */
  place: number;
  /** Why the quote has no vol, or is set aside; empty where neither. */
  reason: string;
  /** Share of the largest open interest of the expiry. */
  openShare: number;
}

const BEYOND = 0.4;

function standingOf(bid: number, ask: number, theory: number, isUsable: boolean): Standing {
  if (!isUsable || !Number.isFinite(theory)) return 'none';
  if (theory < bid) return 'rich';
  return theory > ask ? 'cheap' : 'inside';
}

/** The Greeks that the worker does not send, of one contract by its vol on the basis in use. */
export function higherGreeks(
  { snapshot, slice }: Pick<ChainSlice, 'snapshot' | 'slice'>,
  side: Side,
  i: number,
  vol: number,
): ContractValues {
  const on = writtenOn(snapshot, snapshot);
  const { fit } = slice;
  const terms = expiryTerms(on, fit);
  const isFuture = on.kind === 'future' && on.exercise === 'european';
  const model: ModelId = isFuture ? 'black-76' : on.exercise === 'american' ? 'american' : 'black-scholes-merton';
  const price = isFuture ? { forward: fit.forward } : { spot: terms.spot, yield: terms.yield };
  return priceContract(
    { model, side, strike: slice.strike[i]!, years: fit.years, rate: fit.rate, vol, ...price },
    'fast',
  );
}

/** The price that an expiry is exercised against: of a future, or without a price, its forward. */
export function underlyingIn(
  { kind, price }: Pick<LoadedSnapshot, 'kind' | 'price'>,
  { forward }: Pick<FittedSlice['fit'], 'forward'>,
): number {
  return kind === 'future' || !(price > 0) ? forward : price;
}

/** What a contract is worth if it is exercised now. */
export function intrinsicOf(side: Side, underlying: number, strike: number): number {
  return Math.max(0, (side === 'call' ? 1 : -1) * (underlying - strike));
}

/** What stands in a cell as a number, in the units of conventions.md and for one unit of the underlying. */
export function cellValue(
  id: Exclude<ChainColumnId, 'flag'>,
  given: ChainSlice,
  side: Side,
  i: number,
  quotes: CellSettings['quotes'],
): number {
  const { snapshot, slice, values } = given;
  const quoted = slice[side];
  const valued = values[side];
  const vols = side === 'call' ? values.callVols : values.putVols;
  const [bid, ask] = [quoted.bid[i]!, quoted.ask[i]!];
  const mid = 0.5 * (bid + ask);
  const theory = valued.theory[i]!;
  const underlying = underlyingIn(snapshot, slice.fit);
  const intrinsic = intrinsicOf(side, underlying, slice.strike[i]!);
  switch (id) {
    case 'mid':
    case 'cost':
      return mid;
    case 'vol':
      return vols[quotes][i]!;
    case 'bidVol':
      return vols.bid[i]!;
    case 'midVol':
      return vols.mid[i]!;
    case 'askVol':
      return vols.ask[i]!;
    case 'basisVol':
      return valued.vol[i]!;
    case 'place':
      return (theory - bid) / (ask - bid);
    case 'edge':
      return mid - theory;
    case 'edgeBid':
      return bid - theory;
    case 'edgeAsk':
      return theory - ask;
    case 'intrinsic':
      return intrinsic;
    case 'time':
      return mid - intrinsic;
    case 'carry':
      return annualized((mid - intrinsic) / underlying, slice.fit.days);
    case 'theory':
    case 'delta':
    case 'gamma':
    case 'theta':
    case 'vega':
    case 'rho':
    case 'itm':
    case 'touch':
    case 'breakEven':
      return valued[id][i]!;
    case 'vanna':
    case 'volga':
    case 'charm':
    case 'speed':
    case 'color':
    case 'veta':
    case 'zomma':
      return valued.vol[i]! > 0 ? higherGreeks(given, side, i, valued.vol[i]!)[id] : NaN;
    default:
      return quoted[id][i]!;
  }
}

/** Figures that are seen of a small Greek. */
const SEEN = 2;

function textOf(id: ChainColumnId, value: number, price: number, { decimals, times }: CellSettings): string {
  const isMany = times !== 1 && CHAIN_COLUMNS[id].isMoney === true;
  const total = isMany ? value * times : value;
  switch (id) {
    case 'volume':
    case 'openInterest':
    case 'bidSize':
    case 'askSize':
      return figures.count(value);
    case 'itm':
    case 'touch':
    case 'breakEven':
    case 'carry':
      return figures.fixed(100 * value, 1);
    case 'vol':
    case 'bidVol':
    case 'midVol':
    case 'askVol':
    case 'basisVol':
      return figures.vol(value);
    case 'delta':
      return figures.fixed(total, 2);
    case 'gamma':
      return figures.fixed(total, isMany ? 2 : figures.gammaDecimals(price));
    case 'theta':
    case 'vega':
    case 'rho':
      return figures.fixed(total, isMany ? 2 : decimals + 1);
    case 'edge':
    case 'edgeBid':
    case 'edgeAsk':
      return figures.signed(total, decimals);
    case 'place':
    case 'flag':
      return '';
    default:
      return CHAIN_COLUMNS[id].isHigher ? figures.significant(total, SEEN) : figures.fixed(total, decimals);
  }
}

/** Reasons by a word, where a column has no room for more. */
const SHORT: Partial<Record<ReturnType<typeof reasonName>, string>> = {
  'below-intrinsic': 'too low',
  'above-maximum': 'too high',
  'zero-bid': 'no bid',
  'off-curve': 'off curve',
  'off-parity': 'off parity',
  'by-hand': 'by hand',
  'no-forward': 'no forward',
};

/** One side of a row as it is drawn. */
export function chainSide(given: ChainSlice, side: Side, i: number, settings: CellSettings): ChainSide {
  const { slice, values, snapshot } = given;
  const vols = side === 'call' ? values.callVols : values.putVols;
  const code = vols.reason[i]!;
  const [bid, ask, theory] = [slice[side].bid[i]!, slice[side].ask[i]!, values[side].theory[i]!];
  const place = (theory - bid) / (ask - bid);
  return {
    texts: settings.columns.map((id) => {
      if (id === 'flag') return code === 0 ? '' : (SHORT[reasonName(code)] ?? reasonName(code));
      return textOf(id, cellValue(id, given, side, i, settings.quotes), snapshot.price, settings);
    }),
    standing: standingOf(bid, ask, theory, code === 0),
    place: Number.isFinite(place) && code === 0 ? Math.min(1 + BEYOND, Math.max(-BEYOND, place)) : NaN,
    reason: code === 0 ? '' : reasonWords(reasonName(code)),
    openShare: (slice[side].openInterest[i]! || 0) / mostOpen(slice),
  };
}

const MOST_OPEN = new WeakMap<FittedSlice, number>();

/** The largest open interest of an expiry; 1 at least. */
function mostOpen(slice: FittedSlice): number {
  const known = MOST_OPEN.get(slice);
  if (known !== undefined) return known;
  let most = 1;
  for (const side of [slice.call, slice.put]) {
    for (const value of side.openInterest) if (value > most) most = value;
  }
  MOST_OPEN.set(slice, most);
  return most;
}
