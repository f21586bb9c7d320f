import { describe, expect, it } from 'vitest';
import { operationsOf, type Document } from '../../web/src/lib/views/reference/document';
import { request } from './client';

/** What has nothing to be asked without something of one's own: a task with a file, streams that do not end. */
const WITHOUT = ['GET /stream', 'GET /structures/stream', 'GET /tasks/{id}/file'];

describe('the examples of the document', () => {
  it('run as they stand, and there is one of everything that changes nothing', async () => {
    const document = (await (await request('/openapi.json')).json()) as Document;
    const operations = operationsOf(document);
    expect(operations.length).toBeGreaterThan(50);
    const safe = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, one]) =>
        one['x-changes-nothing'] ? [`${method.toUpperCase()} ${path}`] : [],
      ),
    );
    const shown = operations.filter(({ example }) => example !== null);
    expect(shown.map(({ method, path }) => `${method} ${path}`).sort()).toEqual(
      safe.filter((one) => !WITHOUT.includes(one)).sort(),
    );
    for (const { method, path, example } of shown) {
      const { address, body } = example!;
      const answer = await request(address, { method, ...(body !== undefined && { body: JSON.stringify(body) }) });
      expect(answer.status, `${method} ${path} ${await answer.clone().text()}`).toBe(200);
      expect((await answer.text()).length, path).toBeGreaterThan(2);
    }
  });
});
