import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Random } from '../../demo/src/random';
import { serveApart } from '../../scripts/lib/served.mjs';
import { importFile, memorySource } from '../../web/src/lib/server/ingest';
import { makeDatabase, type OwnDatabase } from './own-database';

/**
 * Every operation of the OpenAPI document, with requests made from its schemas and then spoilt: whatever comes, the server answers
 * with what it holds or with a problem of the caller's, in time and to the end. On a server of its own, as some of them take data
 * away.
 */
const RUNS = Number(process.env.FUZZ_OPERATIONS ?? 12);
const SEED = process.env.FUZZ_SEED ?? 'spoilt requests';
const LONGEST_MS = 20_000;
const METHODS = ['get', 'post', 'put', 'delete'] as const;

interface Schema {
  $ref?: string;
  type?: string | string[];
  enum?: unknown[];
  const?: unknown;
  anyOf?: Schema[];
  oneOf?: Schema[];
  allOf?: Schema[];
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  items?: Schema;
  minItems?: number;
  minimum?: number;
  maximum?: number;
  exclusiveMinimum?: number;
  pattern?: string;
}
interface Operation {
  parameters?: { name: string; in: string; schema: Schema }[];
  requestBody?: { content: Record<string, { schema: Schema }> };
}
interface Document {
  paths: Record<string, Partial<Record<(typeof METHODS)[number], Operation>>>;
  components: { schemas: Record<string, Schema> };
}

const WORDS = [
  'FUZZ',
  'NOBODY',
  'latest',
  '2031-01-06',
  '2031-02-20',
  '2031-01-06T15:45:00Z',
  'iv30',
  '1',
  '2',
  'x',
  'bars.csv',
];
const SPOILT_TEXTS = [
  '',
  ' ',
  '\0',
  'a\u0000b',
  '\ud800',
  '\u202e',
  '\u0007\u001b[2J',
  '😀'.repeat(50),
  'x'.repeat(20_000),
  "'; DROP TABLE snapshots; --",
  '../../etc/passwd',
  '%00',
  '%',
  '=1+1',
  'NaN',
  '1e999',
  '-0',
  '0x10',
  '9'.repeat(40),
  '0000-01-01T00:00:00Z',
  '9999-12-31T23:59:59Z',
  '2031-02-30',
  '(((((((((((((iv30',
  'iv30 / 0',
  '__proto__',
];
const SPOILT_NUMBERS = [0, -0, -1, 1e-320, 1e308, -1e308, 2 ** 31, 2 ** 53, 0.1, 5e-324, 1e15];

/** An address holds no halves of characters. */
const whole = (text: string) => Buffer.from(text).toString('utf8');

class Maker {
  constructor(
    private readonly random: Random,
    private readonly document: Document,
  ) {}

  pick<T>(all: readonly T[]): T {
    return all[this.random.below(all.length)]!;
  }

  resolve(schema: Schema): Schema {
    if (!schema.$ref) return schema;
    return this.resolve(this.document.components.schemas[schema.$ref.split('/').at(-1)!]!);
  }

  /** A value that a schema describes, or nearly so. */
  good(given: Schema, depth = 0): unknown {
    const schema = this.resolve(given);
    const ways = schema.anyOf ?? schema.oneOf;
    if (ways) return this.good(this.pick(ways), depth);
    if (schema.allOf) {
      const whole: Record<string, unknown> = {};
      for (const part of schema.allOf) Object.assign(whole, this.good(part, depth));
      return whole;
    }
    if (schema.const !== undefined) return schema.const;
    if (schema.enum) return this.pick(schema.enum);
    const type = Array.isArray(schema.type) ? this.pick(schema.type) : schema.type;
    if (type === 'object') {
      const entries = Object.entries(schema.properties ?? {}).filter(() => this.random.below(8) > 0);
      return Object.fromEntries(entries.map(([name, part]) => [name, this.good(part, depth + 1)]));
    }
    if (type === 'array') {
      const count = Math.max(schema.minItems ?? 0, depth > 4 ? 1 : this.random.below(4));
      return Array.from({ length: count }, () => this.good(schema.items ?? {}, depth + 1));
    }
    if (type === 'integer' || type === 'number') {
      const low = Math.max(schema.minimum ?? schema.exclusiveMinimum ?? 0, -1e6);
      const high = Math.min(schema.maximum ?? low + 200, low + 200);
      const value = low + this.random.below(1000) * ((high - low) / 1000);
      return type === 'integer' ? Math.round(value) : value;
    }
    if (type === 'boolean') return this.random.below(2) === 0;
    if (type === 'null') return null;
    return this.pick(WORDS);
  }

  /** What no schema describes. */
  bad(): unknown {
    const deep = (depth: number): unknown => (depth === 0 ? 1 : [deep(depth - 1)]);
    return this.pick<() => unknown>([
      () => this.pick(SPOILT_TEXTS),
      () => this.pick(SPOILT_TEXTS),
      () => this.pick(SPOILT_NUMBERS),
      () => this.pick(SPOILT_NUMBERS),
      () => null,
      () => true,
      () => [],
      () => ({}),
      () => deep(800),
      () => Array.from({ length: 20_000 }, () => 1),
      () => Object.fromEntries(Array.from({ length: 2000 }, (_, i) => [`k${i}`, i])),
    ])();
  }

  /** The value with one part of it exchanged. */
  spoilt(value: unknown): unknown {
    const parts = typeof value === 'object' && value !== null ? Object.keys(value) : [];
    if (parts.length === 0 || this.random.below(5) === 0) return this.bad();
    const at = this.pick(parts);
    const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...(value as object) }) as Record<
      string,
      unknown
    >;
    copy[at] = this.spoilt(copy[at]);
    if (this.random.below(8) === 0) copy['unknown'] = this.bad();
    return copy;
  }

  text(schema: Schema): string {
    const value = this.random.below(3) === 0 ? this.bad() : this.good(schema);
    const text = typeof value === 'string' ? value : (JSON.stringify(value) ?? '');
    // What is longer than a request line may be is the web server's to refuse.
    return text.slice(0, 3000);
  }
}

const DATA = [
  'symbol,name,kind,exercise\nFUZZ,Fuzz,equity,american\nOTHR,Other,index,european\n',
  `symbol,date,open,high,low,close\n${Array.from({ length: 60 }, (_, i) => {
    const day = new Date(Date.UTC(2030, 10, 1 + i)).toISOString().slice(0, 10);
    return `FUZZ,${day},${100 + (i % 7)},${104 + (i % 7)},${97 + (i % 7)},${101 + (i % 7)}`;
  }).join('\n')}\n`,
  'symbol,ex_date,amount\nFUZZ,2031-01-20,0.5\n',
  'symbol,start,title\nFUZZ,2031-01-25T21:00Z,Results\n',
  `asof,symbol,expiry,strike,side,bid,ask,volume,open_interest,underlying_price\n${[
    '2031-01-03',
    '2031-01-06',
    '2031-01-07',
  ]
    .flatMap((day) =>
      ['FUZZ', 'OTHR'].flatMap((symbol) =>
        ['2031-02-20', '2031-04-17'].flatMap((expiry) =>
          [80, 90, 100, 110, 120].flatMap((strike) =>
            ['C', 'P'].map((side) => {
              const inner = Math.max(0, side === 'C' ? 100 - strike : strike - 100);
              return [`${day}T15:45Z`, symbol, expiry, strike, side, inner + 2, inner + 2.5, 5, 70, 100].join(',');
            }),
          ),
        ),
      ),
    )
    .join('\n')}\n`,
  'time,symbol,expiry,strike,side,price,size\n2031-01-06T15:00Z,FUZZ,2031-02-20,100,C,2.2,5\n',
];

describe('every operation of the API', () => {
  let own: OwnDatabase;
  let server: Awaited<ReturnType<typeof serveApart>>;
  beforeAll(async () => {
    own = await makeDatabase('operations');
    for (const text of DATA) {
      const record = await importFile(own.database, memorySource('data', Buffer.from(text)));
      expect(record.status, `${record.detail} ${JSON.stringify(record.faults[0])}`).toBe('done');
    }
    server = await serveApart(own.url);
  });
  afterAll(async () => {
    server?.stop();
    await own?.remove();
  });

  it(
    `answers ${RUNS} requests that are right or spoilt, in time, to the end, and never with an error of ours`,
    { timeout: 300_000 + 6000 * RUNS },
    async () => {
      const api = `${server.url}/api/v1`;
      const document = (await (await fetch(`${api}/openapi.json`)).json()) as Document;
      const maker = new Maker(new Random(SEED), document);
      const ends: Record<string, number> = {};
      let slowest = { ms: 0, what: '' };
      for (let run = 0; run < RUNS; run++) {
        for (const [path, operations] of Object.entries(document.paths)) {
          for (const method of METHODS) {
            const operation = operations[method];
            if (!operation) continue;
            const { url, init } = requestOf(maker, path, method, operation);
            const what = `run ${run}: ${method} ${url.slice(0, 300)} ${String(init.body ?? '').slice(0, 500)}`;
            const begun = performance.now();
            const response = await fetch(api + url, { ...init, signal: AbortSignal.timeout(LONGEST_MS) }).catch(
              (error: Error) => {
                throw new Error(`${what}: ${error.message} ${String(error.cause)}`);
              },
            );
            expect(response.status, what).toBeLessThan(500);
            const type = response.headers.get('content-type') ?? '';
            if (type.startsWith('text/event-stream')) await response.body!.cancel();
            else {
              const text = await response.text().catch((error: Error) => {
                throw new Error(`${what}: broke off: ${error.message}`);
              });
              if (response.status >= 400) expect(type, what).toContain('application/problem+json');
              if (type.includes('json')) JSON.parse(text || 'null');
              if (type.startsWith('text/csv')) expect(text, what).not.toMatch(/(^|,)(NaN|Infinity|undefined)(,|\r|$)/m);
            }
            const ms = performance.now() - begun;
            if (ms > slowest.ms) slowest = { ms, what };
            ends[response.status] = (ends[response.status] ?? 0) + 1;
          }
        }
      }
      expect((await fetch(`${api}/health`)).status).toBe(200);
      // Enough of them get through to what lies behind the schemas.
      const all = Object.values(ends).reduce((sum, count) => sum + count, 0);
      expect((ends['200'] ?? 0) / all).toBeGreaterThan(0.15);
      expect((ends['400'] ?? 0) / all).toBeGreaterThan(0.15);
      console.log(
        JSON.stringify({ operations: all, ...ends, slowestMs: Math.round(slowest.ms) }),
        slowest.what.slice(0, 120),
      );
    },
  );
});

function requestOf(maker: Maker, path: string, method: string, { parameters = [], requestBody }: Operation) {
  const isSpoilt = maker.pick([true, true, false]);
  let url = path;
  const query = new URLSearchParams();
  for (const { name, in: place, schema } of parameters) {
    if (place === 'path') {
      const known = {
        symbol: ['FUZZ', 'FUZZ', 'FUZZ', 'OTHR'],
        id: ['1', '2', '5', '7'],
        asof: ['latest', '2031-01-06T15:45:00Z'],
      };
      const usual = known[name as keyof typeof known] ?? [
        'bars.csv',
        'chain.json',
        'events.ics',
        'skew.xlsx',
        'prints.parquet',
      ];
      const text = isSpoilt && maker.pick([true, false, false]) ? maker.text(schema) : maker.pick(usual);
      url = url.replace(`{${name}}`, encodeURIComponent(whole(text)) || '%20');
    } else if (place === 'query' && maker.pick([true, false])) {
      const value = isSpoilt ? maker.text(schema) : maker.good(schema);
      for (const one of Array.isArray(value) ? value : [value]) query.append(name, whole(String(one)));
    }
  }
  if (query.size > 0) url += `?${query}`;
  const init: RequestInit = { method: method.toUpperCase() };
  const json = requestBody?.content['application/json'];
  if (json) {
    const good = maker.good(json.schema);
    const value = isSpoilt ? maker.spoilt(good) : good;
    const text = JSON.stringify(value);
    init.body =
      isSpoilt && maker.pick([true, ...Array<boolean>(11).fill(false)]) ? text.slice(0, text.length / 2) : text;
    init.headers = { 'content-type': 'application/json' };
  } else if (requestBody) {
    init.body = maker.pick([
      ...DATA,
      'x',
      '[{"a":1}]',
      '\0\0\0',
      'PAR1PAR1',
      'BEGIN:VCALENDAR\nEND:VCALENDAR\n',
      '{"a":',
    ]);
    init.headers = {
      'content-type': maker.pick(['text/csv', 'application/octet-stream', 'multipart/form-data; boundary=b']),
    };
  }
  return { url, init };
}
