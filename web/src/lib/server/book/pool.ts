import type { Piscina } from 'piscina';
import { openPool } from '../threads';
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
