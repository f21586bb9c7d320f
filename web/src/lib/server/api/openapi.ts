import { z } from 'zod';
import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiPathsObject } from 'zod-openapi';
import { RESOURCES, schemas, TAGS, takesJson, type Endpoint } from '../../api';
import { VERSION } from './version';

const Once = z.object({
  'idempotency-key': z
    .string()
    .optional()
    .describe('the same request with the same key makes one thing alone, and is answered as it was'),
});

const problems = Object.fromEntries(
  [
    ['400', 'Invalid input, with the place of each fault'],
    ['404', 'Not held'],
    ['409', 'Not in the state that this needs, or changed meanwhile: `current` says what it is now'],
    ['413', 'More than is read of a body'],
    ['422', 'Understood, and not to be done'],
    ['429', 'Too many at a time'],
    ['500', 'Internal error'],
    ['503', 'The database is away, or took too long'],
    ['507', 'The disk of the database is full'],
  ].map(([status, description]) => [
    status,
    { description, content: { 'application/problem+json': { schema: schemas.Problem } } },
  ]),
);

const NAME = /\{(\w+)\}/g;
const File = z.string().describe('a file of docs/formats.md');

/** A parameter with an example of it. */
function withExample<T extends z.ZodType>(schema: T, example: unknown): T {
  return example === undefined ? schema : schema.meta({ ...schema.meta(), param: { example } });
}

/** The query of an endpoint, with examples. */
function queryOf({ query, options: { example } }: Endpoint): z.ZodObject {
  const examples = Object.entries((example?.query ?? {}) as Record<string, unknown>);
  const shape = query.shape as Record<string, z.ZodType>;
  return query.extend(Object.fromEntries(examples.map(([name, one]) => [name, withExample(shape[name]!, one)])));
}

function pathOf({ path, options: { names = {}, example } }: Endpoint): z.ZodObject | undefined {
  const found = [...path.matchAll(NAME)].map(([, name]) => name!);
  if (found.length === 0) return undefined;
  const examples = example?.path as Record<string, unknown> | undefined;
  const text = (name: string) => {
    const described = names[name] ? z.string().describe(names[name]) : z.string();
    return withExample(described, examples?.[name]);
  };
  return z.object(Object.fromEntries(found.map((name) => [name, text(name)])));
}

function contentOf({ response, summary, options: { answers, csv } }: Endpoint) {
  if (answers === 'events') {
    return {
      description:
        'events `feed` (as /feed, when it has changed), `prices` (of all underlyings) and `snapshot` (as /underlyings/{symbol}/snapshots/{asof})',
      content: { 'text/event-stream': { schema: response } },
    };
  }
  const table = csv === undefined ? {} : { 'text/csv': { schema: z.string() } };
  return { description: summary, content: { 'application/json': { schema: response }, ...table } };
}

function operationOf(endpoint: Endpoint): ZodOpenApiOperationObject {
  const { summary, query, body, options } = endpoint;
  const path = pathOf(endpoint);
  const params = {
    ...(Object.keys(query.shape).length > 0 && { query: queryOf(endpoint) }),
    ...(path && { path }),
    ...(options.creates && { header: Once }),
  };
  const content =
    options.reads === 'file'
      ? { 'text/csv': { schema: File }, 'multipart/form-data': { schema: z.object({ file: z.string() }) } }
      : {
          'application/json': {
            schema: body,
            ...(options.example?.body !== undefined && { example: options.example.body }),
          },
        };
  return {
    summary,
    ...((endpoint.method === 'GET' || options.asks) && { 'x-changes-nothing': true }),
    ...(Object.keys(params).length > 0 && { requestParams: params }),
    ...((takesJson(endpoint) || options.reads === 'file') && { requestBody: { required: true, content } }),
    responses: { [String(options.status ?? 200)]: contentOf(endpoint), ...problems },
  } as ZodOpenApiOperationObject;
}

function pathsOf(): ZodOpenApiPathsObject {
  const paths: ZodOpenApiPathsObject = {};
  for (const [tag, resource] of Object.entries(RESOURCES)) {
    for (const endpoint of Object.values(resource) as Endpoint[]) {
      const method = endpoint.method.toLowerCase() as Lowercase<Endpoint['method']>;
      paths[endpoint.path] = { ...paths[endpoint.path], [method]: { ...operationOf(endpoint), tags: [tag] } };
    }
  }
  return paths;
}

/** The OpenAPI 3.1 document of the API, made of the definitions that the endpoints are handled by. */
export function openApiDocument() {
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Umwelt',
      version: VERSION,
      description: 'Everything that the screens compute. Units as in docs/conventions.md. Errors are problem details.',
    },
    servers: [{ url: '/api/v1' }],
    tags: Object.entries(TAGS).map(([name, description]) => ({ name, description })),
    paths: pathsOf(),
  });
}
