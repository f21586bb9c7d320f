import type { ModelId, Move } from '@umwelt/core';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import { inputName } from './words';

/** What moved, as a table: inputs as decimals and years, money in the unit of the screen. */
export function moveTable(move: Move, model: ModelId, factor: number): DataTable {
  return {
    columns: [{ name: 'input', type: 'text' }, ...numberColumns(['loaded', 'now', 'explains', 'by_greeks'])],
    rows: [
      ...move.steps.map(({ input, from, to, exact, estimate }) => [
        input === 'years' ? 'years' : inputName(input, model),
        from,
        to,
        exact * factor,
        estimate * factor,
      ]),
      ['to each other', NaN, NaN, move.together * factor, move.togetherEstimate * factor],
      ['price', move.before.price * factor, move.after * factor, (move.after - move.before.price) * factor, NaN],
    ],
  };
}
