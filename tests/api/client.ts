import { expect } from 'vitest';
import type { z } from 'zod';
import { Problem } from '../../web/src/lib/server/api/schemas';

/** Where scripts/test.mjs serves the application for these tests, on a database of their own. */
const BASE = `${process.env.API_URL ?? 'http://127.0.0.1:4890'}/api/v1`;

export function request(path: string, init?: RequestInit): Promise<Response> {
  return fetch(BASE + path, init);
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

/** Posts a CSV text as a file. */
export function importText(text: string, query = ''): Promise<Response> {
  return request(`/imports${query}`, { method: 'POST', body: text, headers: { 'content-type': 'text/csv' } });
}
