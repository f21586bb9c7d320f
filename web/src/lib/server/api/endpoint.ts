import type { RequestEvent } from '@sveltejs/kit';
import Papa from 'papaparse';
import { z } from 'zod';
import { causeOf, ConflictError, StateError } from '../errors';
import { isDiskFull, RoomError } from '../room';
import { refuseBrokenText } from './body';
import { ApiError, invalidInput, problem } from './problem';

/** What has been written as JSON, as an answer. */
export function jsonAnswer(
  json: string | Uint8Array,
  init: { status?: number; headers?: Record<string, string> } = {},
): Response {
  const headers = { 'content-type': 'application/json', ...init.headers };
  return new Response(json as BodyInit, { ...init, headers });
}

/** Status of a request whose client has gone. */
const CLOSED = 499;

/**
 * A request handler that answers JSON: what `work` returns, or the problem it throws. A Response passes as it is.
 */
export function endpoint<Event extends RequestEvent>(work: (event: Event) => Promise<unknown> | unknown) {
  return async (event: Event): Promise<Response> => {
    try {
      for (const [name, text] of [...Object.entries(event.params), ...event.url.searchParams])
        refuseBrokenText(name, text ?? '');
      const answer = await work(event);
      // JSON.stringify writes NaN and infinities as null, which is what the API promises of absent values.
      return answer instanceof Response ? answer : jsonAnswer(JSON.stringify(answer));
    } catch (error) {
      if (error instanceof ApiError) return problem(error.status, error.title, error.detail, error.extra);
      if (error instanceof ConflictError)
        return problem(409, 'Changed meanwhile', error.message, { current: error.current });
      if (error instanceof StateError) return problem(409, 'Not in the state for this', error.message);
      if (event.request.signal.aborted || (error instanceof Error && error.name === 'AbortError'))
        return new Response(null, { status: CLOSED });
      if (error instanceof RoomError) return problem(507, 'Disk full', `${error.message}: make room, then ask again`);
      const told = ofDatabase(error);
      if (told) return told;
      console.error(error);
      return problem(500, 'Internal error', 'the request could not be answered; the log of the server says why');
    }
  };
}

/** Codes of the database (PostgreSQL, appendix A) and of the system that say what a caller may be told. */
const TOO_LONG = '57014';
const AWAY = ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', '57P01', '57P02', '57P03', '08006', '53300'];
const RETRY_SECONDS = '5';

/** The answer to an error of the database that is none of ours; null for any other. */
function ofDatabase(error: unknown): Response | null {
  const cause = causeOf(error);
  const { code = '', message = '' } = cause instanceof Error ? (cause as NodeJS.ErrnoException) : {};
  if (code === TOO_LONG)
    return problem(503, 'Takes too long', 'the database took too long over this: ask for less at a time');
  if (isDiskFull(error))
    return problem(507, 'Disk full', 'the disk of the database is full: make room, then ask again');
  if (!AWAY.includes(code) && !/timeout exceeded when trying to connect|Connection terminated/.test(message))
    return null;
  const away = problem(503, 'Database away', 'the database does not answer: ask again in some seconds');
  away.headers.set('retry-after', RETRY_SECONDS);
  return away;
}

/** The query of a request as its schema describes it. */
export function readQuery<T extends z.ZodType>(event: RequestEvent, schema: T): z.infer<T> {
  const { searchParams } = event.url;
  const names = [...new Set(searchParams.keys())];
  // A parameter that is given more than once is a list.
  const valueOf = (name: string) => {
    const values = searchParams.getAll(name);
    return values.length > 1 ? values : values[0];
  };
  const parsed = schema.safeParse(Object.fromEntries(names.map((name) => [name, valueOf(name)])));
  if (!parsed.success) throw invalidInput(parsed.error);
  return parsed.data;
}

/** A schema of a list of rows. */
type RowsSchema = z.ZodArray<z.ZodObject>;

/** The fields of rows that a cell can hold, so that a table without any has its heads. */
export function headsOf({ element }: RowsSchema): string[] {
  return Object.entries(element.shape).flatMap(([name, field]) => (field instanceof z.ZodArray ? [] : [name]));
}

/** A stream of server-sent events. @throws ApiError where there is none, as many listen as may */
export function eventsAnswer(stream: ReadableStream<Uint8Array> | null): Response {
  if (!stream)
    throw new ApiError(503, 'Too many streams', 'as many streams are open as may be: close some, or ask again');
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-cache', 'x-accel-buffering': 'no' },
  });
}

/** Rows as CSV, under heads that are there without any rows as well. */
export function csvAnswer(name: string, columns: string[], rows: readonly object[]): Response {
  // What does not exist is an empty cell; one that a spreadsheet would run as a formula is escaped.
  const cells = rows.map((row) =>
    Object.fromEntries(
      Object.entries(row).map(([name, cell]) => [name, Number.isNaN(cell) ? null : (cell as unknown)]),
    ),
  );
  const text = Papa.unparse(cells, { columns, escapeFormulae: true, newline: '\r\n' });
  return new Response(`${text}\r\n`, {
    headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': `attachment; filename="${name}.csv"` },
  });
}

/** The error for something that is not held. */
export function notFound(what: string): ApiError {
  return new ApiError(404, 'Not found', what);
}

const MOST_ID = 2 ** 31 - 1;

/** The number of a row in a path; null where no row can have it. */
export function idOf(text: string): number | null {
  const id = Number(text);
  return Number.isInteger(id) && id > 0 && id <= MOST_ID ? id : null;
}
