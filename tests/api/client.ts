import { expect } from 'vitest';
import type { z } from 'zod';
import { ImportRecord, Problem } from '../../web/src/lib/api/schemas';

/** Where scripts/test.mjs serves the application for these tests, on a database of their own. */
const BASE = `${process.env.API_URL ?? 'http://127.0.0.1:4890'}/api/v1`;

/** @param path below the API of that server, or whole where another one is asked */
export function request(path: string, init?: RequestInit): Promise<Response> {
  return fetch(path.startsWith('/') ? BASE + path : path, init);
}

/** A good answer, checked against its schema. */
export async function get<T extends z.ZodType>(path: string, schema: T): Promise<z.infer<T>> {
  const response = await request(path);
  expect(response.status, path).toBe(200);
  return schema.parse(await response.json());
}

/** The good answer to a body, checked against its schema. */
export async function post<T extends z.ZodType>(path: string, body: unknown, schema: T): Promise<z.infer<T>> {
  const response = await request(path, { method: 'POST', body: JSON.stringify(body) });
  expect(response.status, await response.clone().text()).toBe(200);
  return schema.parse(await response.json());
}

/** The problem that a request meets. */
export async function problemOf(path: string, status: number, init?: RequestInit) {
  const response = await request(path, init);
  expect(response.status, path).toBe(status);
  expect(response.headers.get('content-type')).toContain('application/problem+json');
  const body = await response.json();
  expect(Problem.parse(body).status).toBe(status);
  return body as z.infer<typeof Problem> & Record<string, never>;
}

const LOOK_EVERY_MS = 20;
const RUNNING = ['queued', 'running', 'checking', 'deriving', 'undoing'];

/** An import once it has come to rest. */
export async function settled(id: number): Promise<z.infer<typeof ImportRecord>> {
  for (;;) {
    const record = await get(`/imports/${id}`, ImportRecord);
    if (!RUNNING.includes(record.status)) return record;
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
}

/** Sends a file, and waits for the end of its import. */
export async function importBytes(body: RequestInit['body'], query = '') {
  const response = await request(`/imports${query}`, {
    method: 'POST',
    body,
    // A form says by itself what it is.
    headers: body instanceof FormData ? {} : { 'content-type': 'application/octet-stream' },
  });
  expect(response.status, await response.clone().text()).toBe(202);
  const { id } = ImportRecord.parse(await response.json());
  expect(response.headers.get('location')).toBe(`/api/v1/imports/${id}`);
  return settled(id);
}

/** Sends a file that is to be imported whole. */
export async function importText(text: string, query = '') {
  const record = await importBytes(text, query);
  expect(record.status, `${record.detail} ${JSON.stringify(record.errors.slice(0, 3))}`).toBe('done');
  return record;
}
