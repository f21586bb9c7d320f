import { integer, text, timestamp } from 'drizzle-orm/pg-core';

/** Kinds of columns that several tables have. */
export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });

/** Counted up with every change: whoever changes a row says which version of it he has seen. */
export const version = () => integer('version').notNull().default(1);

export const side = (name: string) => text(name, { enum: ['call', 'put'] });
