import { describe, expect, it } from 'vitest';
import { SnapshotsResponse, UnderlyingsResponse } from '../../web/src/lib/server/api/schemas';
import { get, importBytes, importText, problemOf, request } from './client';

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
    await expect
      .poll(async () => (await get('/underlyings/BACK/snapshots', SnapshotsResponse)).snapshots, { timeout: 30_000 })
      .toEqual([]);
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
