import fc from 'fast-check';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { z } from 'zod';
import { bodyOf, tooMany } from './body';
import { incomingFile } from './incoming';
import { ApiError } from './problem';

const BOUNDARY = 'b';
const head = (name: string, more = '') =>
  `--${BOUNDARY}\r\ncontent-disposition: form-data; name="${name}"${more}\r\n\r\n`;
const FILE = `asof,symbol\r\n${'1,"a"\r\n'.repeat(40)}`;
const FORM = `${head('note')}words\r\n${head('file', '; filename="quotes.csv"')}${FILE}\r\n--${BOUNDARY}--\r\n`;

/** A request whose body comes in pieces and, where it is told so, breaks off. */
function requestOf(pieces: readonly string[], type: string, failure?: Error): Request {
  let at = 0;
  const body = new ReadableStream({
    pull(controller) {
      if (at < pieces.length) controller.enqueue(new TextEncoder().encode(pieces[at++]));
      else if (failure) controller.error(failure);
      else controller.close();
    },
  });
  return new Request('http://localhost/', {
    method: 'POST',
    body,
    headers: { 'content-type': type },
    duplex: 'half',
  } as RequestInit);
}

async function read(request: Request): Promise<{ name: string | null; text: string }> {
  const { name, bytes } = await incomingFile(request);
  const chunks: Buffer[] = [];
  for await (const chunk of bytes) chunks.push(chunk);
  return { name, text: Buffer.concat(chunks).toString('utf8') };
}

const MULTIPART = `multipart/form-data; boundary=${BOUNDARY}`;
const inPieces = (text: string, size: number) =>
  Array.from({ length: Math.ceil(text.length / size) }, (_, i) => text.slice(i * size, (i + 1) * size));

describe('a file that comes in', () => {
  it('is the body, or the first file of a form, in pieces of any size', async () => {
    expect(await read(requestOf([FILE], 'text/csv'))).toEqual({ name: null, text: FILE });
    for (const size of [1, 3, 7, 64, FORM.length]) {
      expect(await read(requestOf(inPieces(FORM, size), MULTIPART))).toEqual({ name: 'quotes.csv', text: FILE });
    }
  });
  it('of a form that ends anywhere before its end is refused in words, and ends nothing else', async () => {
    for (let end = 0; end < FORM.length - 4; end++) {
      const cut = read(requestOf(inPieces(FORM.slice(0, end), 50), MULTIPART));
      await expect(cut, `cut after ${end}`).rejects.toMatchObject({ status: 400 });
    }
  });
  it('whose connection breaks anywhere fails with that', async () => {
    const broken = new Error('the connection is gone');
    for (let end = 0; end < FORM.length - 4; end += 5) {
      await expect(read(requestOf(inPieces(FORM.slice(0, end), 50), MULTIPART, broken))).rejects.toThrow();
      await expect(read(requestOf([FILE.slice(0, end)], 'text/csv', broken))).rejects.toBe(broken);
    }
  });
  it('of a form that is none, or holds no file, is refused in words', async () => {
    for (const type of ['multipart/form-data', 'multipart/mixed; boundary=b', 'multipart/form-data; boundary=']) {
      await expect(read(requestOf([FORM], type)), type).rejects.toMatchObject({ status: 400 });
    }
    await expect(read(requestOf([`${head('note')}words\r\n--b--\r\n`], MULTIPART))).rejects.toMatchObject({
      status: 400,
      detail: 'the form holds no file',
    });
    await expect(incomingFile(new Request('http://localhost/', { method: 'POST' }))).rejects.toMatchObject({
      status: 400,
    });
  });
  it('whatever bytes a form is made of, it is read or refused', async () => {
    const part = fc.constantFrom(
      '--b',
      '--b--',
      '\r\n',
      '\r\n\r\n',
      'content-disposition: form-data',
      '; name="f"',
      '; filename="x"',
      'abc',
      '\0',
      '"',
    );
    await fc.assert(
      fc.asyncProperty(fc.array(part, { maxLength: 30 }), fc.integer({ min: 1, max: 9 }), async (parts, size) => {
        const outcome = await read(requestOf(inPieces(parts.join(''), size), MULTIPART)).catch(
          (error: unknown) => error,
        );
        if (outcome instanceof Error) expect(outcome).toBeInstanceOf(ApiError);
      }),
      { numRuns: 300, seed: 20 },
    );
  });
});

describe('a body', () => {
  it('is read to a limit, told by its length or counted as it comes', async () => {
    const all = async (request: Request) => {
      let bytes = 0;
      for await (const chunk of bodyOf(request, 1000)) bytes += chunk.length;
      return bytes;
    };
    expect(await all(requestOf(inPieces('x'.repeat(1000), 99), 'text/plain'))).toBe(1000);
    await expect(all(requestOf(inPieces('x'.repeat(1001), 99), 'text/plain'))).rejects.toMatchObject({ status: 413 });
    const said = new Request('http://localhost/', { method: 'POST', body: 'x', headers: { 'content-length': '1001' } });
    await expect(all(said)).rejects.toMatchObject({ status: 413 });
  });
  describe('that comes slowly', () => {
    afterEach(() => void vi.useRealTimers());
    /** Reads a body of so many pieces, each after a while; how many bytes came before it ended. */
    async function paced(pieces: number, bytes: number, everyMs: number) {
      vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] });
      let sent = 0;
      const pull = (controller: ReadableStreamDefaultController) =>
        new Promise<void>((resolve) => {
          setTimeout(() => {
            if (sent++ < pieces) controller.enqueue(new Uint8Array(bytes));
            else controller.close();
            resolve();
          }, everyMs);
        });
      const body = new ReadableStream({ pull }, { highWaterMark: 0 });
      const request = new Request('http://localhost/', { method: 'POST', body, duplex: 'half' } as RequestInit);
      let came = 0;
      const reading = (async () => {
        for await (const chunk of bodyOf(request)) came += chunk.length;
      })().then(
        () => null,
        (error: unknown) => error,
      );
      await vi.advanceTimersByTimeAsync((pieces + 2) * everyMs);
      return { came, failure: await reading };
    }
    it('is read as long as it goes on at 2 kB a second', async () => {
      expect(await paced(100, 2100, 1000)).toEqual({ came: 210_000, failure: null });
      expect(await paced(3, 500_000, 29_000)).toEqual({ came: 1_500_000, failure: null });
    });
    it('is given up where it stands still for half a minute, or goes slower after a while', async () => {
      const still = await paced(2, 500_000, 31_000);
      expect(still).toMatchObject({ came: 0, failure: { status: 408 } });
      const slow = await paced(100, 1900, 1000);
      expect(slow.failure).toMatchObject({ status: 408, detail: 'the body came in at under 2 kB a second' });
      expect(slow.came).toBe(20 * 1900);
    });
  });
  it('lists that are too long are told before anything in them is looked at', () => {
    const schema = z.object({
      rows: z.array(z.never()).max(2),
      inner: z.object({ names: z.array(z.string()).max(1).optional() }).optional(),
    });
    expect(tooMany(schema, { rows: [1, 2, 3] })).toEqual([
      { path: 'rows', message: 'Too big: expected array to have <=2 items' },
    ]);
    expect(tooMany(schema, { rows: [1], inner: { names: ['a', 'b'] } })).toMatchObject([{ path: 'inner.names' }]);
    expect(tooMany(schema, { rows: [1, 2] })).toEqual([]);
    expect(tooMany(schema, null)).toEqual([]);
  });
});
