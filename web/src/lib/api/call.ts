import type { z } from 'zod';
import type { DeepReadonly, PathOf } from './define';
import type { Api } from './endpoints';

/** What the API refused, in its words. */
export class Refusal extends Error {
  /** @param current what somebody else has made of it meanwhile, where that is why */
  constructor(
    detail: string,
    readonly current: Readonly<Record<string, unknown>> | undefined,
  ) {
    super(detail);
  }
}

/** An endpoint by what is asked: `GET /underlyings/{symbol}`. */
export type Asked = keyof Api;

/** The answer to what is asked. */
export type Answer<A extends Asked> = z.output<Api[A]['response']>;

/** What a request says: names of the path, a query and a body, as the endpoint takes them. */
export type Said<A extends Asked> = {
  query?: { [Name in keyof z.input<Api[A]['query']>]?: z.input<Api[A]['query']>[Name] | null };
  signal?: AbortSignal | undefined;
  /** What it is to be answered as, where that is not JSON. */
  accept?: string | undefined;
} & (keyof PathOf<Api[A]> extends never
  ? { path?: never }
  : { path: { [Name in keyof PathOf<Api[A]>]: string | number } }) &
  (undefined extends z.input<Api[A]['body']> ? { body?: never } : { body: DeepReadonly<z.input<Api[A]['body']>> });

type Spoken = {
  path?: object;
  query?: object;
  body?: unknown;
  signal?: AbortSignal | undefined;
  accept?: string | undefined;
};

/** The address of what is asked, below the base path. What is null or not given is left out of the query. */
export function addressOf(asked: Asked, { path = {}, query = {} }: Pick<Spoken, 'path' | 'query'> = {}): string {
  const names = path as Record<string, unknown>;
  const filled = asked
    .slice(asked.indexOf(' ') + 1)
    .replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(names[name])));
  const given = Object.entries(query as Record<string, unknown>).flatMap(([name, value]) =>
    (Array.isArray(value) ? value : [value])
      .filter((one) => one !== null && one !== undefined)
      .map((one): [string, string] => [name, String(one)]),
  );
  return given.length > 0 ? `${filled}?${new URLSearchParams(given)}` : filled;
}

/** Asks the API. @throws Refusal with what is wrong, in its words */
export async function respond<A extends Asked>(asked: A, said: Said<A>): Promise<Response> {
  const { body, signal, accept, ...where }: Spoken = said;
  let response: Response;
  try {
    response = await fetch(`/api/v1${addressOf(asked, where)}`, {
      method: asked.slice(0, asked.indexOf(' ')),
      ...(body !== undefined && { body: JSON.stringify(body) }),
      ...(signal && { signal }),
      ...(accept !== undefined && { headers: { accept } }),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new Error('The server does not answer. Is Umwelt still running?', { cause: error });
  }
  if (response.ok) return response;
  const problem = (await response.json().catch(() => null)) as (Pick<Refusal, 'current'> & { detail?: string }) | null;
  throw new Refusal(problem?.detail ?? `The server answered ${response.status}.`, problem?.current);
}

/**
 * Asks the API for JSON, typed by the definition of the endpoint.
 *
 * @example await call('GET /underlyings/{symbol}/snapshots', { path: { symbol: 'MRX40' } })
 */
export async function call<A extends Asked>(
  asked: A,
  ...[said]: object extends Said<A> ? [said?: Said<A>] : [said: Said<A>]
): Promise<Answer<A>> {
  return (await (await respond(asked, said ?? ({} as Said<A>))).json()) as Answer<A>;
}
