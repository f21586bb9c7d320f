import type { Piscina } from 'piscina';
import type { Database } from '../db';
import { openPool } from '../threads';
import { listBooks } from './store';
import type { BookTask } from './work';

/** Each keeps markets of its own, so that more would read more. */
const THREADS = 2;
const MOST_MEGABYTES = 700;

let opened: Piscina | null = null;
const pool = () => (opened ??= openPool('book/book', THREADS, MOST_MEGABYTES, { isAwaited: true }));

/**
 * What a task of a book has brought, as the JSON that is sent; null where there is no such book.
 *
 * @param url of the database
 */
export function bookWork(url: string, task: BookTask): Promise<Uint8Array | null> {
  return pool().run({ url, task }) as Promise<Uint8Array | null>;
}

/** Books that threads keep (see `HeldBooks`); the last made are the likely ones. */
const MOST_PREPARED = 2;

/**
 * Works out for nobody what books are worth now, in every thread, so that the first who asks need not wait until chains are read
 * and the code that values them is compiled.
 */
export async function prepareBooks(database: Database): Promise<void> {
  const url = database.$client.options.connectionString!;
  for (const { id } of (await listBooks(database)).slice(-MOST_PREPARED)) {
    const task: BookTask = { kind: 'worth', bookId: id, asof: null, beta: null };
    // As many at once as there are threads, so that each takes one.
    await Promise.all(Array.from({ length: THREADS }, () => bookWork(url, task)));
  }
}
