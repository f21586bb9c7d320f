import type { RequestEvent } from '@sveltejs/kit';
import { and, eq } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { tables, type Database } from '../db';
import { readBytes } from './body';
import { endpoint } from './endpoint';
import { ApiError } from './problem';

const { requests } = tables;

const HEADER = 'idempotency-key';
const KEY = /^[\x21-\x7e]{1,200}$/;
/** Headers of an answer that are given again. */
const KEPT_HEADERS = ['content-type', 'location'];
const LOOK_EVERY_MS = 100;
const LONGEST_WAIT_MS = 10_000;

/**
 * An endpoint that makes something. With the header `Idempotency-Key` the same request again, however often it is sent, makes
 * nothing more and is answered as it was the first time; one that was refused may be sent again.
 *
 * @param options `isFile`: the body is a file, which is not looked at to tell one request from another
 */
export function creatingEndpoint<Event extends RequestEvent>(
  database: () => Database,
  work: (event: Event) => Promise<unknown>,
  { isFile = false } = {},
) {
  const plain = endpoint(work);
  return endpoint(async (event: Event) => {
    const key = event.request.headers.get(HEADER);
    if (key === null) return plain(event);
    if (!KEY.test(key)) {
      const message = 'must have 1 to 200 printable characters of ASCII without spaces';
      throw new ApiError(400, 'Invalid input', `${HEADER}: ${message}`, { errors: [{ path: HEADER, message }] });
    }
    const what = `${event.request.method} ${event.url.pathname}`;
    const hash = createHash('sha256').update(event.url.search);
    if (!isFile) hash.update(await readBytes(event.request.clone()));
    const digest = hash.digest('hex');
    const which = and(eq(requests.what, what), eq(requests.key, key));
    const begun = await database().insert(requests).values({ what, key, digest }).onConflictDoNothing().returning();
    if (begun.length === 0) return answeredBefore(database(), which, digest);
    const response = await plain(event);
    if (response.status >= 400) {
      await database().delete(requests).where(which);
      return response;
    }
    const headers = KEPT_HEADERS.flatMap((name): [string, string][] => {
      const value = response.headers.get(name);
      return value === null ? [] : [[name, value]];
    });
    const body = await response.clone().text();
    await database().update(requests).set({ status: response.status, headers, body }).where(which);
    return response;
  });
}

async function answeredBefore(database: Database, which: ReturnType<typeof and>, digest: string): Promise<Response> {
  const until = performance.now() + LONGEST_WAIT_MS;
  for (;;) {
    const [known] = await database.select().from(requests).where(which);
    if (!known) throw new ApiError(409, 'Refused meanwhile', 'the request with this key was refused: send it again');
    if (known.digest !== digest)
      throw new ApiError(422, 'Key used before', `${HEADER}: stands for another request already`);
    if (known.status !== null) return new Response(known.body, { status: known.status, headers: known.headers ?? [] });
    // Never run a second time: how far the first one came is unknown.
    if (performance.now() > until) {
      const since = known.begun.toISOString();
      throw new ApiError(
        409,
        'Not ended',
        `the request with this key was begun at ${since} and has not ended: look what it has made`,
      );
    }
    await sleep(LOOK_EVERY_MS);
  }
}
