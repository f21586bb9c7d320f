import { request as httpRequest, type IncomingMessage } from 'node:http';
import { describe, expect, it } from 'vitest';
import { problemOf, request } from './client';

const BASE = process.env.API_URL ?? 'http://127.0.0.1:4890';

/** Asks by another name than the address that is asked: a browser does so when a foreign name is made to lead here. */
function askAs(host: string, path: string, method = 'GET', headers: Record<string, string> = {}) {
  const { hostname, port } = new URL(BASE);
  return new Promise<IncomingMessage>((resolve, reject) => {
    const sent = httpRequest({ hostname, port, path, method, headers: { host, ...headers } }, (answer) => {
      answer.resume();
      resolve(answer);
    });
    sent.on('error', reject);
    sent.end();
  });
}

describe('who may ask', () => {
  it('a page of a foreign name that leads here is answered nothing, whatever it asks for', async () => {
    const host = `evil.example:${new URL(BASE).port}`;
    for (const path of ['/', '/surface', '/api/v1/health', '/favicon.ico']) {
      expect((await askAs(host, path)).statusCode, path).toBe(421);
    }
    const rebound = { origin: `http://${host}`, 'content-type': 'application/json' };
    expect((await askAs(host, '/api/v1/tasks', 'POST', rebound)).statusCode).toBe(421);
    expect((await askAs(`localhost:${new URL(BASE).port}`, '/api/v1/health')).statusCode).toBe(200);
  });

  it('every answer tells browsers what they may do with it, and pages run scripts of ours alone', async () => {
    for (const path of ['/surface', '/api/v1/health', '/no-such-page']) {
      const { headers } = await askAs(new URL(BASE).host, path);
      expect(headers['x-content-type-options'], path).toBe('nosniff');
      expect(headers['referrer-policy'], path).toBe('no-referrer');
      expect(headers['permissions-policy'], path).toContain('camera=()');
      expect(headers['x-frame-options'], path).toBe('DENY');
    }
    for (const path of ['/universe', '/chain', '/surface', '/history', '/odds', '/pricer', '/data', '/no-such-page']) {
      const policy = String((await askAs(new URL(BASE).host, path)).headers['content-security-policy']);
      expect(policy, path).toMatch(/script-src 'self' 'nonce-[^']+'/);
      expect(policy, path).toContain("frame-ancestors 'none'");
      expect(policy, path).toContain("default-src 'none'");
      expect(/script-src[^;]*unsafe/.test(policy), path).toBe(false);
    }
  });
});

describe('what nobody means', () => {
  const json = (body: string) => ({ method: 'POST', headers: { 'content-type': 'application/json' }, body });

  it('characters that are none are refused wherever they stand', async () => {
    for (const path of [
      '/underlyings/MRX%0040',
      '/underlyings?asof=%00',
      '/underlyings/MRX40/chain?expiry=2031-03-20%00',
      '/exports/bars.csv?symbol=CAIR,%00',
      '/tasks/%00',
    ]) {
      const { detail } = await problemOf(path, 400);
      expect(detail, path).toContain('has a character that is none');
    }
    for (const text of ['"a\\u0000"', '"\\ud800"', '"x\\udc00\\ud800"']) {
      const { detail } = await problemOf('/screens', 400, json(`{"name":${text},"columns":[],"filters":[]}`));
      expect(detail, text).toContain('name: has a character that is none');
    }
    // A whole pair is a character like any other.
    const { detail } = await problemOf('/screens', 400, json('{"name":"\\ud83d\\ude00"}'));
    expect(detail).not.toContain('has a character that is none');
  });

  it('days and moments out of range, or that are none, are told so', async () => {
    for (const path of [
      '/underlyings?asof=0000-01-01T00:00:00Z',
      '/underlyings/MRX40/snapshots/0000-01-01T00:00:00Z',
      '/underlyings/MRX40/snapshots/9999-12-31T23:59:59Z',
      '/underlyings/MRX40/snapshots/2031-02-30',
      '/underlyings/MRX40/curves?from=1989-12-31T00:00:00Z&to=2031-03-13T16:45:00Z',
      '/exports/bars.csv?from=9999-01-01',
      '/exports/bars.csv?from=yesterday',
    ]) {
      await problemOf(path, 400);
    }
  });

  it('numbers that are hardly any get a law or a reason, and no rows have their heads', async () => {
    const asked = {
      forward: 1e-320,
      years: 0.1,
      levels: [1],
      slice: { strikes: [90, 100, 110], vols: [0.2, 0.2, 0.2] },
    };
    await problemOf('/probabilities', 400, json(JSON.stringify(asked)));
    const far = await request('/probabilities', json(JSON.stringify({ ...asked, forward: 1e-90 })));
    expect([200, 422]).toContain(far.status);
    const csv = await request('/underlyings/MRX40/intraday-bars?format=csv');
    expect(csv.status).toBe(200);
    expect(await csv.text()).toMatch(/^time,open,high,low,close,volume\r\n/);
  });
});
