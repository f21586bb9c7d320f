import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { addressOf } from '../../api/call';
import { ENDPOINTS } from '../../api';
import { openApiDocument } from './openapi';

const ROUTES = join(import.meta.dirname, '../../../routes/api/v1');
/** The document describes the others, not itself. */
const APART = ['GET /openapi.json'];

const asked = (method: string, path: string) => `${method} ${path}`;
const defined = ENDPOINTS.map(({ method, path }) => asked(method, path));

/** What the routes answer, by their files. */
function routed(): string[] {
  return readdirSync(ROUTES, { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('+server.ts'))
    .flatMap((file) => {
      const path = `/${file
        .replace(/\/\+server\.ts$/, '')
        .replaceAll('[', '{')
        .replaceAll(']', '}')}`;
      const methods = readFileSync(join(ROUTES, file), 'utf8').matchAll(/^export const (GET|POST|PUT|DELETE)\b/gm);
      return [...methods].map(([, method]) => asked(method!, path));
    });
}

describe('endpoints', () => {
  it('are defined once, and each is routed; nothing else is', () => {
    expect(new Set(defined).size).toBe(defined.length);
    expect(routed().sort()).toEqual([...defined, ...APART].sort());
  });
  it('are all in the document, with their input', () => {
    const { paths } = openApiDocument();
    const described = Object.entries(paths ?? {}).flatMap(([path, methods]) =>
      Object.keys(methods as object).map((method) => asked(method.toUpperCase(), path)),
    );
    expect(described.sort()).toEqual([...defined].sort());
    for (const { path, method, query } of ENDPOINTS) {
      const operation = (paths as Record<string, Record<string, { parameters?: { name: string; in: string }[] }>>)[
        path
      ]![method.toLowerCase()]!;
      const names = (place: string) =>
        (operation.parameters ?? []).filter((one) => one.in === place).map(({ name }) => name);
      expect(names('path')).toEqual([...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => name));
      expect(names('query')).toEqual(Object.keys(query.shape));
    }
  });
  it('are handled by their own definition', () => {
    for (const { method, path } of ENDPOINTS) {
      const file = join(ROUTES, path.replaceAll('{', '[').replaceAll('}', ']'), '+server.ts');
      expect(existsSync(file), asked(method, path)).toBe(true);
      expect(readFileSync(file, 'utf8'), path).toMatch(/handle(OfSymbol|Kept)?\(\s*api\.\w+/);
    }
  });
});

describe('addresses', () => {
  it('have the names of the path in them, and of the query what is said', () => {
    expect(addressOf('GET /underlyings/{symbol}/snapshots/{asof}', { path: { symbol: 'A/B C', asof: 'latest' } })).toBe(
      '/underlyings/A%2FB%20C/snapshots/latest',
    );
    const query = { column: ['iv30', 'a b'], filter: [], asof: null, count: 5, sort: undefined };
    expect(addressOf('GET /screen', { query })).toBe('/screen?column=iv30&column=a+b&count=5');
  });
});
