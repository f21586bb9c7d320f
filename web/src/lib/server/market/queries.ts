import {
  type Adjustment,
  type ExpiryFit,
  type Snapshot,
  expiryAt,
  type ExpiryId,
  type NamedExpiry,
} from '@umwelt/core';
import { and, asc, between, desc, eq, gte, inArray, lte, or, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { listBorrowings, withBorrowed, withBorrowedRows } from './borrowings';
import { type Bar } from './history';
import { listOwnCurves, type CurveRow } from './own-curves';
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

/** The expiry that is meant, by what was held of that day at last; pm where nothing is. */
export async function heldExpiry(database: Queryable, symbol: string, named: NamedExpiry): Promise<ExpiryId> {
  const { expiry, settlement } = named;
  if (settlement !== null) return { expiry, settlement };
  const held = await database
    .selectDistinct({ expiry: fits.expiry, settlement: fits.settlement })
    .from(fits)
    .where(and(eq(fits.symbol, symbol), eq(fits.expiry, expiry)));
  return held[expiryAt(held, named)] ?? { expiry, settlement: 'pm' };
}

/** A snapshot as it is valued: where an expiry borrows its curve, with that in place of its own. */
export async function loadValued(database: Queryable, symbol: string, asof: Date): Promise<StoredSnapshot | null> {
  const [stored, held] = await Promise.all([loadSnapshot(database, symbol, asof), listBorrowings(database, symbol)]);
  if (!stored || held.length === 0) return stored;
  return { ...stored, fits: await withBorrowed(stored.fits, held, (source) => fitsAt(database, source, asof)) };
}

/** The latest snapshot of an underlying at or before a moment as it is valued; without a moment the latest of all. */
export async function loadLatest(database: Queryable, symbol: string, moment?: Date): Promise<StoredSnapshot | null> {
  const asof = await findAsof(database, symbol, moment);
  return asof && loadValued(database, symbol, asof);
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

/**
 * The curves of an underlying at some moments, in order of time and of expiry; what is borrowed in place of its own.
 *
 * @param strikes how many of the listed strikes are included on either side of the forward
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

/** Whether the database answers. */
export async function isAnswering(database: Queryable): Promise<boolean> {
  try {
    await database.execute(sql`SELECT 1`);
    return true;
  } catch {
    return false;
  }
}
