import { request as httpRequest, type IncomingMessage } from 'node:http';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import {
  BorrowingsResponse,
  ChainColumnsResponse,
  ChainResponse,
  SnapshotResponse,
} from '../../web/src/lib/api/schemas';
import { get, post, request } from './client';

const BASE = `${process.env.API_URL ?? 'http://127.0.0.1:4890'}/api/v1`;

/** An answer as it is sent, nothing unpacked. */
function raw(path: string, headers: Record<string, string>) {
  return new Promise<{ answer: IncomingMessage; body: Buffer }>((resolve, reject) => {
    const sent = httpRequest(BASE + path, { headers }, (answer) => {
      const chunks: Buffer[] = [];
      answer.on('data', (chunk: Buffer) => chunks.push(chunk));
      answer.on('end', () => resolve({ answer, body: Buffer.concat(chunks) }));
    });
    sent.on('error', reject);
    sent.end();
  });
}

const tagOf = async (path: string) => (await request(path)).headers.get('etag')!;

describe('answers that are kept', () => {
  const chain = '/underlyings/MERI/chain';

  it('of a chain have the same numbers in rows and in columns', async () => {
    const { contracts, ...others } = await get(chain, ChainResponse);
    const columns = await get(`${chain}?layout=columns`, ChainColumnsResponse);
    expect(columns).toMatchObject(others);
    contracts.forEach((contract, i) => {
      for (const [name, value] of Object.entries(contract)) expect(columns.contracts[name]![i]).toEqual(value);
    });
  });

  it('have a tag, and who has them already is told so', async () => {
    const etag = await tagOf(chain);
    expect(etag).toMatch(/^W\/"[\w-]+"$/);
    const known = await raw(chain, { 'if-none-match': etag });
    expect([known.answer.statusCode, known.body.length, known.answer.headers.etag]).toEqual([304, 0, etag]);
    const other = await raw(chain, { 'if-none-match': 'W/"another"' });
    expect(other.answer.statusCode).toBe(200);
    // What is refused is told anew each time.
    expect(await tagOf('/underlyings/NOBODY/chain')).toBeNull();
  });

  it('are sent packed to those who can unpack them, once they are', async () => {
    const plain = await raw(chain, {});
    expect(plain.answer.headers['content-encoding']).toBeUndefined();
    await expect
      .poll(async () => (await raw(chain, { 'accept-encoding': 'gzip' })).answer.headers['content-encoding'])
      .toBe('gzip');
    const packed = await raw(chain, { 'accept-encoding': 'gzip' });
    expect(packed.body.length).toBeLessThan(plain.body.length / 2);
    expect(gunzipSync(packed.body).equals(plain.body)).toBe(true);
  });

  it('are others as soon as anything changes that they are made of, and the same again when it is taken back', async () => {
    const paths = [chain, '/underlyings/MERI/snapshots/latest', '/underlyings/MERI/surface'];
    const tags = () => Promise.all(paths.map(tagOf));
    const before = await tags();
    expect(await tags()).toEqual(before);
    const { asof, slices } = await get('/underlyings/MERI/snapshots/latest', SnapshotResponse);
    const { fit, strike } = slices[2]!;
    const of = { asof, expiry: fit.expiry, settlement: fit.settlement };
    const contract = { ...of, strike: strike[Math.floor(strike.length / 2)], side: 'call' };
    const verdict = (verdict: string | null) =>
      post('/underlyings/MERI/verdicts', { ...contract, verdict, lasting: false }, SnapshotResponse);
    const differ = (now: string[]) => now.forEach((tag, i) => expect(tag, paths[i]).not.toBe(before[i]));
    await verdict('aside');
    differ(await tags());
    await verdict(null);
    expect(await tags()).toEqual(before);
    const path = '/underlyings/MERI/borrowings';
    const at = { expiry: fit.expiry, settlement: fit.settlement };
    await post(path, { ...at, version: null, borrowing: { source: 'MRX40' } }, BorrowingsResponse);
    const borrowed = await tags();
    differ(borrowed);
    // What the lender's curve depends on counts as well.
    const lender = await get('/underlyings/MRX40/snapshots/latest', SnapshotResponse);
    const lent = lender.slices.find((slice) => slice.fit.expiry === fit.expiry)!;
    const i = lent.strike.findIndex((one) => one > lent.fit.forward!);
    const ofLender = { asof: lender.asof, expiry: fit.expiry, settlement: fit.settlement };
    const call = { ...ofLender, strike: lent.strike[i], side: 'call', lasting: false };
    await post('/underlyings/MRX40/verdicts', { ...call, verdict: 'aside' }, SnapshotResponse);
    const moved = await tags();
    moved.forEach((tag, k) => expect(tag, paths[k]).not.toBe(borrowed[k]));
    await post('/underlyings/MRX40/verdicts', { ...call, verdict: null }, SnapshotResponse);
    await post(path, { ...at, version: 1, borrowing: null }, BorrowingsResponse);
    expect(await tags()).toEqual(before);
  });
});
