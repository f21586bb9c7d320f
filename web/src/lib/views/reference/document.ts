/** The parts of an OpenAPI 3.1 document that are shown. */
export interface Schema {
  $ref?: string;
  type?: string | string[];
  description?: string;
  enum?: readonly unknown[];
  const?: unknown;
  default?: unknown;
  format?: string;
  minimum?: number;
  maximum?: number;
  items?: Schema;
  properties?: Record<string, Schema>;
  required?: readonly string[];
  anyOf?: readonly Schema[];
  oneOf?: readonly Schema[];
  additionalProperties?: Schema | boolean;
}

interface Content {
  content?: Record<string, { schema?: Schema; example?: unknown }>;
  description?: string;
}

interface Parameter {
  name: string;
  in: 'path' | 'query' | 'header';
  required?: boolean;
  description?: string;
  schema: Schema;
  example?: unknown;
}

export interface Document {
  info: { title: string; version: string; description: string };
  tags: readonly { name: string; description: string }[];
  paths: Record<
    string,
    Record<
      string,
      {
        summary: string;
        tags: readonly string[];
        parameters?: readonly Parameter[];
        requestBody?: Content;
        responses: Record<string, Content>;
        'x-changes-nothing'?: boolean;
      }
    >
  >;
  components: { schemas: Record<string, Schema> };
}

/** One thing that can be asked. */
export interface Operation {
  id: string;
  method: string;
  path: string;
  tag: string;
  summary: string;
  parameters: readonly Parameter[];
  body: Schema | null;
  answer: Schema | null;
  /** Kinds of content that it can answer. */
  kinds: readonly string[];
  /** A request that changes nothing and can be sent as it stands; null where there is none. */
  example: { address: string; body: unknown } | null;
}

const JSON_TYPE = 'application/json';
const STREAM = 'text/event-stream';

const METHODS = ['GET', 'POST', 'PUT', 'DELETE'];

/** What can be asked, in the order of the paths. */
export function operationsOf({ paths }: Document): Operation[] {
  const operations = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([name, operation]): Operation => {
      const method = name.toUpperCase();
      const { summary, tags, parameters = [], requestBody, responses } = operation;
      const [good] = Object.values(responses);
      const given = requestBody?.content?.[JSON_TYPE];
      const kinds = Object.keys(good?.content ?? {});
      const isComplete =
        parameters.every((one) => !one.required || one.example !== undefined) &&
        (!requestBody || given?.example !== undefined);
      const canRun = operation['x-changes-nothing'] === true && isComplete && !kinds.includes(STREAM);
      return {
        ...{
          id: `${name}${path.replaceAll(/[^a-z]+/gi, '-')}`,
          method,
          path,
          tag: tags[0]!,
          summary,
          parameters,
          kinds,
        },
        body: given?.schema ?? null,
        answer: good?.content?.[JSON_TYPE]?.schema ?? good?.content?.[STREAM]?.schema ?? null,
        example: canRun ? { address: addressOf(path, parameters), body: given?.example } : null,
      };
    }),
  );
  const place = ({ method }: Operation) => METHODS.indexOf(method);
  return operations.sort((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : place(a) - place(b)));
}

/** The address of an example, below the base path. */
function addressOf(path: string, parameters: readonly Parameter[]): string {
  const given = (place: Parameter['in']) => parameters.filter((one) => one.in === place && one.example !== undefined);
  const filled = given('path').reduce(
    (text, { name, example }) => text.replace(`{${name}}`, encodeURIComponent(String(example))),
    path,
  );
  const query = new URLSearchParams(
    given('query').flatMap(({ name, example }) => [example].flat().map((one): [string, string] => [name, String(one)])),
  );
  return query.size > 0 ? `${filled}?${query}` : filled;
}

/** The schema that a reference leads to, and its name. */
export function resolved(schema: Schema, { components }: Document): { schema: Schema; name: string | null } {
  if (!schema.$ref) return { schema, name: null };
  const name = schema.$ref.split('/').at(-1)!;
  return { schema: components.schemas[name] ?? {}, name };
}

const LONGEST_LIST = 8;

/** What a value may be, in a few words. */
export function typeWords(given: Schema, document: Document): string {
  const { schema, name } = resolved(given, document);
  const { type, items, anyOf, oneOf, format } = schema;
  if (schema.const !== undefined) return JSON.stringify(schema.const);
  if (schema.enum) {
    const words = schema.enum.map((one) => JSON.stringify(one));
    return words.length > LONGEST_LIST
      ? `${words.slice(0, LONGEST_LIST).join(' | ')} | … (${words.length})`
      : words.join(' | ');
  }
  const choices = anyOf ?? oneOf;
  if (choices) return [...new Set(choices.map((one) => typeWords(one, document)))].join(' | ');
  if (items) return `list of ${typeWords(items, document)}`;
  if (schema.properties || type === 'object') return name ?? 'object';
  const types = [type ?? 'anything'].flat();
  return types.map((one) => (one === 'string' && format ? format : one)).join(' | ');
}

/** A field of an object, and how deep it lies. */
export interface Line {
  key: string;
  depth: number;
  name: string;
  type: string;
  isOptional: boolean;
  words: string;
}

const DEEPEST = 4;

/** The fields of a schema, one below the other. */
export function linesOf(given: Schema, document: Document, depth = 0, prefix = ''): Line[] {
  const { schema } = resolved(given, document);
  const choices = schema.anyOf ?? schema.oneOf;
  if (choices) {
    const objects = choices.filter((one) => hasFields(one, document));
    return objects.flatMap((one, i) => linesOf(one, document, depth, `${prefix}${i}|`));
  }
  if (schema.items) return linesOf(schema.items, document, depth, prefix);
  return Object.entries(schema.properties ?? {}).flatMap(([name, field]): Line[] => {
    const key = `${prefix}${name}`;
    const line = {
      ...{ key, depth, name, type: typeWords(field, document) },
      isOptional: !(schema.required ?? []).includes(name),
      words: wordsOf(field, document),
    };
    return [line, ...(depth + 1 < DEEPEST ? linesOf(field, document, depth + 1, `${key}.`) : [])];
  });
}

function hasFields(given: Schema, document: Document): boolean {
  const { schema } = resolved(given, document);
  return schema.properties !== undefined || (schema.items !== undefined && hasFields(schema.items, document));
}

function wordsOf(given: Schema, document: Document): string {
  const description = given.description ?? resolved(given, document).schema.description ?? '';
  return given.default === undefined
    ? description
    : `${description}${description ? '; ' : ''}${JSON.stringify(given.default)} unless given`;
}

/** JSON as it is read, lists of plain values on one line. */
export function prettyJson(value: unknown): string {
  const lists = /\[([^[\]{}]+)\]/g;
  return JSON.stringify(value, null, 2).replace(
    lists,
    (_, items: string) => `[${items.trim().replace(/\s*\n\s*/g, ' ')}]`,
  );
}
