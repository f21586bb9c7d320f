import { orNull } from '../numbers';
import { getTableColumns, getTableName, sql, type SQL } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import { tables, type Queryable } from '../db';
import {
  CellError,
  choice,
  optionalDay,
  optionalNumber,
  optionalText,
  requiredDay,
  requiredInstant,
  requiredNumber,
  requiredText,
  type Cells,
} from './cells';
import type { FileKind } from './layouts';

/** How the rows of a kind of file become rows of a table. */
export interface RecordKind {
  table: PgTable;
  /** Columns by which a row is known again. */
  key: readonly string[];
  parse: (cells: Cells) => Record<string, unknown>;
  /** Whether the symbol must be known before. */
  needsUnderlying: boolean;
}

const KINDS = { index: 'index', etf: 'etf', equity: 'equity', future: 'future', fx: 'fx' } as const;
const EXERCISES = { european: 'european', american: 'american' } as const;

function parseUnderlying(cells: Cells) {
  const kind = choice(cells, 'kind', KINDS);
  const isShare = kind === 'equity' || kind === 'etf';
  const multiplier = optionalNumber(cells, 'multiplier', { above: 0 });
  return {
    symbol: requiredText(cells, 'symbol'),
    name: requiredText(cells, 'name'),
    kind,
    currency: optionalText(cells, 'currency'),
    multiplier: Number.isFinite(multiplier) ? multiplier : isShare ? 100 : 1,
    exercise: choice(cells, 'exercise', EXERCISES, isShare ? 'american' : 'european'),
    family: optionalText(cells, 'family'),
    familyRatio: orNull(optionalNumber(cells, 'family_ratio', { above: 0 })),
    calendar: optionalText(cells, 'calendar'),
    root: optionalText(cells, 'root'),
    expires: optionalDay(cells, 'expires'),
    tick: orNull(optionalNumber(cells, 'tick', { above: 0 })),
  };
}

function parseBar(cells: Cells) {
  const price = (column: string) => requiredNumber(cells, column, { above: 0 });
  const bar = {
    symbol: requiredText(cells, 'symbol'),
    date: requiredDay(cells, 'date'),
    open: price('open'),
    high: price('high'),
    low: price('low'),
    close: price('close'),
    volume: orNull(optionalNumber(cells, 'volume', { min: 0 })),
  };
  if (bar.high < Math.max(bar.open, bar.close, bar.low)) {
    throw new CellError('high', cells('high') ?? '', 'is under another price of its bar');
  }
  if (bar.low > Math.min(bar.open, bar.close)) {
    throw new CellError('low', cells('low') ?? '', 'is over another price of its bar');
  }
  return bar;
}

function parseRate(cells: Cells) {
  const days = requiredNumber(cells, 'days', { above: 0, max: 36_500 });
  if (!Number.isInteger(days)) throw new CellError('days', cells('days') ?? '', 'is not a whole number');
  const rate = requiredNumber(cells, 'rate');
  if (Math.abs(rate) > 1) {
    throw new CellError('rate', cells('rate') ?? '', 'is no decimal rate per year (0.045 is 4.5 %)');
  }
  return { currency: requiredText(cells, 'currency'), date: requiredDay(cells, 'date'), days, rate };
}

/** Every kind of file but the chain, whose rows are put together to snapshots. */
export const RECORD_KINDS: Record<Exclude<FileKind, 'chain'>, RecordKind> = {
  underlyings: { table: tables.underlyings, key: ['symbol'], parse: parseUnderlying, needsUnderlying: false },
  rates: { table: tables.rates, key: ['currency', 'date', 'days'], parse: parseRate, needsUnderlying: false },
  bars: { table: tables.bars, key: ['symbol', 'date'], parse: parseBar, needsUnderlying: true },
  dividends: {
    table: tables.dividends,
    key: ['symbol', 'exDate', 'kind'],
    parse: (cells) => ({
      symbol: requiredText(cells, 'symbol'),
      exDate: requiredDay(cells, 'ex_date'),
      amount: requiredNumber(cells, 'amount', { above: 0 }),
      kind: optionalText(cells, 'kind') ?? 'cash',
    }),
    needsUnderlying: true,
  },
  events: {
    table: tables.events,
    key: ['symbol', 'start', 'title'],
    parse: (cells) => ({
      symbol: optionalText(cells, 'symbol') ?? '',
      start: new Date(requiredInstant(cells, 'start')),
      title: requiredText(cells, 'title'),
      kind: optionalText(cells, 'kind'),
    }),
    needsUnderlying: false,
  },
};

/** What writing some rows changed. */
export interface WriteCounts {
  added: number;
  changed: number;
  unchanged: number;
}

/** Adds rows, or changes those that are there and differ. Rows are distinct by key. */
export async function upsertRecords(
  database: Queryable,
  kind: RecordKind,
  rows: readonly Record<string, unknown>[],
): Promise<WriteCounts> {
  const columns = getTableColumns(kind.table);
  const others = Object.entries(columns).filter(([name]) => !kind.key.includes(name));
  const table = sql.identifier(getTableName(kind.table));
  const incoming = (name: string) => sql`excluded.${sql.identifier(name)}`;
  const differs = others.map(
    ([, column]) => sql`${table}.${sql.identifier(column.name)} IS DISTINCT FROM ${incoming(column.name)}`,
  );
  const written = await database
    .insert(kind.table)
    .values(rows as never)
    .onConflictDoUpdate({
      target: kind.key.map((name) => columns[name]!),
      set: Object.fromEntries(others.map(([name, column]) => [name, incoming(column.name)])),
      setWhere: sql.join(differs, sql` OR `) as SQL,
    })
    .returning({ isNew: sql<boolean>`(xmax = 0)` });
  const added = written.filter((row) => row.isNew).length;
  return { added, changed: written.length - added, unchanged: rows.length - written.length };
}
