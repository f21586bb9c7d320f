import { EXERCISES, isCalendarId, orNull, UNDERLYING_KINDS, type Settlement } from '@umwelt/core';
import { createHash } from 'node:crypto';
import { getTableColumns, getTableName, sql } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import { copyRows, jsonRows, tables, type Queryable, type Session } from '../db';
import {
  CellError,
  choice,
  optionalDay,
  optionalNumber,
  optionalSymbol,
  optionalText,
  requiredDay,
  requiredInstant,
  requiredNumber,
  requiredText,
  plainWords,
  type Cells,
} from './cells';
import { SETTLEMENT_WORDS, SIDES } from './chain';
import type { FileKind } from '../../layouts';

/** How the rows of a kind of file become rows of a table. */
export interface RecordKind {
  table: PgTable;
  /** Columns by which a row is known again. */
  key: readonly string[];
  parse: (cells: Cells) => Record<string, unknown>;
  /** Whether the symbol must be known before. */
  needsUnderlying: boolean;
  /** Alike rows are told apart by a number, rather than refused. */
  mayRepeat?: boolean;
  /** Rows are only ever added, and know their import, so that the journal need not speak of each. */
  isAppended?: boolean;
}

const KIND_WORDS = plainWords(UNDERLYING_KINDS);
const EXERCISE_WORDS = plainWords(EXERCISES);

function parseUnderlying(cells: Cells) {
  const kind = choice(cells, 'kind', KIND_WORDS);
  const isShare = kind === 'equity' || kind === 'etf';
  const multiplier = optionalNumber(cells, 'multiplier', { above: 0 });
  const symbol = optionalSymbol(cells, 'symbol');
  if (symbol === null) throw new CellError('symbol', '', 'is missing');
  return {
    symbol,
    name: requiredText(cells, 'name'),
    kind,
    currency: optionalText(cells, 'currency'),
    multiplier: Number.isFinite(multiplier) ? multiplier : isShare ? 100 : 1,
    exercise: choice(cells, 'exercise', EXERCISE_WORDS, isShare ? 'american' : 'european'),
    family: optionalText(cells, 'family'),
    familyRatio: orNull(optionalNumber(cells, 'family_ratio', { above: 0 })),
    calendar: calendarOf(cells),
    root: optionalText(cells, 'root'),
    expires: optionalDay(cells, 'expires'),
    tick: orNull(optionalNumber(cells, 'tick', { above: 0 })),
  };
}

function calendarOf(cells: Cells): string | null {
  const id = optionalText(cells, 'calendar');
  if (id !== null && !isCalendarId(id)) {
    throw new CellError('calendar', id, 'is no calendar: MRX, weekdays, or a zone such as Europe/Lisbon');
  }
  return id;
}

function parsePrices(cells: Cells) {
  const price = (column: string) => requiredNumber(cells, column, { above: 0 });
  const bar = {
    symbol: requiredText(cells, 'symbol'),
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

/** How an expiry settles, where that is said. */
const settlementOf = (cells: Cells): Settlement | null =>
  cells('settlement') ? choice(cells, 'settlement', SETTLEMENT_WORDS) : null;

/** Kinds of files whose rows are records each: not chains, which are put together to snapshots, and not what books take. */
export type RecordName = Exclude<FileKind, 'chain' | 'positions' | 'fills'>;

export const RECORD_KINDS: Record<RecordName, RecordKind> = {
  underlyings: { table: tables.underlyings, key: ['symbol'], parse: parseUnderlying, needsUnderlying: false },
  rates: { table: tables.rates, key: ['currency', 'date', 'days'], parse: parseRate, needsUnderlying: false },
  bars: {
    table: tables.bars,
    key: ['symbol', 'date'],
    parse: (cells) => ({ ...parsePrices(cells), date: requiredDay(cells, 'date') }),
    needsUnderlying: true,
  },
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
      symbol: optionalSymbol(cells, 'symbol') ?? '',
      start: new Date(requiredInstant(cells, 'start')),
      title: requiredText(cells, 'title'),
      kind: optionalText(cells, 'kind'),
    }),
    needsUnderlying: false,
  },
  prints: {
    table: tables.prints,
    key: ['symbol', 'time', 'expiry', 'strike', 'side', 'price', 'size', 'group'],
    parse: (cells) => ({
      symbol: requiredText(cells, 'symbol'),
      time: new Date(requiredInstant(cells, 'time')),
      expiry: requiredDay(cells, 'expiry'),
      strike: requiredNumber(cells, 'strike', { above: 0 }),
      side: choice(cells, 'side', SIDES),
      price: requiredNumber(cells, 'price', { min: 0 }),
      size: requiredNumber(cells, 'size', { above: 0 }),
      settlement: settlementOf(cells),
      group: optionalText(cells, 'group') ?? '',
    }),
    needsUnderlying: true,
    mayRepeat: true,
    isAppended: true,
  },
  settlements: {
    table: tables.settlements,
    key: ['symbol', 'expiry', 'settlement'],
    parse: (cells) => ({
      symbol: requiredText(cells, 'symbol'),
      expiry: requiredDay(cells, 'expiry'),
      settlement: choice(cells, 'settlement', SETTLEMENT_WORDS),
      price: String(requiredNumber(cells, 'price', { min: 0 })),
    }),
    needsUnderlying: true,
  },
};

/** Bars inside a session: a `bars` file with a column of times. */
export const INTRADAY_BARS: RecordKind = {
  table: tables.intradayBars,
  key: ['symbol', 'time'],
  parse: (cells) => ({ ...parsePrices(cells), time: new Date(requiredInstant(cells, 'time')) }),
  needsUnderlying: true,
};

/** What writing some rows changed. */
export interface WriteCounts {
  added: number;
  changed: number;
  unchanged: number;
}

/** What a row is known by, as one text. */
export function recordKey({ key }: RecordKind, row: Record<string, unknown>): string {
  // Formatting a Date would take longer than everything else here.
  return key.map((name) => (row[name] instanceof Date ? row[name].getTime() : row[name])).join('\u0000');
}

/** Rows of a kind that may repeat, alike ones numbered from 0. */
export function numbered(kind: RecordKind, rows: readonly Record<string, unknown>[]): Record<string, unknown>[] {
  const seen = new Map<string, number>();
  return rows.map((row) => {
    const key = recordKey(kind, row);
    const occurrence = seen.get(key) ?? 0;
    seen.set(key, occurrence + 1);
    return { ...row, occurrence };
  });
}

/** A number of 52 bits that belongs to a text. */
function idOf(text: string): number {
  const digest = createHash('sha1').update(text).digest();
  return digest.readUInt32LE(0) * 2 ** 20 + (digest.readUInt32LE(4) >>> 12);
}

/**
 * Adds rows, or changes those that are there and differ.
 *
 * @param rows distinct by key
 */
export function writeRecords(
  session: Session,
  kind: RecordKind,
  rows: readonly Record<string, unknown>[],
  importId: number,
): Promise<WriteCounts> {
  return kind.isAppended ? appendPrints(session, rows, importId) : upsertRecords(session, kind, rows, importId);
}

/** Adds prints; those that are there already are left as they are. */
async function appendPrints(
  session: Session,
  rows: readonly Record<string, unknown>[],
  importId: number,
): Promise<WriteCounts> {
  const { prints } = tables;
  const made = rows.map((row) => {
    const text = `${recordKey(RECORD_KINDS.prints, row)}\u0000${String(row.occurrence)}${row.settlement ? `\u0000${String(row.settlement)}` : ''}`;
    return { ...row, importId, id: idOf(text) } as typeof prints.$inferInsert;
  });
  await session.execute(sql`CREATE TEMPORARY TABLE IF NOT EXISTS new_prints (LIKE prints) ON COMMIT DROP`);
  await copyRows(session, prints, made, 'new_prints');
  const { rowCount } = await session.execute(sql`INSERT INTO prints SELECT * FROM new_prints ON CONFLICT DO NOTHING`);
  await session.execute(sql`TRUNCATE new_prints`);
  return { added: rowCount ?? 0, changed: 0, unchanged: rows.length - (rowCount ?? 0) };
}

/** Adds or changes rows, and notes in the journal what was there before. */
async function upsertRecords(
  database: Queryable,
  kind: RecordKind,
  rows: readonly Record<string, unknown>[],
  importId: number,
): Promise<WriteCounts> {
  const columns = getTableColumns(kind.table);
  const name = getTableName(kind.table);
  const table = sql.identifier(name);
  const keyNames = kind.key.map((key) => columns[key]!.name);
  const named = (alias: string) => keyNames.map((key) => sql`${sql.identifier(alias)}.${sql.identifier(key)}`);
  const same = sql.join(
    named('held').map((column, i) => sql`${column} = ${named('incoming')[i]!}`),
    sql` AND `,
  );
  const key = sql.join(
    keyNames.map((column, i) => sql`${sql.raw(`'${column}'`)}, ${named('incoming')[i]!}`),
    sql`, `,
  );
  const others = Object.values(columns)
    .map((column) => column.name)
    .filter((column) => !keyNames.includes(column));
  const set = others.map((column) => sql`${sql.identifier(column)} = excluded.${sql.identifier(column)}`);
  const onConflict =
    set.length > 0
      ? sql`DO UPDATE SET ${sql.join(set, sql`, `)}`
      : // Every column belongs to the key: a row that is there is the same.
        sql`DO NOTHING`;
  const { rows: found } = await database.execute<{ added: number; changed: number }>(sql`
    WITH incoming AS MATERIALIZED (SELECT * FROM ${jsonRows(kind.table, rows)}),
    different AS MATERIALIZED (
      SELECT to_jsonb(incoming) AS row, jsonb_build_object(${key}) AS key, to_jsonb(held) AS before
      FROM incoming LEFT JOIN ${table} AS held ON ${same}
      WHERE to_jsonb(held) IS DISTINCT FROM to_jsonb(incoming)
    ),
    noted AS (
      INSERT INTO journal (import_id, table_name, key, before)
      SELECT ${importId}, ${name}, key, before FROM different
    ),
    written AS (
      INSERT INTO ${table}
      SELECT made.* FROM different, jsonb_populate_record(NULL::${table}, different.row) AS made
      ON CONFLICT (${sql.join(
        keyNames.map((column) => sql.identifier(column)),
        sql`, `,
      )}) ${onConflict}
    )
    SELECT count(*) FILTER (WHERE before IS NULL)::int AS added, count(before)::int AS changed FROM different`);
  const { added, changed } = found[0]!;
  return { added, changed, unchanged: rows.length - added - changed };
}
