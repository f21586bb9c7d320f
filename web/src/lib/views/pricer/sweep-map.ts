import { inputOf, withInput, type Contract, type Input, type Output, type SweepRequest } from '@umwelt/core';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import { rangeOf } from './sweep';
import { inputName } from './words';

/** An output over two inputs: the middle row and the middle column are those of the contract. */
export interface SweepMap {
  along: Input;
  by: Input;
  columns: readonly number[];
  rows: readonly number[];
  lines: { contract: Contract; request: SweepRequest }[];
}

/** Steps to each side of the contract's own value. */
const REACH = 4;
/** Share of the way to the ends of a sweep that a map goes: what is further out is all alike. */
const SHARE = 0.6;

/** Values around that of the contract; times go from all that is left to a ninth of it. */
function valuesAround(contract: Contract, input: Input): number[] {
  const now = inputOf(contract, input);
  if (input === 'years')
    return Array.from({ length: 2 * REACH + 1 }, (_, i) => (now * (2 * REACH + 1 - i)) / (2 * REACH + 1));
  const [low, high] = rangeOf(contract, input);
  return Array.from({ length: 2 * REACH + 1 }, (_, i) => {
    const share = ((i - REACH) / REACH) * SHARE;
    return share < 0 ? now + share * (now - low) : now + share * (high - now);
  });
}

/** What the worker is to follow for a map. */
export function sweepMap(contract: Contract, along: Input, by: Input, output: Output): SweepMap {
  const columns = valuesAround(contract, along);
  const rows = valuesAround(contract, by);
  const values = Float64Array.from(columns);
  const lines = rows.map((value) => ({
    contract: withInput(contract, by, value),
    request: { input: along, values, output },
  }));
  return { along, by, columns, rows, lines };
}

/** How strong each cell is tinted, from 0 to 1: from the least to the most of the map. */
export function tints(curves: readonly Float64Array[]): number[][] {
  const known = curves.flatMap((curve) => Array.from(curve).filter(Number.isFinite));
  const [low, high] = [Math.min(...known), Math.max(...known)];
  return curves.map((curve) =>
    Array.from(curve, (value) => (high > low && Number.isFinite(value) ? (value - low) / (high - low) : 0)),
  );
}

/** The map as a table, a row a cell. */
export function mapTable(
  map: SweepMap,
  curves: readonly Float64Array[],
  contract: Contract,
  output: Output,
  factor: number,
): DataTable {
  const name = (input: Input) => (input === 'years' ? 'years' : inputName(input, contract.model).replace(' ', '_'));
  return {
    columns: numberColumns([name(map.by), name(map.along), output.toLowerCase()]),
    rows: map.rows.flatMap((row, i) => map.columns.map((column, j) => [row, column, curves[i]![j]! * factor])),
  };
}
