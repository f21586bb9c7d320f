import {
  calendarById,
  checkFormula,
  evaluateFormula,
  FormulaError,
  formulaSeries,
  namedVol,
  type Calendar,
  type CheckedFormula,
  type SeriesOf,
} from '@umwelt/core';
import { sql } from 'drizzle-orm';
import { measureNamed, STORED_MEASURES } from '$lib/screen/measures';
import { tables, type Queryable } from '../db';
import { adjusted, barsKnownAt, bySession, volByBar, type Bar } from './history';
import { lastBars, listAdjustments, listUnderlyings } from './queries';

/** Formulas over all underlyings at a moment: columns are worked out, filters leave underlyings out. */
export interface ScreenQuery {
  moment?: Date | undefined;
  columns: readonly CheckedFormula[];
  filters: readonly CheckedFormula[];
  /** Worked out for each of the last sessions. */
  series?: readonly CheckedFormula[];
  sessions?: number;
}

export interface ScreenRow {
  symbol: string;
  /** By column; null where it cannot be known. */
  columns: (number | null)[];
  /** By series and session. */
  series: (number | null)[][];
  /** By filter, whether it lets the underlying through; null where it cannot be known, which does not. */
  filters: (boolean | null)[];
}

/**
 * Reads a formula of a screen.
 *
 * @throws FormulaError with the characters that are wrong
 */
export function screenFormula(source: string, kind: 'column' | 'filter'): CheckedFormula {
  const checked = checkFormula(source, measureNamed);
  if (kind === 'filter' && checked.kind === 'number')
    throw new FormulaError('a filter is a condition, such as iv30 > 20%', 0, source.length);
  return checked;
}

/** Days of the calendar in which so many sessions lie for sure: weekends, and a month of holidays a year. */
const daysOf = (sessions: number) => Math.ceil(sessions * 1.6) + 15;
const DAY_MS = 86_400_000;

/** Columns of measures by session and symbol, up to a moment. */
async function measuresBySession(
  database: Queryable,
  calendars: ReadonlyMap<string, Calendar>,
  columns: readonly string[],
  sessions: number,
  moment: Date | undefined,
): Promise<Map<string, Record<string, Float64Array>>> {
  if (columns.length === 0) return new Map();
  const held = STORED_MEASURES.filter(({ column }) => columns.includes(column));
  const to = moment ? sql`AND asof <= ${moment.toISOString()}` : sql``;
  const aggregates = held.map(
    ({ column, name }) =>
      sql`array_agg(m.${sql.identifier(tables.measures[column].name)}::float8 ORDER BY m.asof) AS ${sql.identifier(name)}`,
  );
  // From the last moment of each symbol back, which may lie long before those of the others.
  const { rows } = await database.execute<{ symbol: string; at: number[]; [column: string]: unknown }>(sql`
    WITH latest AS (
      SELECT symbol, max(asof) AS last FROM measures
      WHERE symbol = ANY(${sql.param([...calendars.keys()])}) ${to} GROUP BY symbol
    )
    SELECT m.symbol, array_agg(extract(epoch FROM m.asof)::float8 ORDER BY m.asof) AS at, ${sql.join(aggregates, sql`, `)}
    FROM measures m JOIN latest USING (symbol)
    WHERE m.asof <= latest.last AND m.asof >= latest.last - make_interval(days => ${daysOf(sessions)}::int)
    GROUP BY m.symbol`);
  return new Map(
    rows.map(({ symbol, at, ...values }) => {
      const calendar = calendars.get(symbol)!;
      const moments = bySession(
        calendar,
        at.map((seconds, i) => ({ asof: new Date(1000 * seconds), i })),
      );
      const series = Object.fromEntries(
        held.map(({ name, per = 1 }) => {
          const column = values[name] as (number | null)[];
          return [name, Float64Array.from(moments, ({ i }) => (column[i] ?? NaN) / per)];
        }),
      );
      return [symbol, series];
    }),
  );
}

/** The last moment held of each symbol, at or before another. */
async function lastMoments(database: Queryable, symbols: readonly string[], moment: Date | undefined) {
  const { rows } = await database.execute<{ symbol: string; last: Date }>(sql`
    SELECT symbol, max(asof) AS last FROM measures
    WHERE symbol = ANY(${sql.param([...symbols])}) ${moment ? sql`AND asof <= ${moment.toISOString()}` : sql``}
    GROUP BY symbol`);
  return new Map(rows.map(({ symbol, last }) => [symbol, new Date(last)]));
}

/**
 * Bars of symbols without dividends and splits, at least so many where they are held: those that were over at the last moment
 * held of each, as with every other measure of it.
 */
async function knownBars(
  database: Queryable,
  calendars: ReadonlyMap<string, Calendar>,
  count: number,
  moment: Date | undefined,
): Promise<Map<string, Bar[]>> {
  const symbols = [...calendars.keys()];
  const last = await lastMoments(database, symbols, moment);
  const until = moment ?? [...last.values()].reduce((late, one) => (one > late ? one : late), new Date(0));
  const day = new Date(until.getTime() + DAY_MS).toISOString().slice(0, 10);
  const found = await lastBars(database, symbols, count + 2, day);
  const first = [...found.values()].map((bars) => bars[0]!.date).sort()[0];
  if (first === undefined) return new Map();
  const steps = await listAdjustments(database, symbols, first);
  return new Map(
    [...found].map(([symbol, bars]) => {
      const at = (last.get(symbol) ?? until).getTime();
      const known = bars.slice(0, barsKnownAt(bars, calendars.get(symbol)!, at));
      return [symbol, adjusted(known, steps.get(symbol) ?? [])];
    }),
  );
}

/** The last so many of some values, NaN before the first. */
function tail(values: Float64Array | undefined, count: number): Float64Array {
  const out = new Float64Array(count).fill(NaN);
  if (!values) return out;
  const part = values.subarray(Math.max(0, values.length - count));
  out.set(part, count - part.length);
  return out;
}

/**
 * Works formulas out for every underlying at its last moment at or before another. Measures are those of the sessions' last
 * moments; historical vols those of the bars that were over.
 */
export async function screen(
  database: Queryable,
  { moment, columns, filters, series: wanted = [], sessions: length = 1 }: ScreenQuery,
): Promise<ScreenRow[]> {
  const underlyings = await listUnderlyings(database);
  const calendars = new Map(underlyings.map(({ symbol, calendar }) => [symbol, calendarById(calendar)]));
  const formulas = [...columns, ...filters, ...wanted];
  const names = new Set(formulas.flatMap((formula) => formula.names));
  const reach = Math.max(0, ...formulas.map((formula) => formula.sessions)) + 1;
  const sessions = reach + (wanted.length > 0 ? length : 0);
  const stored = STORED_MEASURES.filter(({ name }) => names.has(name)).map(({ column }) => column);
  const vols = [...names].filter((name) => namedVol(name));
  const longest = Math.max(0, ...vols.map((name) => namedVol(name)!.window));
  const [measures, bars] = await Promise.all([
    measuresBySession(database, calendars, stored, sessions, moment),
    vols.length > 0 ? knownBars(database, calendars, sessions + longest + 1, moment) : null,
  ]);
  return underlyings.map(({ symbol }) => {
    const worked = new Map<string, Float64Array>();
    const series: SeriesOf = (name, count) => {
      if (!namedVol(name)) return tail(measures.get(symbol)?.[name], count);
      let values = worked.get(name);
      if (!values) worked.set(name, (values = volByBar(bars?.get(symbol) ?? [], name)));
      return tail(values, count);
    };
    const value = (formula: CheckedFormula) => evaluateFormula(formula, series);
    const orNull = (found: number) => (Number.isNaN(found) ? null : found);
    return {
      symbol,
      columns: columns.map((formula) => orNull(value(formula))),
      series: wanted.map((formula) => Array.from(formulaSeries(formula, length, series), orNull)),
      filters: filters.map((formula) => {
        const found = value(formula);
        return Number.isNaN(found) ? null : found === 1;
      }),
    };
  });
}
