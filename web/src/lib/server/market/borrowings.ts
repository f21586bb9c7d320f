import {
  borrowFit,
  CURVE_NUMBERS,
  isSameExpiry,
  mapFields,
  orNaN,
  orNull,
  type Borrowing,
  type BorrowingFit,
  type CurveNumber,
  type ExpiryFit,
  type ExpiryId,
} from '@umwelt/core';
import { and, asc, eq, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { ConflictError } from '../errors';
import type { CurveRow } from './own-curves';
import { curveOfRow } from './rows';

const { borrowings } = tables;

/** The expiry that borrows. */
export interface BorrowingKey extends ExpiryId {
  symbol: string;
}

/** What an expiry borrows, as it is stored. */
export type StoredBorrowing = typeof borrowings.$inferSelect;

/** What the expiries of an underlying borrow, in their order. */
export function listBorrowings(database: Queryable, symbol: string): Promise<StoredBorrowing[]> {
  return database
    .select()
    .from(borrowings)
    .where(eq(borrowings.symbol, symbol))
    .orderBy(asc(borrowings.expiry), asc(borrowings.settlement));
}

/**
 * Lets an expiry borrow, in place of what it borrowed before; null gives it its own curve back.
 *
 * @param seen the version of what it borrowed before; null where that was nothing
 * @throws ConflictError where that is another by now
 */
export async function setBorrowing(
  database: Queryable,
  key: BorrowingKey,
  seen: number | null,
  borrowing: Borrowing | null,
): Promise<void> {
  const { symbol, expiry, settlement } = key;
  const which = and(
    eq(borrowings.symbol, symbol),
    eq(borrowings.expiry, expiry),
    eq(borrowings.settlement, settlement),
  );
  const asSeen = and(which, sql`${borrowings.version} = ${seen}`);
  const next = { ...borrowing, version: sql`${borrowings.version} + 1` };
  const rows = !borrowing
    ? await database.delete(borrowings).where(asSeen).returning({ version: borrowings.version })
    : seen === null
      ? await database
          .insert(borrowings)
          .values({ ...key, ...borrowing })
          .onConflictDoNothing()
          .returning()
      : await database.update(borrowings).set(next).where(asSeen).returning();
  if (rows.length > 0) return;
  const [now] = await database.select().from(borrowings).where(which);
  // Nothing was borrowed and nothing is wanted: nothing to do.
  if (now || borrowing) throw new ConflictError(`what ${symbol} ${expiry} borrows`, { borrowing: now ?? null });
}

function borrowingOf({
  symbol: _symbol,
  expiry: _expiry,
  settlement: _settlement,
  ...borrowing
}: StoredBorrowing): Borrowing {
  return borrowing;
}

/** Curves over time with those that are borrowed, each of its own moment. */
export async function withBorrowedRows(
  rows: readonly CurveRow[],
  held: readonly StoredBorrowing[],
  rowsOf: (source: string) => Promise<readonly CurveRow[]>,
): Promise<CurveRow[]> {
  const lenders = new Map<string, Map<number, CurveFit[]>>();
  for (const { source } of held) {
    if (lenders.has(source)) continue;
    const byMoment = new Map<number, CurveFit[]>();
    for (const row of await rowsOf(source)) {
      const at = row.asof.getTime();
      byMoment.set(at, [...(byMoment.get(at) ?? []), curveFitOf(row)]);
    }
    lenders.set(source, byMoment);
  }
  return rows.map((row) => {
    const found = held.find((one) => isSameExpiry(one, row));
    const at = found && lenders.get(found.source)!.get(row.asof.getTime());
    if (!found || !at) return row;
    const { curve, borrowed, ...measures } = borrowFit(curveFitOf(row), at, borrowingOf(found));
    if (!borrowed || !curve) return row;
    return {
      ...row,
      ...mapFields(measures, CURVE_NUMBERS, orNull),
      curveKind: curve.kind,
      curve: Float64Array.from(curve.parameters),
      borrowedFrom: `${borrowed.source} ${borrowed.takenFrom}`,
    };
  });
}

const NOT_KNOWN = Object.fromEntries(CURVE_NUMBERS.map((name) => [name, NaN])) as Record<CurveNumber, number>;

type CurveFit = BorrowingFit & ExpiryId;

function curveFitOf(row: CurveRow): CurveFit {
  const { expiry, settlement, years, expiryAside } = row;
  return {
    ...{ expiry, settlement, years, expiryAside },
    forward: orNaN(row.forward),
    curve: curveOfRow(row),
    ...NOT_KNOWN,
  };
}

/**
 * The fits of a moment with the curves that are borrowed.
 *
 * @param fitsOf the own fits of a source at the same moment
 */
export async function withBorrowed(
  fits: readonly ExpiryFit[],
  held: readonly StoredBorrowing[],
  fitsOf: (source: string) => Promise<readonly ExpiryFit[]>,
): Promise<ExpiryFit[]> {
  const lenders = new Map<string, readonly ExpiryFit[]>();
  for (const { source } of held) if (!lenders.has(source)) lenders.set(source, await fitsOf(source));
  return fits.map((fit) => {
    const found = held.find((one) => isSameExpiry(one, fit));
    if (!found) return fit;
    return borrowFit(fit, lenders.get(found.source)!, borrowingOf(found));
  });
}
