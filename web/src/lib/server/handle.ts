/** Handles endpoints of the API as they are defined: checks what comes in, and writes what goes out. */
import type { RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import { takesJson, type Access, type AnswerOf, type Endpoint, type PathOf } from '../api';
import { ApiError, creatingEndpoint, csvAnswer, endpoint, headsOf, jsonAnswer, readBody, readQuery } from './api';
import { database, keptAnswers } from './database';

/** A request of an endpoint, checked. */
export interface Call<E extends Endpoint> {
  readonly path: PathOf<E>;
  readonly query: z.output<E['query']>;
  /** Undefined where the handler reads it. */
  readonly body: z.output<E['body']>;
  readonly event: RequestEvent;
}

/** What a handler makes of a request; a Response is sent as it is. */
export type Handler<E extends Endpoint> = (call: Call<E>) => Promise<AnswerOf<E> | Response> | AnswerOf<E> | Response;

type Answering = (event: RequestEvent) => Promise<Response>;

/** Who may call what. */
const MAY_CALL: Record<Access, (event: RequestEvent) => boolean> = { open: () => true };

/** Answers the requests of an endpoint. */
export function handle<E extends Endpoint>(definition: E, work: Handler<E>): Answering {
  const { options } = definition;
  const answered = async (event: RequestEvent) => {
    if (!MAY_CALL[definition.access](event)) throw new ApiError(403, 'Forbidden', 'this is not for whoever calls');
    return written(definition, event, await work(await callOf(definition, event)));
  };
  return options.creates
    ? creatingEndpoint(database, answered, { isFile: options.reads === 'file' })
    : endpoint(answered);
}

/**
 * The same where the answer depends on nothing but what is held of some symbol, and of those that lend it curves: it is kept
 * until that changes.
 *
 * @param symbolOf the symbol of a request
 */
export function handleKept<E extends Endpoint>(
  definition: E,
  work: Handler<E>,
  symbolOf: (path: PathOf<E>) => string,
): Answering {
  const plain = handle(definition, work);
  return endpoint((event) => keptAnswers().answer(event, symbolOf(event.params as PathOf<E>), () => plain(event)));
}

async function callOf<E extends Endpoint>(definition: E, event: RequestEvent): Promise<Call<E>> {
  const isRead = takesJson(definition) && definition.options.reads === undefined;
  return {
    // The route has the names of the path.
    path: event.params as PathOf<E>,
    query: readQuery(event, definition.query) as z.output<E['query']>,
    body: (isRead ? await readBody(event, definition.body) : undefined) as z.output<E['body']>,
    event,
  };
}

function written({ response, options: { csv, status } }: Endpoint, event: RequestEvent, answer: unknown): Response {
  if (answer instanceof Response) return answer;
  if (csv !== undefined && event.url.searchParams.get('format') === 'csv') {
    const rows = (answer as Record<string, object[]>)[csv]!;
    return csvAnswer(csv, columnsOf(rows, listOf(response, csv)), rows);
  }
  // What does not exist is null.
  return jsonAnswer(JSON.stringify(answer), { status: status ?? 200 });
}

/** The schema of a list of an answer. */
function listOf(response: z.ZodType, name: string): z.ZodArray<z.ZodObject> {
  if (!(response instanceof z.ZodObject)) throw new TypeError(`no list ${name} can be told of this answer`);
  return response.shape[name] as z.ZodArray<z.ZodObject>;
}

function columnsOf(rows: readonly object[], list: z.ZodArray<z.ZodObject>): string[] {
  const [first] = rows as Record<string, unknown>[];
  return first ? Object.keys(first).filter((key) => !Array.isArray(first[key])) : headsOf(list);
}
