import { SIDE_VALUES, type SideValues, type SideVols } from '@umwelt/core';
import type { ValuedSlice } from './snapshot';

/**
 * Columns of all expiries and sides in one block of doubles: handing one buffer from the worker to the page is
 * far cheaper than handing over hundreds.
 */

const VOL_NAMES = ['bid', 'mid', 'ask'] as const satisfies readonly (keyof SideVols)[];

/** Both sides of one expiry. */
export interface Sides<T> {
  call: T;
  put: T;
}

function pack<T>(slices: readonly Sides<T>[], names: readonly (keyof T)[]): Float64Array {
  const columns = slices
    .flatMap(({ call, put }) => [call, put])
    .flatMap((side) => names.map((name) => side[name] as Float64Array));
  const block = new Float64Array(columns.reduce((sum, column) => sum + column.length, 0));
  let at = 0;
  for (const column of columns) {
    block.set(column, at);
    at += column.length;
  }
  return block;
}

function unpack<T>(block: Float64Array, lengths: readonly number[], names: readonly (keyof T)[]): Sides<T>[] {
  let at = 0;
  const side = (length: number) =>
    Object.fromEntries(names.map((name) => [name, block.subarray(at, (at += length))])) as unknown as T;
  return lengths.map((length) => ({ call: side(length), put: side(length) }));
}

/** Values of all expiries as one block. */
export function packValues(slices: readonly Sides<SideValues>[]): Float64Array {
  return pack(slices, SIDE_VALUES);
}

/** Vols of all expiries as one block; the codes of the reasons as numbers behind them. */
export function packVols(slices: readonly Sides<SideVols>[]): Float64Array {
  return pack<SideVols>(slices, [...VOL_NAMES, 'reason']);
}

/**
 * What the page works with, from the two blocks; the columns are views into them.
 *
 * @param lengths strikes of each expiry, in the order of the blocks
 */
export function unpackSlices(values: Float64Array, vols: Float64Array, lengths: readonly number[]): ValuedSlice[] {
  const valued = unpack<SideValues>(values, lengths, SIDE_VALUES);
  const solved = unpack<Omit<SideVols, 'reason'> & { reason: Float64Array }>(vols, lengths, [...VOL_NAMES, 'reason']);
  return valued.map(({ call, put }, i) => {
    const own = solved[i]!;
    return {
      call,
      put,
      callVols: { ...own.call, reason: Uint8Array.from(own.call.reason) },
      putVols: { ...own.put, reason: Uint8Array.from(own.put.reason) },
    };
  });
}
