import { and, asc, desc, eq, inArray, ne, sql } from 'drizzle-orm';
import type { Limit, Settlement } from '@umwelt/core';
import { tables, type Database, type Queryable } from '../db';
import { StateError } from '../errors';
import { BookingError, bookTrades, decimal, findPosition, words, type FillGiven } from './booking';
import { changeBook, changesAt, turnChange, type BookEdit } from './edit';
import { contractOf } from './facts';

const { books, bookCash, bookChanges, bookPositions, fills, settlements } = tables;

/** What was made or changed, and what the change is called. */
export interface Booked {
  id: number;
  words: string;
}

/** Books in the order in which they were made, each with the changes that can be undone and made again. */
export async function listBooks(database: Queryable) {
  const rows = await database
    .select({
      book: books,
      positions: sql<number>`(SELECT count(*)::int FROM book_positions p WHERE p.book_id = "books"."id")`,
    })
    .from(books)
    .orderBy(asc(books.id));
  return Promise.all(
    rows.map(async ({ book: { importId: _, ...book }, positions }) => {
      const { last, next } = await changesAt(database, book.id);
      return { ...book, positions, undo: last?.words ?? null, redo: next?.words ?? null };
    }),
  );
}

async function refuseTaken(edit: BookEdit, name: string, id = 0): Promise<void> {
  const [taken] = await edit.session
    .select({ id: books.id })
    .from(books)
    .where(and(eq(books.name, name), ne(books.id, id)));
  if (taken) throw new BookingError('name', `there is a book called ${name} already`);
}

/** Makes a book. @throws BookingError where its name is taken */
export function makeBook(
  database: Database,
  given: { name: string; currency: string; note: string; limits: Limit[] },
): Promise<Booked> {
  return changeBook(database, null, async (edit) => {
    await refuseTaken(edit, given.name);
    const id = await edit.insert('books', given);
    return done(id, id, `the book ${given.name} was made`);
  });
}

const done = (bookId: number, id: number, said: string) => ({ bookId, words: said, answer: { id, words: said } });

/** Changes a book; null where there is none. */
export async function changeBookTerms(
  database: Database,
  id: number,
  { version, ...change }: { version: number; name?: string; currency?: string; note?: string; limits?: Limit[] },
): Promise<Booked | null> {
  const [held] = await database.select().from(books).where(eq(books.id, id));
  if (!held) return null;
  return changeBook(database, id, async (edit) => {
    if (change.name !== undefined) await refuseTaken(edit, change.name, id);
    await edit.update('books', id, version, change, 'the book');
    const what = Object.keys(change).join(', ');
    return done(id, id, `${what} of the book ${change.name ?? held.name} changed`);
  });
}

/** Deletes a book with all that is in it; null where there is none. */
export async function deleteBook(database: Database, id: number): Promise<Booked | null> {
  const [held] = await database.select().from(books).where(eq(books.id, id));
  if (!held) return null;
  return changeBook(database, id, async (edit) => {
    const positions = await edit.session
      .select({ id: bookPositions.id })
      .from(bookPositions)
      .where(eq(bookPositions.bookId, id));
    for (const position of positions) await removePosition(edit, position.id);
    const cash = await edit.session.select({ id: bookCash.id }).from(bookCash).where(eq(bookCash.bookId, id));
    for (const one of cash) await edit.remove('book_cash', one.id);
    await edit.remove('books', id);
    return done(id, id, `the book ${held.name} was deleted`);
  });
}

async function removePosition(edit: BookEdit, id: number): Promise<void> {
  const rows = await edit.session.select({ id: fills.id }).from(fills).where(eq(fills.positionId, id));
  for (const one of rows) await edit.remove('fills', one.id);
  await edit.remove('book_positions', id);
}

/** Undoes the last change of a book, or makes the one that was undone last again. */
export async function turnBook(database: Database, id: number, way: 'undo' | 'redo'): Promise<Booked> {
  return { id, words: await turnChange(database, id, way) };
}

const MOST_CHANGES = 200;

/** The journal of a book, the latest first. */
export async function listChanges(database: Queryable, bookId: number) {
  const rows = await database
    .select({
      id: bookChanges.id,
      made: bookChanges.made,
      words: bookChanges.words,
      undone: bookChanges.isUndone,
      import: bookChanges.importId,
    })
    .from(bookChanges)
    .where(eq(bookChanges.bookId, bookId))
    .orderBy(desc(bookChanges.id))
    .limit(MOST_CHANGES);
  return rows.map(({ made, ...row }) => ({ ...row, made: made.toISOString() }));
}

/** Pays cash into a book or out of it; null where there is none. */
export async function payCash(
  database: Database,
  bookId: number,
  { time, amount, note }: { time: string; amount: number; note: string },
): Promise<Booked | null> {
  const [held] = await database.select({ currency: books.currency }).from(books).where(eq(books.id, bookId));
  if (!held) return null;
  return changeBook(database, bookId, async (edit) => {
    const id = await edit.insert('book_cash', { bookId, time: new Date(time), amount: decimal(amount), note });
    const paid = `${decimal(Math.abs(amount))} ${held.currency} paid ${amount > 0 ? 'in' : 'out'}`;
    return done(bookId, id, paid);
  });
}

/** A name that no other position of a book has: with a number behind it where it is taken. */
async function freeName(edit: BookEdit, bookId: number, name: string): Promise<string> {
  const rows = await edit.session
    .select({ name: bookPositions.name })
    .from(bookPositions)
    .where(eq(bookPositions.bookId, bookId));
  const taken = new Set(rows.map((row) => row.name));
  if (!taken.has(name)) return name;
  for (let i = 2; ; i++) if (!taken.has(`${name} ${i}`)) return `${name} ${i}`;
}

/** Opens a position with what was traded of it; null where there is no such book. */
export async function openPosition(
  database: Database,
  given: { book: number; symbol: string; name: string; tags: string[]; note: string; fills: readonly FillGiven[] },
): Promise<Booked | null> {
  const { book: bookId, symbol, tags, note } = given;
  const [held] = await database.select({ id: books.id }).from(books).where(eq(books.id, bookId));
  if (!held) return null;
  return changeBook(database, bookId, async (edit) => {
    const name = await freeName(edit, bookId, given.name);
    const id = await edit.insert('book_positions', { bookId, symbol, name, tags, note });
    await bookTrades(edit, { id, symbol }, given.fills, (at) => `fills.${at}`);
    return done(bookId, id, `${name} was opened`);
  });
}

/** Books trades of a position as one; null where there is none. */
export async function bookFills(
  database: Database,
  positionId: number,
  given: readonly FillGiven[],
  { pathOf, said }: { pathOf: (at: number) => string; said?: string | undefined },
): Promise<Booked | null> {
  const position = await findPosition(database, positionId);
  if (!position) return null;
  return changeBook(database, position.bookId, async (edit) => {
    const ids = await bookTrades(edit, position, given, pathOf);
    const made = given.length === 1 ? 'one trade' : `${given.length} trades`;
    return done(position.bookId, ids[0]!, said ?? `${made} of ${position.name}`);
  });
}

/** Changes what a position is called, its tags or its note; null where there is none. */
export async function changePosition(
  database: Database,
  id: number,
  { version, ...change }: { version: number; name?: string; tags?: string[]; note?: string },
): Promise<Booked | null> {
  const position = await findPosition(database, id);
  if (!position) return null;
  return changeBook(database, position.bookId, async (edit) => {
    const { name } = change;
    if (name !== undefined && name !== position.name && (await freeName(edit, position.bookId, name)) !== name)
      throw new BookingError('name', `there is a position called ${name} already`);
    await edit.update('book_positions', id, version, change, 'the position');
    return done(position.bookId, id, `${Object.keys(change).join(', ')} of ${name ?? position.name} changed`);
  });
}

/** Deletes a position with its fills; null where there is none. */
export async function deletePosition(database: Database, id: number): Promise<Booked | null> {
  const position = await findPosition(database, id);
  if (!position) return null;
  return changeBook(database, position.bookId, async (edit) => {
    await removePosition(edit, id);
    return done(position.bookId, id, `${position.name} was deleted`);
  });
}

async function findFill(database: Queryable, id: number) {
  const [row] = await database
    .select({ fill: fills, position: bookPositions })
    .from(fills)
    .innerJoin(bookPositions, eq(bookPositions.id, fills.positionId))
    .where(eq(fills.id, id));
  return row ?? null;
}

/** Corrects a trade; null where there is none. */
export async function changeFill(
  database: Database,
  id: number,
  change: { version: number; time?: string; quantity?: number; price?: number; fee?: number },
): Promise<Booked | null> {
  const found = await findFill(database, id);
  if (!found) return null;
  const { fill, position } = found;
  const { version, time, quantity, price, fee } = change;
  return changeBook(database, position.bookId, async (edit) => {
    const set = {
      ...(time !== undefined && { time: new Date(time) }),
      ...(quantity !== undefined && { quantity: decimal(quantity) }),
      ...(price !== undefined && { price: decimal(price) }),
      ...(fee !== undefined && { fee: decimal(fee) }),
    };
    await edit.update('fills', id, version, set, 'the trade');
    return done(position.bookId, id, `the trade of ${words(contractOf(fill))} in ${position.name} corrected`);
  });
}

/** Deletes a trade; null where there is none. */
export async function deleteFill(database: Database, id: number): Promise<Booked | null> {
  const found = await findFill(database, id);
  if (!found) return null;
  const { fill, position } = found;
  return changeBook(database, position.bookId, async (edit) => {
    await edit.remove('fills', id);
    return done(position.bookId, id, `the trade of ${words(contractOf(fill))} in ${position.name} deleted`);
  });
}

/** Says what an expiry has settled at. @throws StateError for an underlying that is not known */
export async function settle(
  database: Database,
  { symbol, expiry, settlement, price }: { symbol: string; expiry: string; settlement: Settlement; price: number },
): Promise<void> {
  const [known] = await database
    .select({ symbol: tables.underlyings.symbol })
    .from(tables.underlyings)
    .where(inArray(tables.underlyings.symbol, [symbol]));
  if (!known) throw new StateError(`${symbol} is no known underlying`);
  await database
    .insert(settlements)
    .values({ symbol, expiry, settlement, price: decimal(price) })
    .onConflictDoUpdate({
      target: [settlements.symbol, settlements.expiry, settlements.settlement],
      set: { price: decimal(price) },
    });
}
