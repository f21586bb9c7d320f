import { z } from 'zod';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/** Who may call an endpoint: `open` is whoever reaches the server. */
export type Access = 'open';

/** The names in the braces of a path. */
type Names<Path extends string> = Path extends `${string}{${infer Name}}${infer Rest}` ? Name | Names<Rest> : never;

const NoQuery = z.object({});
const NoBody = z.undefined();

/** What an endpoint takes and answers: the check of its input, the types of its handler and of its callers, and its description. */
export interface Endpoint<
  M extends Method = Method,
  Path extends string = string,
  Query extends z.ZodObject = z.ZodObject,
  Body extends z.ZodType = z.ZodType,
  Response extends z.ZodType = z.ZodType,
> {
  readonly method: M;
  /** Below the base path, with names in braces. */
  readonly path: Path;
  readonly access: Access;
  readonly summary: string;
  readonly query: Query;
  readonly body: Body;
  readonly response: Response;
  readonly options: EndpointOptions;
}

/** A request that can be sent as it stands where the demo is held. */
export interface Example {
  readonly path?: object;
  readonly query?: object;
  readonly body?: unknown;
}

export interface EndpointOptions {
  readonly example?: Example;
  /** What a name of the path means, where it does not say so itself. */
  readonly names?: Readonly<Record<string, string>>;
  /** The list of the answer that `?format=csv` gives as a table. */
  readonly csv?: string;
  /** Of a good answer; 200 unless given. */
  readonly status?: 202;
  /** Makes something, once for a key of the caller's. */
  readonly creates?: boolean;
  /** The body is read by the handler: JSON in a thread, or a file as it comes in. */
  readonly reads?: 'json-apart' | 'file';
  /** A POST that changes nothing. */
  readonly asks?: boolean;
  /** The answer is a file, or a stream of events that the schema describes, and no JSON. */
  readonly answers?: 'file' | 'events';
}

interface Definition<
  M extends Method,
  Path extends string,
  Query extends z.ZodObject,
  Body extends z.ZodType,
  Response extends z.ZodType,
> extends EndpointOptions {
  readonly example?: {
    readonly path?: { readonly [Name in Names<Path>]: string };
    readonly query?: DeepReadonly<z.input<Query>>;
    readonly body?: DeepReadonly<z.input<Body>>;
  };
  readonly method: M;
  readonly path: Path;
  readonly access: Access;
  readonly summary: string;
  readonly query?: Query;
  readonly body?: Body;
  readonly response: Response;
}

/** Defines an endpoint. What it does is said where it is handled. */
export function defineEndpoint<
  const M extends Method,
  const Path extends string,
  Response extends z.ZodType,
  Query extends z.ZodObject = typeof NoQuery,
  Body extends z.ZodType = typeof NoBody,
>(definition: Definition<M, Path, Query, Body, Response>): Endpoint<M, Path, Query, Body, Response> {
  const { method, path, access, summary, query, body, response, ...options } = definition;
  return {
    ...{ method, path, access, summary, response, options },
    query: query ?? (NoQuery as unknown as Query),
    body: body ?? (NoBody as unknown as Body),
  };
}

/** Whether an endpoint takes a body of JSON. */
export const takesJson = ({ body, options }: Endpoint): boolean => body !== NoBody && options.reads !== 'file';

/** The names of a path with their texts. */
export type PathOf<E extends Endpoint> = { readonly [Name in Names<E['path']>]: string };

/** An answer as a handler gives it: nothing of it need be changed any more. */
export type AnswerOf<E extends Endpoint> = DeepReadonly<z.input<E['response']>>;

export type DeepReadonly<T> = T extends readonly (infer Item)[]
  ? readonly DeepReadonly<Item>[]
  : T extends object
    ? { readonly [Key in keyof T]: DeepReadonly<T[Key]> }
    : T;
