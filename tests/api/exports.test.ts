import { parquetReadObjects } from 'hyparquet';
import { describe, expect, it } from 'vitest';
import { SnapshotsResponse, TaskRecord, UnderlyingsResponse } from '../../web/src/lib/api/schemas';
import { get, importBytes, importText, post, problemOf, request } from './client';

const download = async (path: string) => {
  const response = await request(`/exports/${path}`);
  expect(response.status, path).toBe(200);
  return new Uint8Array(await response.arrayBuffer());
};
const textOf = async (path: string) => new TextDecoder().decode(await download(path));

/** What is exported, and to what it is narrowed so that every format takes it in a moment. */
const TABLES = {
  underlyings: '',
  rates: '?from=2031-01-01&to=2031-01-31',
  dividends: '?symbol=CAIR,KELQ',
  events: '?symbol=LMNQ,MRX40',
  bars: '?symbol=CAIR&from=2031-01-01',
  chain: '?symbol=CAIR&from=2031-03-10',
  prints: '?symbol=CAIR',
};
const FORMATS = ['csv', 'json', 'xlsx', 'parquet'];

describe('whatever is exported imports again to the same state', () => {
  const cases = Object.keys(TABLES).flatMap((what) => FORMATS.map((format) => [what, format] as const));
  it.each([...cases, ['events', 'ics'] as const])('%s as %s', async (what, format) => {
    const bytes = await download(`${what}.${format}${TABLES[what as keyof typeof TABLES]}`);
    const record = await importBytes(bytes);
    expect(record, `${record.detail} ${JSON.stringify(record.errors.slice(0, 3))}`).toMatchObject({
      status: 'done',
      what,
      format,
      badRows: 0,
      ignoredColumns: [],
    });
    expect(record.rows).toBeGreaterThan(1);
    expect(record.counts).toMatchObject({ added: 0, changed: 0 });
    expect(record.counts.unchanged).toBeGreaterThan(0);
  });

  it('what had been taken away comes back, quote for quote', async () => {
    await importText('symbol,name,kind,exercise\nBACK,Back again,index,european\n');
    const line = (asof: string, side: string, bid: string) =>
      `${asof},BACK,2031-02-20,95.5,${side},${bid},1.5,,3,,,7,96.25,am`;
    const head =
      'asof,symbol,expiry,strike,side,bid,ask,bid_size,ask_size,last,volume,open_interest,underlying_price,settlement';
    const times = ['2031-01-06T15:45Z', '2031-01-07T15:45Z'];
    const file = [head, ...times.flatMap((asof) => [line(asof, 'C', '1.25'), line(asof, 'P', '')])].join('\n');
    const first = await importText(file);
    const before = await get('/underlyings/BACK/snapshots', SnapshotsResponse);
    const bytes = await download('chain.parquet?symbol=BACK');
    await request(`/imports/${first.id}/undo`, { method: 'POST' });
    await expect.poll(async () => (await get('/underlyings/BACK/snapshots', SnapshotsResponse)).snapshots).toEqual([]);
    expect((await importBytes(bytes)).counts).toMatchObject({ added: 2 });
    expect(await get('/underlyings/BACK/snapshots', SnapshotsResponse)).toEqual(before);
  });

  it('positions and bars with times', async () => {
    await importText('symbol,name,kind\nBAGS,Bags,index\n');
    await importText(
      'symbol,expiry,strike,side,quantity,price,opened,tag\nBAGS,2031-02-20,100,C,-2.5,1.125,2031-01-06T15:45Z,x\nBAGS,,,,100,99.5,2031-01-06T15:45Z,\n',
    );
    await importText('symbol,time,open,high,low,close\nBAGS,2031-01-06T10:00Z,1,2,1,2\n');
    for (const name of ['positions', 'intraday-bars']) {
      const record = await importBytes(await download(`${name}.csv?symbol=BAGS`));
      expect(record.counts, name).toMatchObject({ added: 0, changed: 0 });
    }
  });
});

describe('cells that a spreadsheet would run', () => {
  it('leave guarded as CSV, and come back as they were', async () => {
    const names = ['=1+1', '+SUM(A1)', '-2', '@x', "'=quoted", "it's"];
    const rows = names.map((name, i) => `GUA${i},"${name}",index`);
    // What comes from elsewhere is not guarded: only the apostrophe of a guarded cell is taken off.
    await importText(['symbol,name,kind', ...rows].join('\n'));
    const held = async () =>
      (await get('/underlyings', UnderlyingsResponse)).underlyings
        .filter(({ symbol }) => symbol.startsWith('GUA'))
        .map(({ name }) => name);
    const before = await held();
    const text = await textOf('underlyings.csv?symbol=GUA0,GUA1,GUA2,GUA3,GUA4,GUA5');
    const cells = text
      .trim()
      .split('\r\n')
      .slice(1)
      .map((row) => row.split(',')[1]!.replaceAll('"', ''));
    for (const cell of cells) expect(cell).not.toMatch(/^[=+\-@]/);
    expect((await importText(text)).counts).toMatchObject({ added: 0, changed: 0, unchanged: 6 });
    expect(await held()).toEqual(before);
  });
});

describe('exports', () => {
  it('measures are those of the snapshots', async () => {
    const rows = JSON.parse(await textOf('measures.json?symbol=CAIR&from=2031-03-12T16:45:00Z')) as Record<
      string,
      unknown
    >[];
    const { snapshots } = await get('/underlyings/CAIR/snapshots', SnapshotsResponse);
    expect(rows.map((row) => row['asof'])).toEqual(snapshots.slice(-27).map(({ asof }) => asof));
    expect(rows.at(-1)!['iv30']).toBe(snapshots.at(-1)!.iv30);
  });
  it('one moment alone, and nothing of nothing', async () => {
    const lines = (await textOf('chain.csv?symbol=CAIR&asof=2031-03-12T16:45:00Z')).trim().split('\r\n');
    expect(new Set(lines.slice(1).map((line) => line.split(',')[0]))).toEqual(new Set(['2031-03-12T16:45:00.000Z']));
    expect(await textOf('bars.json?symbol=NOBODY')).toBe('[]\n');
    expect((await textOf('bars.csv?symbol=NOBODY')).split('\r\n')).toHaveLength(2);
  });
  it('say what there is', async () => {
    expect((await problemOf('/exports/secrets.csv', 404)).detail).toContain('underlyings, rates');
    expect((await problemOf('/exports/chain.pdf', 404)).detail).toContain('parquet');
    expect((await problemOf('/exports/bars.ics', 422)).detail).toContain('only events');
    await problemOf('/exports/bars.csv?from=soon', 400);
  });
});

describe('a file that a worker writes', () => {
  const start = (body: unknown) =>
    request('/tasks', { method: 'POST', body: JSON.stringify({ kind: 'export', ...(body as object) }) });
  const ended = async (id: number) => {
    await expect
      .poll(async () => (await get(`/tasks/${id}`, TaskRecord)).status, { interval: 50 })
      .not.toMatch(/queued|running/);
    return get(`/tasks/${id}`, TaskRecord);
  };

  it.each(FORMATS)('is the same as what is had at once, as %s', async (format) => {
    const scope = { symbols: ['CAIR', 'KELQ'], from: '2031-03-11' };
    const response = await start({ file: `measures.${format}`, ...scope });
    expect(response.status).toBe(202);
    const { id, file } = TaskRecord.parse(await response.json());
    expect(file).toBe(`measures.${format}`);
    const task = await ended(id);
    expect(task).toMatchObject({ status: 'done', kind: 'export' });
    expect(task.done).toBe(task.total);
    const written = await request(`/tasks/${id}/file`);
    expect(written.headers.get('content-disposition')).toBe(`attachment; filename="measures.${format}"`);
    const bytes = new Uint8Array(await written.arrayBuffer());
    expect(bytes).toHaveLength(task.fileBytes!);
    const atOnce = await download(`measures.${format}?symbol=CAIR,KELQ&from=2031-03-11`);
    // A sheet holds the moment at which it was made.
    if (format === 'xlsx') expect(bytes.length).toBeGreaterThan(1000);
    else expect(Buffer.compare(bytes, atOnce)).toBe(0);
  });

  it('comes in again as it was', async () => {
    const { id } = TaskRecord.parse(
      await (await start({ file: 'chain.csv', symbols: ['PELG'], from: '2031-03-12' })).json(),
    );
    const task = await ended(id);
    expect(task.detail).toMatch(/^\d+ rows$/);
    const bytes = new Uint8Array(await (await request(`/tasks/${id}/file`)).arrayBuffer());
    const record = await importBytes(bytes);
    expect(record).toMatchObject({ status: 'done', what: 'chain', badRows: 0 });
    expect(record.rows).toBeGreaterThan(100);
    expect(record.rows).toBe(task.done);
    expect(record.counts).toMatchObject({ added: 0, changed: 0 });
  });

  it('is refused where it cannot be, and is not there before its task is done', async () => {
    const body = (value: unknown) => ({ method: 'POST', body: JSON.stringify(value) });
    await problemOf('/tasks', 404, body({ kind: 'export', file: 'nothing.csv' }));
    await problemOf('/tasks', 404, body({ kind: 'export', file: 'bars.doc' }));
    await problemOf('/tasks', 422, body({ kind: 'export', file: 'bars.ics' }));
    await problemOf('/tasks', 400, body({ kind: 'export', file: 'bars.csv', from: 'yesterday' }));
    await problemOf('/tasks/2000000000/file', 404);
    // Stopped before it has come to its end: of all that is held a sheet takes a while.
    const { id } = TaskRecord.parse(await (await start({ file: 'chain.xlsx' })).json());
    expect((await problemOf(`/tasks/${id}/file`, 409)).detail).toContain('the file is not there');
    await post(`/tasks/${id}/cancel`, {}, TaskRecord);
    expect(await ended(id)).toMatchObject({ status: 'cancelled', fileBytes: null });
    await problemOf(`/tasks/${id}/file`, 409);
  });
});

describe('a table of the page as a file', () => {
  const table = {
    columns: [
      { name: 'expiry', type: 'day' },
      { name: 'mid_vol', type: 'number' },
      { name: 'note', type: 'text' },
    ],
    rows: [
      ['2031-04-17', 0.2123456789012345, '=1+1'],
      [null, null, 'plain'],
    ],
  };
  const send = (file: string, body: unknown) =>
    request(`/exports/${file}`, { method: 'POST', body: JSON.stringify(body) });

  it('has exact numbers in every format, and nothing that a spreadsheet would run', async () => {
    const csv = await send('skew.csv', table);
    expect(csv.status).toBe(200);
    expect(csv.headers.get('content-disposition')).toBe('attachment; filename="skew.csv"');
    expect(await csv.text()).toBe("expiry,mid_vol,note\r\n2031-04-17,0.2123456789012345,'=1+1\r\n,,plain\r\n");
    const [first, second] = (await (await send('skew.json', table)).json()) as Record<string, unknown>[];
    expect(first).toEqual({ expiry: '2031-04-17', mid_vol: 0.2123456789012345, note: '=1+1' });
    expect(second).toEqual({ expiry: null, mid_vol: null, note: 'plain' });
    const parquet = new Uint8Array(await (await send('skew.parquet', table)).arrayBuffer());
    expect(new TextDecoder().decode(parquet.slice(0, 4))).toBe('PAR1');
    expect((await parquetReadObjects({ file: parquet.buffer as ArrayBuffer }))[0]).toMatchObject({
      mid_vol: table.rows[0]![1],
    });
    const xlsx = new Uint8Array(await (await send('skew.xlsx', table)).arrayBuffer());
    expect(new TextDecoder().decode(xlsx.slice(0, 2))).toBe('PK');
  });

  it('says what is wrong with it', async () => {
    const body = (value: unknown) => ({ method: 'POST', body: JSON.stringify(value) });
    const short = await problemOf(
      '/exports/skew.csv',
      400,
      body({ ...table, rows: [...table.rows, ['2031-04-17', 1]] }),
    );
    expect(JSON.stringify(short)).toContain('rows.2');
    await problemOf('/exports/skew.csv', 400, body({ ...table, rows: [['2031-04-17', '0.2', 'a']] }));
    await problemOf('/exports/skew.csv', 400, body({ columns: [], rows: [] }));
    await problemOf('/exports/skew.doc', 404, body(table));
    await problemOf('/exports/..%2Fskew.csv', 404, body(table));
    await problemOf('/exports/skew.ics', 422, body(table));
  });
});
