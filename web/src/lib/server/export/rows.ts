import { sideOf } from '@umwelt/core';
import { and, asc, eq, getTableColumns, gte, inArray, lte, sql, type SQL } from 'drizzle-orm';
import type { PgColumn, PgTable } from 'drizzle-orm/pg-core';
import { columnsOf, columnType, CONTRACT, type ColumnType, type FileKind } from '../../layouts';
import { tables, type Queryable } from '../db';
import { bookedFills, bookedLots } from '../db/views';
import { sliceOfRow } from '../market/rows';

/** What can be exported: every kind of file that can be imported, bars inside a session, and measures. */
export const EXPORTS = [
  'underlyings',
  'rates',
  'dividends',
  'events',
  'bars',
  'intraday-bars',
  'chain',
  'prints',
  'positions',
  'fills',
  'settlements',
  'measures',
] as const;
export type ExportName = (typeof EXPORTS)[number];

export type Cell = string | number | null;

export interface ExportColumn {
  name: string;
  type: ColumnType;
}

/** What an export is narrowed to; everything where nothing is said. */
export interface ExportScope {
  symbols?: readonly string[];
  /** Moments, both included. */
  from?: Date;
  to?: Date;
}

/** A table that is exported: its columns, and its rows in batches. */
export interface ExportTable {
  name: string;
  columns: ExportColumn[];
  rows: AsyncGenerator<Cell[][]>;
}

const BATCH = 5000;
const SNAPSHOTS_PER_BATCH = 16;

/** Opens a table for export. Rows are read as they are written, in an order that an import takes. */
export function exportTable(database: Queryable, name: ExportName, scope: ExportScope): ExportTable {
  if (name === 'chain') {
    return { name, columns: columnsOfKind('chain'), rows: chainRows(database, scope) };
  }
  const source = SOURCES[name];
  const columns = source.columns.map((column) => ({ name: column, type: columnType(column) }));
  if (name === 'measures') for (const column of columns) column.type = MEASURE_TEXTS[column.name] ?? 'number';
  return { name, columns, rows: tableRows(database, source, columns, scope) };
}

const columnsOfKind = (kind: FileKind): ExportColumn[] =>
  columnsOf(kind)
    .filter((column) => column !== CONTRACT)
    .map((column) => ({ name: column, type: columnType(column) }));

const ofKind = (kind: FileKind) => columnsOfKind(kind).map(({ name }) => name);

interface Source {
  table: PgTable;
  columns: readonly string[];
  /** Order of the rows, by which they are read in batches too: a key. */
  order: readonly string[];
  /** Column of the moment or day that a scope narrows. */
  time?: string;
}

const MEASURE_TEXTS: Record<string, ColumnType> = { symbol: 'text', asof: 'instant', front_expiry: 'day' };

const SOURCES: Record<Exclude<ExportName, 'chain'>, Source> = {
  underlyings: { table: tables.underlyings, columns: ofKind('underlyings'), order: ['symbol'] },
  rates: { table: tables.rates, columns: ofKind('rates'), order: ['date', 'currency', 'days'], time: 'date' },
  dividends: {
    table: tables.dividends,
    columns: ofKind('dividends'),
    order: ['symbol', 'ex_date', 'kind'],
    time: 'ex_date',
  },
  events: { table: tables.events, columns: ofKind('events'), order: ['start', 'symbol', 'title'], time: 'start' },
  bars: { table: tables.bars, columns: ofKind('bars'), order: ['symbol', 'date'], time: 'date' },
  'intraday-bars': {
    table: tables.intradayBars,
    columns: ofKind('bars').map((name) => (name === 'date' ? 'time' : name)),
    order: ['symbol', 'time'],
    time: 'time',
  },
  prints: { table: tables.prints, columns: ofKind('prints'), order: ['symbol', 'time', 'id'], time: 'time' },
  positions: {
    table: bookedLots,
    columns: ofKind('positions'),
    order: ['symbol', 'opened', 'expiry', 'strike', 'side', 'id'],
    time: 'opened',
  },
  fills: { table: bookedFills, columns: ofKind('fills'), order: ['time', 'id'], time: 'time' },
  settlements: {
    table: tables.settlements,
    columns: ofKind('settlements'),
    order: ['symbol', 'expiry', 'settlement'],
    time: 'expiry',
  },
  measures: {
    table: tables.measures,
    columns: Object.values(getTableColumns(tables.measures)).map((column) => column.name),
    order: ['symbol', 'asof'],
    time: 'asof',
  },
};

/** How many rows there are to be exported; of a chain how many contracts, of which some may have no quote at all. */
export async function countRows(database: Queryable, name: ExportName, scope: ExportScope): Promise<number> {
  if (name === 'chain') {
    const { snapshots } = tables;
    const sum = sql<number>`coalesce(sum(${snapshots.contracts}), 0)::float8`;
    const [row] = await database.select({ sum }).from(snapshots).where(snapshotsIn(scope));
    return row!.sum;
  }
  const { table, time } = SOURCES[name];
  return database.$count(table, rowsIn(table, time, scope));
}

function rowsIn(table: PgTable, time: string | undefined, { symbols, from, to }: ExportScope): SQL | undefined {
  const at = columnsByName(table);
  const bound = (column: PgColumn, moment: Date) =>
    column.getSQLType() === 'date' ? moment.toISOString().slice(0, 10) : moment;
  const [symbol, moment] = [at.get('symbol'), time === undefined ? undefined : at.get(time)];
  return and(
    symbols && symbol ? inArray(symbol, [...symbols]) : undefined,
    from && moment ? gte(moment, bound(moment, from)) : undefined,
    to && moment ? lte(moment, bound(moment, to)) : undefined,
  );
}

const columnsByName = (table: PgTable): Map<string, PgColumn> =>
  new Map(Object.values(getTableColumns(table)).map((column) => [column.name, column]));

async function* tableRows(
  database: Queryable,
  { table, order, time }: Source,
  columns: readonly ExportColumn[],
  scope: ExportScope,
): AsyncGenerator<Cell[][]> {
  const byName = columnsByName(table);
  const keys = new Map(Object.entries(getTableColumns(table)).map(([key, column]) => [column.name, key]));
  const at = (name: string) => byName.get(name)!;
  const condition = rowsIn(table, time, scope);
  const inOrder = order.map(at);
  const position = sql`(${sql.join(inOrder, sql`, `)})`;
  // Each batch begins after the last row of the one before: an offset would read all of those again.
  let last: unknown[] | null = null;
  for (;;) {
    const after: SQL | undefined = last
      ? sql`${position} > (${sql.join(
          last.map((value, i) => sql.param(value, inOrder[i])),
          sql`, `,
        )})`
      : undefined;
    const rows = await database
      .select()
      .from(table)
      .where(and(condition, after))
      .orderBy(...inOrder.map((column) => asc(column)))
      .limit(BATCH);
    const values = rows.map((row) => (name: string) => (row as Record<string, unknown>)[keys.get(name)!]);
    if (rows.length > 0) {
      yield values.map((valueOf) => columns.map(({ name, type }) => cellOf(valueOf(name), name, type)));
    }
    const end = values.at(-1);
    if (rows.length < BATCH || !end) return;
    last = order.map(end);
  }
}

function cellOf(value: unknown, name: string, type: ColumnType): Cell {
  if (value === null || value === undefined || value === '') return null;
  if (value instanceof Date) return value.toISOString();
  if (name === 'side') return value === 'call' ? 'C' : 'P';
  if (typeof value === 'number') return Number.isFinite(value) ? value : null;
  // Exact numerics come as texts; strike 0 stands for a position in the underlying itself.
  if (type === 'number') return name === 'strike' && Number(value) === 0 ? null : Number(value);
  return String(value);
}

const FIELDS = ['bid', 'ask', 'bidSize', 'askSize', 'last', 'volume', 'openInterest'] as const;

function snapshotsIn({ symbols, from, to }: ExportScope): SQL | undefined {
  const { snapshots } = tables;
  return and(
    symbols ? inArray(snapshots.symbol, [...symbols]) : undefined,
    from ? gte(snapshots.asof, from) : undefined,
    to ? lte(snapshots.asof, to) : undefined,
  );
}

/** Quotes of snapshots, one after the other. */
async function* chainRows(database: Queryable, scope: ExportScope): AsyncGenerator<Cell[][]> {
  const { slices, snapshots } = tables;
  const heads = await database
    .select({ symbol: snapshots.symbol, asof: snapshots.asof, price: snapshots.price })
    .from(snapshots)
    .where(snapshotsIn(scope))
    .orderBy(asc(snapshots.symbol), asc(snapshots.asof));
  for (let begin = 0, end = 0; begin < heads.length; begin = end) {
    const { symbol } = heads[begin]!;
    while (end < heads.length && end - begin < SNAPSHOTS_PER_BATCH && heads[end]!.symbol === symbol) end++;
    const batch = heads.slice(begin, end);
    const priceAt = new Map(batch.map(({ asof, price }) => [asof.getTime(), price]));
    const rows = await database
      .select()
      .from(slices)
      .where(
        and(
          eq(slices.symbol, symbol),
          inArray(
            slices.asof,
            batch.map(({ asof }) => asof),
          ),
        ),
      )
      .orderBy(asc(slices.asof), asc(slices.expiry), asc(slices.settlement));
    yield rows.flatMap((row) => {
      const slice = sliceOfRow(row);
      const price = priceAt.get(row.asof.getTime()) ?? null;
      return Array.from(slice.strike).flatMap((strike, i) =>
        (['call', 'put'] as const).flatMap((side): Cell[][] => {
          const quotes = FIELDS.map((field) => sideOf(slice, side)[field][i]!);
          if (quotes.every(Number.isNaN)) return [];
          const cells = quotes.map((value) => (Number.isNaN(value) ? null : value));
          const head = [row.asof.toISOString(), symbol, row.expiry, strike, side === 'call' ? 'C' : 'P'];
          return [[...head, ...cells, price, row.settlement]];
        }),
      );
    });
  }
}
