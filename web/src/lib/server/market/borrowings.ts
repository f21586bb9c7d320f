import { borrowFit, type Borrowing, type ExpiryFit } from '@umwelt/core';
import { and, asc, eq } from 'drizzle-orm';
import { tables, type Queryable } from '../db';

const { borrowings } = tables;

/** The expiry that borrows. */
export interface BorrowingKey {
  symbol: string;
  expiry: string;
  settlement: 'am' | 'pm';
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

/** Lets an expiry borrow, in place of what it borrowed before; null gives it its own curve back. */
export async function setBorrowing(database: Queryable, key: BorrowingKey, borrowing: Borrowing | null): Promise<void> {
  if (borrowing) {
    await database
      .insert(borrowings)
      .values({ ...key, ...borrowing })
      .onConflictDoUpdate({ target: [borrowings.symbol, borrowings.expiry, borrowings.settlement], set: borrowing });
    return;
  }
  const { symbol, expiry, settlement } = key;
  await database
    .delete(borrowings)
    .where(and(eq(borrowings.symbol, symbol), eq(borrowings.expiry, expiry), eq(borrowings.settlement, settlement)));
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
    const found = held.find(({ expiry, settlement }) => expiry === fit.expiry && settlement === fit.settlement);
    if (!found) return fit;
    const { symbol: _symbol, expiry: _expiry, settlement: _settlement, ...borrowing } = found;
    return borrowFit(fit, lenders.get(found.source)!, borrowing);
  });
}
