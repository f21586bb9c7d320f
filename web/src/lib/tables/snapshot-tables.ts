import { QUALITY_WEIGHTS, reasonName, type QualityParts } from '@umwelt/core';
import type { FittedSlice, LoadedSnapshot, ValuedSlice } from '$lib/data';
import type { DataCell, DataColumn, DataTable } from './data-table';

const day = (name: string): DataColumn => ({ name, type: 'day' });
const text = (name: string): DataColumn => ({ name, type: 'text' });
const number = (name: string): DataColumn => ({ name, type: 'number' });

const QUOTES = ['bid', 'ask', 'last', 'volume', 'openInterest'] as const;
const VALUES = ['vol', 'theory', 'delta', 'gamma', 'theta', 'vega', 'rho', 'itm'] as const;

/**
 * Contracts of some expiries, a row each: their quotes, the vols that these imply, and what they are worth.
 *
 * @param at positions of the expiries
 */
export function chainTable(
  snapshot: LoadedSnapshot,
  values: readonly ValuedSlice[],
  basis: string,
  at: readonly number[],
): DataTable {
  const rows = at.flatMap((i) => contractRows(snapshot, snapshot.slices[i]!, values[i]!, basis));
  return {
    columns: [
      { name: 'asof', type: 'instant' },
      text('symbol'),
      day('expiry'),
      number('strike'),
      text('side'),
      ...['bid', 'ask', 'last', 'volume', 'open_interest'].map(number),
      ...['bid_vol', 'mid_vol', 'ask_vol'].map(number),
      text('reason'),
      text('basis'),
      ...VALUES.map((name) => number(name === 'vol' ? 'basis_vol' : name)),
    ],
    rows,
  };
}

function contractRows({ symbol, asof }: LoadedSnapshot, slice: FittedSlice, values: ValuedSlice, basis: string) {
  return Array.from(slice.strike).flatMap((strike, i) =>
    (['call', 'put'] as const).map((side): DataCell[] => {
      const [quotes, worth] = [slice[side], values[side]];
      const vols = side === 'call' ? values.callVols : values.putVols;
      const reason = vols.reason[i]!;
      return [
        ...[asof, symbol, slice.expiry, strike, side === 'call' ? 'C' : 'P'],
        ...QUOTES.map((name) => quotes[name][i]!),
        ...[vols.bid[i]!, vols.mid[i]!, vols.ask[i]!],
        reason === 0 ? null : reasonName(reason),
        basis,
        ...VALUES.map((name) => worth[name][i]!),
      ];
    }),
  );
}

/** A row per expiry: which one it is, what is said of it, and why it is set aside. */
function perExpiry(
  { symbol, asof, slices }: LoadedSnapshot,
  names: readonly string[],
  valuesOf: (fit: FittedSlice['fit']) => number[],
): DataTable {
  return {
    columns: [
      { name: 'asof', type: 'instant' },
      text('symbol'),
      day('expiry'),
      text('settlement'),
      ...names.map(number),
      text('set_aside'),
      text('borrowed_from'),
    ],
    rows: slices.map(({ expiry, settlement, fit }) => [
      ...[asof, symbol, expiry, settlement],
      ...valuesOf(fit),
      fit.expiryAside,
      fit.borrowed ? `${fit.borrowed.source} ${fit.borrowed.takenFrom}` : null,
    ]),
  };
}

/** Expiries, a row each: forward, vols and moves. */
export function expiriesTable(snapshot: LoadedSnapshot): DataTable {
  const skews = ['rr_25', 'bf_25', 'rr_10', 'bf_10'];
  const moves = ['straddle_move', 'deviation_move', 'rmse', 'usable', 'contracts'];
  return perExpiry(snapshot, ['days', 'forward', 'rate', 'atm_vol', ...skews, ...moves], (fit) => [
    ...[fit.days, fit.forward, fit.rate, fit.atmVol],
    ...[fit.riskReversal25, fit.butterfly25, fit.riskReversal10, fit.butterfly10],
    ...[fit.straddleMove, fit.deviationMove, fit.rmse, fit.usable, fit.contracts],
  ]);
}

const PARTS = Object.keys(QUALITY_WEIGHTS) as (keyof QualityParts)[];

/** The score of each expiry, from 0 to 100, and its parts, from 0 to 1. */
export function qualityTable(snapshot: LoadedSnapshot): DataTable {
  return perExpiry(snapshot, ['quality', ...PARTS, 'contracts'], (fit) => [
    fit.quality,
    ...PARTS.map((name) => fit.qualityParts[name]),
    fit.contracts,
  ]);
}
