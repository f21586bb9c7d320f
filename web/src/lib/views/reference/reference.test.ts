import { describe, expect, it } from 'vitest';
import { openApiDocument } from '$lib/server/api/openapi';
import { linesOf, operationsOf, prettyJson, resolved, typeWords, type Document } from './document';

const document = openApiDocument() as unknown as Document;
const operations = operationsOf(document);
const operation = (method: string, path: string) =>
  operations.find((one) => one.method === method && one.path === path)!;

describe('the document as a page', () => {
  it('names each operation once, under a heading that is told', () => {
    expect(new Set(operations.map(({ id }) => id)).size).toBe(operations.length);
    const tags = document.tags.map(({ name }) => name);
    for (const { tag, summary } of operations) {
      expect(tags).toContain(tag);
      expect(summary).not.toBe('');
    }
  });
  it('shows a request that can be sent as it stands, but of what changes nothing alone', () => {
    const chain = operation('GET', '/underlyings/{symbol}/chain');
    expect(chain.example!.address).toBe('/underlyings/MRX40/chain?expiry=2031-04-17&basis=curve');
    expect(chain.kinds).toContain('text/csv');
    expect(operation('POST', '/price').example!.body).toMatchObject({ contracts: [{ strike: 105 }] });
    expect(operation('GET', '/screen').example!.address).toContain('column=iv30&column=iv30+%2F+hv20.yz');
    for (const path of ['/structures', '/imports', '/tasks']) expect(operation('POST', path).example).toBeNull();
    expect(operation('GET', '/stream').example).toBeNull();
  });
  it('is in the order of its paths, with lists that can be read', () => {
    const paths = operations.map(({ path }) => path);
    expect(paths).toEqual([...paths].sort());
    expect(operations.filter(({ path }) => path === '/structures').map(({ method }) => method)).toEqual([
      'GET',
      'POST',
    ]);
    const value = { a: [1, 2.5], b: [{ c: ['x', 'y'], d: [] }] };
    expect(prettyJson(value)).toContain('"a": [1, 2.5]');
    expect(JSON.parse(prettyJson(value))).toEqual(value);
  });
  it('tells what fields there are, one below the other', () => {
    const lines = linesOf(operation('POST', '/price').body!, document);
    expect(lines[0]).toMatchObject({ name: 'contracts', depth: 0, isOptional: false });
    const of = (name: string) => lines.find((line) => line.name === name)!;
    expect(of('side')).toMatchObject({ depth: 1, type: '"call" | "put"' });
    expect(of('amount')).toMatchObject({ depth: 2, type: 'number' });
    expect(of('spot').isOptional).toBe(true);
    expect(new Set(lines.map(({ key }) => key)).size).toBe(lines.length);
    const fit = resolved({ $ref: '#/components/schemas/Fit' }, document);
    expect([fit.name, typeWords(fit.schema.properties!['forward']!, document)]).toEqual(['Fit', 'number | null']);
    expect(linesOf({ type: 'object', properties: { n: { type: 'integer', default: 5 } } }, document)).toEqual([
      { key: 'n', depth: 0, name: 'n', type: 'integer', isOptional: true, words: '5 unless given' },
    ]);
  });
});
