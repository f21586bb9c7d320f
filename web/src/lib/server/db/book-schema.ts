/**
 * What people hold: books, their positions, what was traded, cash, and every change of these. Money and quantities are exact. Written
 * by people and by imports of `positions` and `fills` files. Not derived; what follows from it (what is left after an expiry, dividends,
 * interest) is worked out when it is asked for, and stored nowhere.
 */
import { SETTLEMENTS, type Limit } from '@umwelt/core';
import {
  boolean,
  date,
  index,
  integer,
  jsonb,
  numeric,
  pgTable,
  primaryKey,
  serial,
  text,
  unique,
} from 'drizzle-orm/pg-core';
import { instant, version } from './column-types';

export const books = pgTable('books', {
  id: serial('id').primaryKey(),
  name: text('name').notNull().unique(),
  /** In which all of it is told. */
  currency: text('currency').notNull(),
  note: text('note').notNull().default(''),
  limits: jsonb('limits').$type<Limit[]>().notNull().default([]),
  /** The import that has made it; null: a person. */
  importId: integer('import_id'),
  version: version(),
});

const ofBook = () =>
  integer('book_id')
    .notNull()
    .references(() => books.id);

/** Structures that were traded as one, each with its fills. */
export const bookPositions = pgTable(
  'book_positions',
  {
    id: serial('id').primaryKey(),
    bookId: ofBook(),
    /** No foreign key: what people have made is kept when the data are removed. */
    symbol: text('symbol').notNull(),
    name: text('name').notNull(),
    tags: text('tags').array().notNull().default([]),
    note: text('note').notNull().default(''),
    importId: integer('import_id'),
    version: version(),
  },
  (table) => [unique('book_positions_name').on(table.bookId, table.name)],
);

/** What was traded. */
export const fills = pgTable(
  'fills',
  {
    id: serial('id').primaryKey(),
    positionId: integer('position_id')
      .notNull()
      .references(() => bookPositions.id),
    time: instant('time').notNull(),
    symbol: text('symbol').notNull(),
    /** Blank expiry, settlement and side, strike 0: the underlying itself. A blank settlement beside an expiry: pm, or the only series of that day. */
    expiry: text('expiry').notNull().default(''),
    settlement: text('settlement', { enum: [...SETTLEMENTS, ''] })
      .notNull()
      .default(''),
    strike: numeric('strike').notNull().default('0'),
    side: text('side', { enum: ['call', 'put', ''] })
      .notNull()
      .default(''),
    quantity: numeric('quantity').notNull(),
    /** Of one unit of the underlying. */
    price: numeric('price').notNull(),
    /** In money of the underlying's currency. */
    fee: numeric('fee').notNull().default('0'),
    /** An option that was exercised against its seller. */
    isAssigned: boolean('is_assigned').notNull().default(false),
    tag: text('tag').notNull().default(''),
    importId: integer('import_id'),
    version: version(),
  },
  (table) => [
    index('fills_position').on(table.positionId),
    index('fills_import').on(table.importId),
    index('fills_time').on(table.time),
  ],
);

/** Cash that was paid into a book, or out of it. */
export const bookCash = pgTable(
  'book_cash',
  {
    id: serial('id').primaryKey(),
    bookId: ofBook(),
    time: instant('time').notNull(),
    amount: numeric('amount').notNull(),
    note: text('note').notNull().default(''),
    version: version(),
  },
  (table) => [index('book_cash_book').on(table.bookId)],
);

/** The tables that a change of a book may touch. */
export const BOOK_TABLES = { books, book_positions: bookPositions, fills, book_cash: bookCash } as const;
export type BookTable = keyof typeof BOOK_TABLES;

/** A row before and after a change, as the database writes it; null where there was none, or is none any more. */
export interface RowImage {
  table: BookTable;
  id: number;
  before: Record<string, unknown> | null;
  after: Record<string, unknown> | null;
}

/** Every change of a book with all rows that it touched, so that each can be undone. */
export const bookChanges = pgTable(
  'book_changes',
  {
    id: serial('id').primaryKey(),
    bookId: integer('book_id').notNull(),
    made: instant('made').notNull().defaultNow(),
    /** What it was, in words. */
    words: text('words').notNull(),
    rows: jsonb('rows').$type<RowImage[]>().notNull(),
    isUndone: boolean('is_undone').notNull().default(false),
    importId: integer('import_id'),
  },
  (table) => [index('book_changes_book').on(table.bookId)],
);

/** Prices that expiries settled at, where they are not those of the bars; written by imports of `settlements` files and by people. */
export const settlements = pgTable(
  'settlements',
  {
    symbol: text('symbol').notNull(),
    expiry: date('expiry').notNull(),
    settlement: text('settlement', { enum: SETTLEMENTS }).notNull(),
    price: numeric('price').notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.expiry, table.settlement] })],
);
