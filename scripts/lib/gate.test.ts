import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { isLoopback, makeGate, tokenFor } from './gate.mjs';

const TOKEN = 'a token that nobody guesses';
let server: Server;

async function guarded(): Promise<string> {
  const mayPass = makeGate(TOKEN);
  server = createServer((request, response) => {
    void mayPass(request, response).then((passes) => passes && response.end('inside'));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
afterEach(() => server?.close());

const form = (fields: Record<string, string>) => ({
  method: 'POST',
  body: new URLSearchParams(fields),
  redirect: 'manual' as const,
});

describe('whom a server beyond this machine lets pass', () => {
  it('needs a token to start, this machine none', () => {
    for (const host of ['127.0.0.1', '127.8.0.1', 'localhost', '::1']) expect(tokenFor(host)).toBeNull();
    for (const host of ['0.0.0.0', '::', '192.168.1.7', '127.0.0.1.evil.example']) {
      expect(isLoopback(host)).toBe(false);
      expect(() => tokenFor(host)).toThrow('Set UMWELT_TOKEN');
      expect(() => tokenFor(host, 'short')).toThrow('too short');
      expect(tokenFor(host, TOKEN)).toBe(TOKEN);
    }
    // Behind another server, say.
    expect(tokenFor('127.0.0.1', TOKEN)).toBe(TOKEN);
  });

  it('those who send it as a bearer, for every path; others are told to', async () => {
    const base = await guarded();
    for (const path of ['/api/v1/health', '/_app/x.js', '/nowhere']) {
      const refused = await fetch(base + path);
      expect([refused.status, refused.headers.get('www-authenticate')], path).toEqual([401, 'Bearer realm="Umwelt"']);
      const passed = await fetch(base + path, { headers: { authorization: `Bearer ${TOKEN}` } });
      expect(await passed.text()).toBe('inside');
    }
    for (const authorization of [`Bearer ${TOKEN}x`, `Bearer ${TOKEN.slice(1)}`, `Basic ${TOKEN}`, 'Bearer'])
      expect((await fetch(base, { headers: { authorization } })).status).toBe(401);
  });

  it('those who have signed in, as long as their cookie is ours', async () => {
    const base = await guarded();
    const away = await fetch(`${base}/odds?symbol=X`, { headers: { accept: 'text/html' }, redirect: 'manual' });
    expect([away.status, away.headers.get('location')]).toEqual([303, '/sign-in?next=%2Fodds%3Fsymbol%3DX']);
    const page = await (await fetch(base + away.headers.get('location')!)).text();
    expect(page).toContain('name="next" value="/odds?symbol=X"');
    const wrong = await fetch(`${base}/sign-in`, form({ token: 'no', next: '/"><script>' }));
    expect(wrong.status).toBe(401);
    expect(await wrong.text()).not.toContain('<script>');
    const right = await fetch(`${base}/sign-in`, form({ token: TOKEN, next: '/odds?symbol=X' }));
    expect([right.status, right.headers.get('location')]).toEqual([303, '/odds?symbol=X']);
    const given = right.headers.get('set-cookie')!;
    expect(given).toMatch(/HttpOnly; SameSite=Strict/);
    const cookie = given.split(';')[0]!;
    expect(await (await fetch(base, { headers: { cookie } })).text()).toBe('inside');
    const forged = cookie.replace(/=(\d+)\./, (_, issued: string) => `=${Number(issued) + 1}.`);
    for (const other of [forged, `${cookie}x`, 'umwelt-session=', 'umwelt-session=1.2'])
      expect((await fetch(base, { headers: { cookie: other } })).status, other).toBe(401);
    for (const next of ['//evil.example', 'https://evil.example', '/\\evil.example']) {
      const led = await fetch(`${base}/sign-in`, form({ token: TOKEN, next }));
      expect(led.headers.get('location'), next).toBe('/');
    }
  });

  it('nobody who tries too often, right or wrong', async () => {
    const base = await guarded();
    const tries = [];
    for (let i = 0; i < 12; i++) tries.push((await fetch(base, { headers: { authorization: `Bearer ${i}` } })).status);
    expect(tries).toEqual([...Array(10).fill(401), 429, 429]);
    expect((await fetch(`${base}/sign-in`, form({ token: TOKEN }))).status).toBe(429);
  });
});
