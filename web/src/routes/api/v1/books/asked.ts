import { ApiError, idOf, jsonAnswer, notFound } from '$lib/server/api';
import { BookingError, bookWork, type BookTask } from '$lib/server/book';
import { database } from '$lib/server/database';

/** The number that a path names. @throws ApiError 404 where it is none */
export function numberOf(what: string, text: string): number {
  const id = idOf(text);
  if (id === null) throw notFound(`there is no ${what} ${text}`);
  return id;
}

/** What was found. @throws ApiError 404 where it is null */
export function found<T>(what: string, id: string | number, value: T | null): T {
  if (value === null) throw notFound(`there is no ${what} ${id}`);
  return value;
}

/** What a change has brought; what cannot be booked is refused with its place. */
export async function booked<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (!(error instanceof BookingError)) throw error;
    const { path, reason: message } = error;
    throw new ApiError(422, 'Not to be booked', `${path}: ${message}`, { errors: [{ path, message }] });
  }
}

/** What a book is worth, as a thread has written it. @throws ApiError 404 */
export async function bookJson(task: BookTask): Promise<Response> {
  const bytes = await bookWork(database().$client.options.connectionString!, task);
  return jsonAnswer(found('book', task.bookId, bytes));
}

export const instantOf = (moment: string | undefined): number | null =>
  moment === undefined ? null : Date.parse(moment);

/** Two moments. @throws ApiError 422 where the second is not after the first */
export function spanOf(from: string, to: string): { from: number; to: number } {
  const span = { from: Date.parse(from), to: Date.parse(to) };
  if (span.from < span.to) return span;
  const message = `must be after ${from}`;
  throw new ApiError(422, 'Not to be explained', `to: ${message}`, { errors: [{ path: 'to', message }] });
}
