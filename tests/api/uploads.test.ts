import { connect, type Socket } from 'node:net';
import { describe, expect, it } from 'vitest';
import { ImportsResponse } from '../../web/src/lib/api/schemas';
import { get, problemOf, request } from './client';

const { hostname, port, pathname } = new URL(process.env.API_URL ?? 'http://127.0.0.1:4890');
const BASE = pathname.replace(/\/$/, '');

/** Opens a connection and sends the head of an upload, and what is given of its body. */
async function sending(name: string, type: string, body: string): Promise<Socket> {
  const socket = connect(Number(port), hostname);
  socket.on('error', () => undefined);
  await new Promise((resolve) => socket.once('connect', resolve));
  const head = [
    `POST ${BASE}/api/v1/imports?name=${name} HTTP/1.1`,
    `host: ${hostname}:${port}`,
    `content-type: ${type}`,
    'transfer-encoding: chunked',
  ];
  socket.write(`${head.join('\r\n')}\r\n\r\n`);
  sendMore(socket, body);
  return socket;
}
const sendMore = (socket: Socket, text: string) => {
  if (text !== '') socket.write(`${Buffer.byteLength(text).toString(16)}\r\n${text}\r\n`);
};

/** What the server answers on a connection, as far as it comes. */
function answerOf(socket: Socket): Promise<string> {
  let text = '';
  return new Promise((resolve) => {
    socket.on('data', (chunk) => {
      text += chunk;
      if (text.includes('\r\n\r\n')) resolve(text);
    });
    socket.on('close', () => resolve(text));
  });
}

const statusesOf = async (name: string) => {
  const { imports } = await get('/imports', ImportsResponse);
  return imports.filter(({ file }) => file === name).map(({ status }) => status);
};

/** Names that no run before has left. */
const named = (name: string) => `${name}-${process.pid}`;

const FORM = 'multipart/form-data; boundary=b';
const FILE_HEAD = '--b\r\ncontent-disposition: form-data; name="file"; filename="x.csv"\r\n\r\n';

describe('files that do not come in', () => {
  it('a form that ends within its file is refused in words, and one that is none', async () => {
    for (const body of [`${FILE_HEAD}abc`, '--b', FILE_HEAD.slice(0, 30), 'abc']) {
      const { detail } = await problemOf(`/imports?name=${named('cut')}`, 400, {
        method: 'POST',
        headers: { 'content-type': FORM },
        body,
      });
      expect(detail, body).toMatch(/form/);
    }
    expect(await statusesOf(named('cut'))).toEqual([]);
  });

  it('many that are broken off at once end nothing and leave nothing', async () => {
    const sockets = await Promise.all(
      Array.from({ length: 12 }, (_, i) =>
        i % 2 === 0
          ? sending(named('broken'), 'text/csv', 'asof,symbol\n')
          : sending(named('broken'), FORM, `${FILE_HEAD}abc`),
      ),
    );
    await expect.poll(() => statusesOf(named('broken'))).toHaveLength(12);
    for (const socket of sockets) socket.destroy();
    await expect.poll(() => statusesOf(named('broken'))).toEqual([]);
    expect((await request('/health')).status).toBe(200);
  });

  it('while many come in slowly everything else is answered, and more of them are refused', async () => {
    const sockets = await Promise.all(Array.from({ length: 16 }, () => sending(named('slow'), 'text/csv', 'asof,')));
    await expect.poll(() => statusesOf(named('slow'))).toHaveLength(16);
    try {
      const paths = ['/health', '/underlyings', '/underlyings/MRX40/snapshots/latest', '/imports'];
      for (const { status } of await Promise.all(paths.map((path) => request(path)))) expect(status).toBe(200);
      const refused = await sending(named('slow'), 'text/csv', 'asof,');
      expect(await answerOf(refused)).toMatch(/^HTTP\/1.1 429 /);
      refused.destroy();
      // One of them comes to its end all the same.
      const whole = sockets.pop()!;
      const answer = answerOf(whole);
      sendMore(whole, 'symbol\n');
      whole.write('0\r\n\r\n');
      expect(await answer).toMatch(/^HTTP\/1.1 202 /);
      whole.destroy();
    } finally {
      for (const socket of sockets) socket.destroy();
    }
    await expect
      .poll(async () => (await statusesOf(named('slow'))).filter((status) => status === 'receiving'))
      .toEqual([]);
  });

  it('one that is stopped by hand while it comes in is told so', async () => {
    const socket = await sending(named('stopped'), 'text/csv', 'asof,symbol\n');
    await expect.poll(() => statusesOf(named('stopped'))).toEqual(['receiving']);
    const { imports } = await get('/imports', ImportsResponse);
    const { id } = imports.find(({ file }) => file === named('stopped'))!;
    expect((await request(`/imports/${id}/cancel`, { method: 'POST' })).status).toBe(200);
    const answer = answerOf(socket);
    socket.write('0\r\n\r\n');
    expect(await answer).toMatch(/^HTTP\/1.1 409 [\s\S]*stopped by hand/);
    expect(await statusesOf(named('stopped'))).toEqual(['cancelled']);
    socket.destroy();
  });
});

describe('bodies that are too large', () => {
  const json = (body: string) => ({ method: 'POST', headers: { 'content-type': 'application/json' }, body });
  it('are refused before they are read to their end', async () => {
    const { detail } = await problemOf('/max-pain', 413, json(`{"strikes":[${'1,'.repeat(1_100_000)}1]}`));
    expect(detail).toContain('more than 2 MB');
    await problemOf('/price', 413, json(' '.repeat(32_000_001)));
  });
  it('a list that is longer than it may be is told by its length alone', async () => {
    const rows = `[${'{},'.repeat(299_999)}{}]`;
    const { errors } = await problemOf('/price', 400, json(`{"contracts":${rows}}`));
    expect(errors).toEqual([{ path: 'contracts', message: expect.stringContaining('Too big') as string }]);
  });
});
