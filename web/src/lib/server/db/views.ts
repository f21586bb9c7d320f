/** Views of the database, as tables that are only read; they are made by migration 17. */
import { integer, numeric, pgTable, text } from 'drizzle-orm/pg-core';
import { instant } from './column-types';

const contractColumns = {
  id: integer('id').notNull(),
  symbol: text('symbol').notNull(),
  expiry: text('expiry').notNull(),
  settlement: text('settlement').notNull(),
  strike: numeric('strike').notNull(),
  side: text('side').notNull(),
  quantity: numeric('quantity').notNull(),
  price: numeric('price').notNull(),
  tag: text('tag').notNull(),
};

/** All fills with the names of their books and positions. */
export const bookedFills = pgTable('booked_fills', {
  ...contractColumns,
  time: instant('time').notNull(),
  book: text('book').notNull(),
  position: text('position').notNull(),
  fee: numeric('fee').notNull(),
});

/** Fills of contracts of which something is left by quantity. */
export const bookedLots = pgTable('booked_lots', { ...contractColumns, opened: instant('opened').notNull() });
