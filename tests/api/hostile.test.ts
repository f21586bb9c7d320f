import ExcelJS from 'exceljs';
import { gzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Health, ImportRecord } from '../../web/src/lib/api/schemas';
import { get, request } from './client';

/** A file that is kept for somebody to look at. */
async function held(bytes: Buffer): Promise<number> {
  const response = await request('/imports?hold=true&name=hostile', {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: new Uint8Array(bytes),
  });
  expect(response.status, await response.clone().text()).toBe(202);
  return ImportRecord.parse(await response.json()).id;
}

const Look = z.object({ problem: z.string() });

const look = (id: number, signal?: AbortSignal) =>
  request(`/imports/${id}/preview`, { method: 'POST', body: '{}', ...(signal && { signal }) });

async function problemIn(bytes: Buffer): Promise<string> {
  const response = await look(await held(bytes));
  expect(response.status).toBe(200);
  return Look.parse(await response.json()).problem;
}

const manyKeys = (count: number) =>
  Buffer.from(`[{${Array.from({ length: count }, (_, i) => `"k${i}":${i}`).join(',')}}]`);

const calendar = (events: number) =>
  Buffer.from(
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${'BEGIN:VEVENT\r\nUID:1\r\nDTSTART:20310715T123000Z\r\nSUMMARY:Results\r\nEND:VEVENT\r\n'.repeat(events)}END:VCALENDAR\r\n`,
  );

describe('a look at files that nobody means', () => {
  it('more columns than any table has are told at once, and others are answered meanwhile', async () => {
    const id = await held(manyKeys(200_000));
    let isDone = false;
    const looking = look(id).finally(() => (isDone = true));
    await get('/health', Health);
    expect(isDone).toBe(false);
    expect(Look.parse(await (await looking).json()).problem).toContain('at most 512');
    expect(await problemIn(Buffer.from(`${Array.from({ length: 100_000 }, (_, i) => `c${i}`).join(',')}\n`))).toContain(
      '100000 columns; at most 512',
    );
    const workbook = new ExcelJS.Workbook();
    workbook.addWorksheet('wide').getCell('XFD1').value = 'last';
    expect(await problemIn(Buffer.from(await workbook.xlsx.writeBuffer()))).toContain('at most 512');
  });

  it('lines of nothing end in words', async () => {
    expect(await problemIn(gzipSync(Buffer.alloc(200 << 20, '\n')))).toContain('million rows are blank');
  });

  it('a calendar of any length is read event by event', async () => {
    const response = await look(await held(calendar(200_000)));
    expect(response.status).toBe(200);
    const { kind, rows } = z
      .object({ kind: z.string(), rows: z.array(z.object({ cells: z.array(z.string()) })) })
      .parse(await response.json());
    expect(kind).toBe('events');
    expect(rows[0]!.cells).toEqual(['', '2031-07-15T12:30:00Z', 'Results', '']);
  });

  it('whoever leaves takes his look along', async () => {
    const id = await held(gzipSync(Buffer.alloc(300 << 20, ' \n')));
    const leaving = new AbortController();
    const looks = Array.from({ length: 8 }, () => look(id, leaving.signal));
    await get('/health', Health);
    leaving.abort();
    await Promise.allSettled(looks);
    expect((await look(await held(Buffer.from('a,b\n1,2\n')))).status).toBe(200);
  });
});
