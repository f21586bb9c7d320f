import { DEMO_BOOK } from '@umwelt/demo';
import { changeBookTerms, listBooks, payCash } from '../book';
import type { Database } from '../db';

const FUNDED = { time: '2030-12-02T10:45:00Z', amount: 500_000, note: 'to begin with' };
const LIMITS = [
  { what: 'worst', most: 90_000 },
  { what: 'delta', most: 500_000 },
  { what: 'vega', most: 2_500 },
] as const;

/** Gives the book that the demo's fills have made its cash and its limits, once. */
export async function endowDemoBook(database: Database): Promise<void> {
  const book = (await listBooks(database)).find(({ name }) => name === DEMO_BOOK);
  if (!book || book.limits.length > 0) return;
  await payCash(database, book.id, FUNDED);
  await changeBookTerms(database, book.id, { version: book.version, limits: LIMITS.map((limit) => ({ ...limit })) });
}
