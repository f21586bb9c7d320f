import {
  calendarById,
  SESSIONS_PER_YEAR,
  termState,
  type Adjustment,
  type CurveKind,
  type Snapshot,
  type ExpiryFit,
} from '@umwelt/core';
import { and, asc, between, desc, eq, gte, inArray, lte, or, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { listBorrowings, withBorrowed, withBorrowedRows } from './borrowings';
import { adjusted, barsKnownAt, bySession, rankOfMeasure, USUAL_VOL, volByBar, type Bar } from './history';
import { orNull } from '../numbers';
import { fitOfRow, sliceOfRow } from './rows';
import type { Underlying } from './terms';

const { bars, dividends, events, fits, measures, slices, snapshots, underlyings } = tables;
type MeasureRow = typeof measures.$inferSelect;

/** All underlyings, by symbol. */
export function listUnderlyings(database: Queryable): Promise<Underlying[]> {
  return database.select().from(underlyings).orderBy(asc(underlyings.symbol));
}

/** One underlying, or null. */
export async function findUnderlying(database: Queryable, symbol: string): Promise<Underlying | null> {
  const [row] = await database.select().from(underlyings).where(eq(underlyings.symbol, symbol));
  return row ?? null;
}

/** The moments held of an underlying with their measures, in order of time. */
export function listMeasures(database: Queryable, symbol: string): Promise<MeasureRow[]> {
  return database.select().from(measures).where(eq(measures.symbol, symbol)).orderBy(asc(measures.asof));
}

/** The latest snapshot of an underlying at or before a moment; without a moment the latest of all. */
export async function findAsof(database: Queryable, symbol: string, moment?: Date): Promise<Date | null> {
  const [row] = await database
    .select({ asof: snapshots.asof })
    .from(snapshots)
    .where(and(eq(snapshots.symbol, symbol), moment ? lte(snapshots.asof, moment) : undefined))
    .orderBy(desc(snapshots.asof))
    .limit(1);
  return row?.asof ?? null;
}

export interface StoredSnapshot {
  snapshot: Snapshot;
  fits: ExpiryFit[];
  measures: MeasureRow;
}

/** A snapshot with its fits, both in the order of expiry, and its measures. */
export async function loadSnapshot(database: Queryable, symbol: string, asof: Date): Promise<StoredSnapshot | null> {
  const at = <T extends typeof slices | typeof fits | typeof measures>(table: T) =>
    and(eq(table.symbol, symbol), eq(table.asof, asof));
  const [sliceRows, fitRows, [measured]] = await Promise.all([
    database
      .select()
      .from(slices)
      .where(at(slices))
      .orderBy(asc(slices.expiry), asc(slices.settlement))
      .prepare('slices_of_snapshot')
      .execute(),
    database
      .select()
      .from(fits)
      .where(at(fits))
      .orderBy(asc(fits.expiry), asc(fits.settlement))
      .prepare('fits_of_snapshot')
      .execute(),
    database.select().from(measures).where(at(measures)).prepare('measures_of_snapshot').execute(),
  ]);
  if (!measured) return null;
  return {
    snapshot: { symbol, asof: asof.getTime(), price: measured.price ?? NaN, slices: sliceRows.map(sliceOfRow) },
    fits: fitRows.map(fitOfRow),
    measures: measured,
  };
}

/** The fits of an underlying at a moment or at the latest before it that is held, by expiry; none where nothing is. */
export async function fitsAt(database: Queryable, symbol: string, moment: Date): Promise<ExpiryFit[]> {
  const asof = await findAsof(database, symbol, moment);
  if (!asof) return [];
  const rows = await database
    .select()
    .from(fits)
    .where(and(eq(fits.symbol, symbol), eq(fits.asof, asof)))
    .orderBy(asc(fits.expiry), asc(fits.settlement));
  return rows.map(fitOfRow);
}

/** A snapshot as it is valued: where an expiry borrows its curve, with that in place of its own. */
export async function loadValued(database: Queryable, symbol: string, asof: Date): Promise<StoredSnapshot | null> {
  const [stored, held] = await Promise.all([loadSnapshot(database, symbol, asof), listBorrowings(database, symbol)]);
  if (!stored || held.length === 0) return stored;
  return { ...stored, fits: await withBorrowed(stored.fits, held, (source) => fitsAt(database, source, asof)) };
}

/** The moments held of an underlying between two, both included, in order of time. */
export async function listAsofs(database: Queryable, symbol: string, from: Date, to: Date): Promise<Date[]> {
  const rows = await database
    .select({ asof: snapshots.asof })
    .from(snapshots)
    .where(and(eq(snapshots.symbol, symbol), between(snapshots.asof, from, to)))
    .orderBy(asc(snapshots.asof));
  return rows.map(({ asof }) => asof);
}

/** What is kept of an expiry at a moment beside its quotes. */
export type CurveRow = Omit<Awaited<ReturnType<typeof listOwnCurves>>[number], 'curveKind'> & {
  curveKind: CurveKind | null;
  /** Symbol and expiry of a curve that is not its own. */
  borrowedFrom?: string;
};

/**
 * The curves of an underlying at some moments, in order of time and of expiry; what is borrowed in place of its own.
 *
 * @param strikes how many of the listed strikes come along, either side of the forward
 * @param isOwn whether every expiry keeps its own curve
 */
export async function listCurves(
  database: Queryable,
  symbol: string,
  moments: readonly Date[],
  { strikes = 0, isOwn = false }: { strikes?: number | undefined; isOwn?: boolean } = {},
): Promise<CurveRow[]> {
  const [rows, held] = await Promise.all([
    listOwnCurves(database, symbol, moments, strikes),
    isOwn ? [] : listBorrowings(database, symbol),
  ]);
  if (held.length === 0) return rows;
  return withBorrowedRows(rows, held, (source) => listOwnCurves(database, source, moments));
}

/** The strikes of a slice around the forward, with one more below for a strike at the forward itself. */
function strikesAround(steps: number) {
  if (steps === 0) return sql<number[] | null>`null`;
  const under = sql`width_bucket(${fits.forward}, ${slices.strike})`;
  return sql<number[] | null>`${slices.strike}[${under} - ${steps}::int : ${under} + ${steps}::int]`;
}

function listOwnCurves(database: Queryable, symbol: string, moments: readonly Date[], strikes = 0) {
  const [first, last] = [moments[0], moments.at(-1)];
  if (!first || !last) return Promise.resolve([]);
  return (
    database
      .select({
        asof: fits.asof,
        expiry: fits.expiry,
        settlement: fits.settlement,
        years: fits.years,
        days: fits.days,
        sessions: fits.sessions,
        rate: fits.rate,
        forward: fits.forward,
        curveKind: fits.curveKind,
        curve: fits.curve,
        atmVol: fits.atmVol,
        riskReversal25: fits.riskReversal25,
        butterfly25: fits.butterfly25,
        riskReversal10: fits.riskReversal10,
        butterfly10: fits.butterfly10,
        straddleMove: fits.straddleMove,
        deviationMove: fits.deviationMove,
        contracts: fits.contracts,
        usable: fits.usable,
        expiryAside: fits.expiryAside,
        lowest: sql<number | null>`${slices.strike}[1]`,
        highest: sql<number | null>`${slices.strike}[cardinality(${slices.strike})]`,
        near: strikesAround(strikes),
      })
      .from(fits)
      .innerJoin(
        slices,
        and(
          eq(slices.symbol, fits.symbol),
          eq(slices.asof, fits.asof),
          eq(slices.expiry, fits.expiry),
          eq(slices.settlement, fits.settlement),
        ),
      )
      // The span tells which months have to be looked at.
      .where(
        and(
          eq(fits.symbol, symbol),
          between(fits.asof, first, last),
          inArray(fits.asof, [...moments]),
          between(slices.asof, first, last),
        ),
      )
      .orderBy(asc(fits.asof), asc(fits.years), asc(fits.settlement))
  );
}

/** Bars of one symbol, in order of time. */
export function listBars(database: Queryable, symbol: string): Promise<Bar[]> {
  return database.select().from(bars).where(eq(bars.symbol, symbol)).orderBy(asc(bars.date));
}

/** Dividends and splits of some underlyings from a day on, in order of time: of a split the amount is new shares for an old one. */
export async function listAdjustments(
  database: Queryable,
  symbols: readonly string[],
  from = '0001-01-01',
): Promise<Map<string, Adjustment[]>> {
  const rows = await database
    .select()
    .from(dividends)
    .where(and(inArray(dividends.symbol, [...symbols]), gte(dividends.exDate, from)))
    .orderBy(asc(dividends.exDate));
  const found = new Map<string, Adjustment[]>();
  for (const { symbol, exDate, kind, amount } of rows) {
    const one: Adjustment = { exDate, amount, kind: kind === 'split' ? 'split' : 'cash' };
    found.set(symbol, [...(found.get(symbol) ?? []), one]);
  }
  return found;
}

/** Dividends and announcements that concern an underlying, in order of time. */
export async function listEvents(database: Queryable, symbol: string) {
  const [dividendRows, eventRows] = await Promise.all([
    database.select().from(dividends).where(eq(dividends.symbol, symbol)).orderBy(asc(dividends.exDate)),
    database
      .select()
      .from(events)
      .where(or(eq(events.symbol, symbol), eq(events.symbol, '')))
      .orderBy(asc(events.start)),
  ]);
  return { dividends: dividendRows, events: eventRows };
}

/** What the Universe says of one underlying at a moment. Vols are decimals; null where not to be had. */
export interface UniverseRow extends Underlying {
  asof: string | null;
  price: number | null;
  /** Share of change from the close of the session before. */
  change: number | null;
  /** That close. */
  closeBefore: number | null;
  iv30: number | null;
  /** Yang–Zhang over 20 sessions, of the bars over at the moment. */
  hv20: number | null;
  ivToHv: number | null;
  rank: number | null;
  percentile: number | null;
  low: number | null;
  high: number | null;
  rankSessions: number | null;
  termSlope: number | null;
  termState: 'contango' | 'backwardation' | 'flat' | null;
  riskReversal25: number | null;
  frontExpiry: string | null;
  frontStraddleMove: number | null;
  frontDeviationMove: number | null;
  volume: number | null;
  openInterest: number | null;
  contracts: number | null;
  usable: number | null;
  /** 0…100. */
  quality: number | null;
  /** iv30 by session, for the line in the row. */
  series: (number | null)[];
}

const LONGEST_BARS = 61;

/** All underlyings with their measures at the latest snapshot at or before a moment. */
export async function universeAt(database: Queryable, moment?: Date): Promise<UniverseRow[]> {
  return measuredAt(database, await listUnderlyings(database), moment);
}

/** Some underlyings with their measures at the latest snapshot at or before a moment. */
export async function measuredAt(
  database: Queryable,
  all: readonly Underlying[],
  moment?: Date,
): Promise<UniverseRow[]> {
  const symbols = all.map((row) => row.symbol);
  const [latest, series, known] = await Promise.all([
    latestMeasures(database, symbols, moment),
    iv30Series(database, symbols, moment),
    lastBars(database, symbols, LONGEST_BARS + 1, moment?.toISOString().slice(0, 10)),
  ]);
  const first = [...known.values()].map((bars) => bars[0]!.date).sort()[0];
  const steps = first === undefined ? new Map<string, Adjustment[]>() : await listAdjustments(database, symbols, first);
  return all.map((underlying) => {
    const { symbol } = underlying;
    const bars = known.get(symbol) ?? [];
    return universeRow(underlying, latest.get(symbol) ?? null, series.get(symbol) ?? [], bars, steps.get(symbol) ?? []);
  });
}

async function latestMeasures(database: Queryable, symbols: readonly string[], moment?: Date) {
  const { rows: latest } = await database.execute<{ symbol: string; asof: Date }>(sql`
    SELECT wanted.symbol, latest.asof FROM unnest(${sql.param([...symbols])}::text[]) AS wanted (symbol)
    CROSS JOIN LATERAL (
      SELECT max(asof) AS asof FROM snapshots
      WHERE snapshots.symbol = wanted.symbol ${moment ? sql`AND asof <= ${moment.toISOString()}` : sql``}
    ) AS latest WHERE latest.asof IS NOT NULL`);
  const asofs = new Map(latest.map(({ symbol, asof }) => [symbol, new Date(asof).getTime()]));
  // By the moments, of which most underlyings share a few: they say which months have to be looked at.
  const moments = [...new Set(asofs.values())].map((asof) => new Date(asof));
  const found = await database
    .select()
    .from(measures)
    .where(and(inArray(measures.asof, moments), inArray(measures.symbol, [...asofs.keys()])));
  const rows = found.filter(({ symbol, asof }) => asofs.get(symbol) === asof.getTime());
  return new Map(rows.map((row) => [row.symbol, row]));
}

interface Iv30 {
  asof: Date;
  iv30: number | null;
}

/** iv30 at every moment held, as arrays: a row per moment would take longer to read than all the rest. */
async function iv30Series(
  database: Queryable,
  symbols: readonly string[],
  moment?: Date,
): Promise<Map<string, Iv30[]>> {
  const { rows } = await database.execute<{ symbol: string; at: number[]; iv30: (number | null)[] }>(sql`
    SELECT symbol, array_agg(extract(epoch FROM asof)::float8 ORDER BY asof) AS at, array_agg(iv30 ORDER BY asof) AS iv30
    FROM measures
    WHERE symbol = ANY(${sql.param([...symbols])}) ${moment ? sql`AND asof <= ${moment.toISOString()}` : sql``}
    GROUP BY symbol`);
  return new Map(
    rows.map(({ symbol, at, iv30 }) => [
      symbol,
      at.map((seconds, i) => ({ asof: new Date(1000 * seconds), iv30: iv30[i] ?? null })),
    ]),
  );
}

/**
 * The last bars of some underlyings, in order of time.
 *
 * @param count of each at most
 * @param day none are later than this one
 */
export async function lastBars(
  database: Queryable,
  symbols: readonly string[],
  count: number,
  day?: string,
): Promise<Map<string, Bar[]>> {
  const { rows } = await database.execute<Bar & { symbol: string; [column: string]: unknown }>(sql`
    SELECT b.* FROM unnest(${sql.param([...symbols])}::text[]) AS s (symbol)
    CROSS JOIN LATERAL (
      SELECT * FROM bars WHERE bars.symbol = s.symbol ${day ? sql`AND date <= ${day}` : sql``}
      ORDER BY date DESC LIMIT ${count}
    ) AS b
    ORDER BY b.symbol, b.date`);
  const found = new Map<string, Bar[]>();
  for (const row of rows) {
    const bars = found.get(row.symbol);
    if (bars) bars.push(row);
    else found.set(row.symbol, [row]);
  }
  return found;
}

function universeRow(
  underlying: Underlying,
  last: MeasureRow | null,
  series: readonly Iv30[],
  allBars: readonly Bar[],
  adjustments: readonly Adjustment[],
): UniverseRow {
  const calendar = calendarById(underlying.calendar);
  const rank = rankOfMeasure(calendar, series, (row) => row.iv30);
  const asof = last?.asof.getTime() ?? 0;
  const known = allBars.slice(0, barsKnownAt(allBars, calendar, asof));
  const hv20 = orNull(volByBar(adjusted(known.slice(-LONGEST_BARS), adjustments), USUAL_VOL).at(-1) ?? NaN);
  const before = known.at(-1)?.close;
  const iv30 = last?.iv30 ?? null;
  const termSlope = last?.termSlope ?? null;
  return {
    ...underlying,
    asof: last?.asof.toISOString() ?? null,
    price: last?.price ?? null,
    change: last?.price != null && before !== undefined ? last.price / before - 1 : null,
    closeBefore: before ?? null,
    iv30,
    hv20,
    ivToHv: iv30 !== null && hv20 !== null ? iv30 / hv20 : null,
    rank: orNull(rank?.rank ?? NaN),
    percentile: orNull(rank?.percentile ?? NaN),
    low: rank?.low ?? null,
    high: rank?.high ?? null,
    rankSessions: rank?.sessions ?? null,
    termSlope,
    termState: termSlope === null ? null : termState(termSlope),
    riskReversal25: last?.riskReversal25 ?? null,
    frontExpiry: last?.frontExpiry ?? null,
    frontStraddleMove: last?.frontStraddleMove ?? null,
    frontDeviationMove: last?.frontDeviationMove ?? null,
    volume: last?.volume ?? null,
    openInterest: last?.openInterest ?? null,
    contracts: last?.contracts ?? null,
    usable: last?.usable ?? null,
    quality: last?.quality ?? null,
    series: bySession(calendar, series)
      .slice(-SESSIONS_PER_YEAR)
      .map((row) => row.iv30),
  };
}

/** Whether the database answers. */
export async function isAnswering(database: Queryable): Promise<boolean> {
  try {
    await database.execute(sql`SELECT 1`);
    return true;
  } catch {
    return false;
  }
}
