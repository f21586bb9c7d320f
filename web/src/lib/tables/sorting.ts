import {
  createTable,
  getCoreRowModel,
  getSortedRowModel,
  type ColumnDef,
  type SortingState,
} from '@tanstack/table-core';

/** A column that rows can be sorted by. */
export interface SortColumn<Row> {
  id: string;
  /** What is sorted by; null and NaN come last. */
  value: (row: Row) => string | number | null;
}

/** The rows in an order; what has no value comes last either way. */
export function sortedRows<Row>(
  rows: readonly Row[],
  columns: readonly SortColumn<Row>[],
  sorting: SortingState,
): Row[] {
  const definitions: ColumnDef<Row>[] = columns.map(({ id, value }) => ({
    id,
    accessorFn: (row) => {
      const held = value(row);
      return held === null || Number.isNaN(held) ? undefined : held;
    },
    sortUndefined: 'last',
  }));
  const table = createTable<Row>({
    data: rows as Row[],
    columns: definitions,
    state: { sorting, columnPinning: { left: [], right: [] } },
    onStateChange: () => undefined,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    renderFallbackValue: null,
  });
  return table.getSortedRowModel().rows.map((row) => row.original);
}

/** The order after a click on a column: falling first for numbers, then rising; words rise first. */
export function nextSorting(sorting: SortingState, id: string, isText: boolean): SortingState {
  const current = sorting[0]?.id === id ? sorting[0] : undefined;
  return [{ id, desc: current ? !current.desc : !isText }];
}
