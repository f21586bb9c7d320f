import { describe, expect, it } from 'vitest';
import { priceContract } from '@umwelt/core';
import {
  ImportRecord,
  SnapshotsResponse,
  SnapshotResponse,
  UnderlyingsResponse,
} from '../../web/src/lib/server/api/schemas';
import { get, importText, problemOf, request } from './client';

const CHAIN = 'asof,symbol,expiry,strike,side,bid,ask,underlying_price';

/** Every test has symbols of its own, so that they can run in any order. */
async function makeUnderlying(symbol: string, terms = 'index,european'): Promise<void> {
  const response = await importText(`symbol,name,kind,exercise\r\n${symbol},Test ${symbol},${terms}\r\n`);
  expect(response.status, await response.clone().text()).toBe(200);
}

function chainLines(symbol: string, asof: string, vol = 0.2): string[] {
  return ['2031-02-20', '2031-04-17'].flatMap((expiry, e) =>
    [80, 90, 100, 110, 120].flatMap((strike) =>
      (['call', 'put'] as const).map((side) => {
        const { price } = priceContract({
          model: 'black-76',
          side,
          forward: 100,
          strike,
          years: 0.12 + 0.15 * e,
          rate: 0,
          vol,
        });
        return [
          asof,
          symbol,
          expiry,
          strike,
          side,
          Math.max(0, price - 0.05).toFixed(4),
          (price + 0.05).toFixed(4),
          100,
        ].join(',');
      }),
    ),
  );
}

const chainFile = (lines: string[]) => [CHAIN, ...lines, ''].join('\n');
const done = async (response: Response) => {
  expect(response.status, await response.clone().text()).toBe(200);
  return ImportRecord.parse(await response.json());
};
const snapshotsOf = async (symbol: string) =>
  (await get(`/underlyings/${symbol}/snapshots`, SnapshotsResponse)).snapshots;

describe('importing a chain', () => {
  it('stores whole snapshots, derives their measures, and takes the same file once', async () => {
    await makeUnderlying('IMP1');
    const file = chainFile([
      ...chainLines('IMP1', '2031-01-06T15:45Z'),
      ...chainLines('IMP1', '2031-01-07T15:45Z', 0.3),
    ]);
    const first = await done(await importText(file, '?name=two%20days.csv'));
    expect(first).toMatchObject({ file: 'two days.csv', what: 'chain', status: 'done', rows: 40, badRows: 0 });
    expect(first.counts).toMatchObject({ added: 2, changed: 0, unchanged: 0 });
    const held = await snapshotsOf('IMP1');
    expect(held.map((row) => row.asof)).toEqual(['2031-01-06T15:45:00.000Z', '2031-01-07T15:45:00.000Z']);
    expect(held[0]!.iv30).toBeGreaterThan(0.15);
    expect(held[1]!.iv30).toBeGreaterThan(held[0]!.iv30! * 1.3);
    const again = await done(await importText(file));
    expect(again.counts).toMatchObject({ added: 0, changed: 0, unchanged: 2 });
    expect(await snapshotsOf('IMP1')).toEqual(held);
  });

  it('a snapshot that comes again with other quotes is replaced whole', async () => {
    await makeUnderlying('IMP2');
    await done(await importText(chainFile(chainLines('IMP2', '2031-01-06T15:45Z'))));
    const shorter = chainLines('IMP2', '2031-01-06T15:45Z').filter((line) => line.includes('2031-04-17'));
    expect((await done(await importText(chainFile(shorter)))).counts).toMatchObject({ added: 0, changed: 1 });
    const { slices } = await get('/underlyings/IMP2/snapshots/latest', SnapshotResponse);
    expect(slices.map((slice) => slice.fit.expiry)).toEqual(['2031-04-17']);
  });

  it('rows and columns may come in any order; unknown columns are kept aside and named', async () => {
    await makeUnderlying('IMP3');
    const lines = [...chainLines('IMP3', '2031-01-06T15:45Z'), ...chainLines('IMP3', '2031-01-07T15:45Z')];
    const shuffled = lines.map((line, i) => ({ line, at: (i * 7) % 40 })).sort((a, b) => a.at - b.at);
    const file = `\uFEFFRemark,SIDE,Bid,Ask,Strike,Expiry,Symbol,AsOf,Underlying Price\r\n${shuffled
      .map(({ line }) => {
        const [asof, symbol, expiry, strike, side, bid, ask, price] = line.split(',');
        return `"said ""so"",\r\ntwice",${side},${bid},${ask},${strike},${expiry},${symbol},${asof},${price}`;
      })
      .join('\r\n')}`;
    const record = await done(await importText(file));
    expect(record.ignoredColumns.map((name) => name.trim().toLowerCase())).toEqual(['remark']);
    expect(record.counts).toMatchObject({ added: 2 });
    expect((await get('/underlyings/IMP3/snapshots/latest', SnapshotResponse)).measures.contracts).toBe(20);
  });

  it('a moment without zone is of the exchange, and a bare day its close', async () => {
    await done(await importText('symbol,name,kind,calendar\nIMP4,Test,index,MRX\n'));
    await done(
      await importText(chainFile([...chainLines('IMP4', '2031-01-06T15:45'), ...chainLines('IMP4', '2031-01-07')])),
    );
    expect((await snapshotsOf('IMP4')).map((row) => row.asof)).toEqual([
      '2031-01-06T16:45:00.000Z',
      '2031-01-07T17:00:00.000Z',
    ]);
  });
});

describe('bad rows', () => {
  const broken = (symbol: string) => {
    const lines = [...chainLines(symbol, '2031-01-06T15:45Z'), ...chainLines(symbol, '2031-01-07T15:45Z')];
    lines[24] = lines[24]!.replace(/,call,[^,]+,/, ',call,1O.5,');
    return chainFile(lines);
  };

  it('are named by number, column and value, and nothing of the file goes in', async () => {
    await makeUnderlying('BAD1');
    const problem = await problemOf('/imports', 422, {
      method: 'POST',
      body: broken('BAD1'),
      headers: { 'content-type': 'text/csv' },
    });
    expect(problem.errors).toEqual([{ path: 'row 26, column bid', message: '“1O.5” is not a number' }]);
    expect(await snapshotsOf('BAD1')).toEqual([]);
    const record = await get(`/imports/${problem['id']}`, ImportRecord);
    expect(record).toMatchObject({ status: 'refused', what: 'chain', rows: 40, badRows: 1, counts: {} });
    expect(record.errors).toEqual([{ row: 26, column: 'bid', value: '1O.5', reason: 'is not a number' }]);
  });

  it('when accepted leave their snapshot out whole', async () => {
    await makeUnderlying('BAD2');
    const record = await done(await importText(broken('BAD2'), '?acceptBadRows=true'));
    expect(record.counts).toMatchObject({ added: 1, leftOut: 1 });
    expect((await snapshotsOf('BAD2')).map((row) => row.asof)).toEqual(['2031-01-06T15:45:00.000Z']);
  });

  it.each([
    ['strike', '2031-01-06T15:45Z,BAD3,2031-04-17,-5,C,1,2,100', 'must be greater than 0'],
    ['side', '2031-01-06T15:45Z,BAD3,2031-04-17,100,X,1,2,100', 'must be one of c, call, p, put'],
    ['expiry', '2031-01-06T15:45Z,BAD3,2031-02-30,100,C,1,2,100', 'does not exist in the calendar'],
    ['expiry', '2031-01-06T15:45Z,BAD3,17/04/2031,100,C,1,2,100', 'is not a date like 2031-03-13'],
    ['asof', 'Monday,BAD3,2031-04-17,100,C,1,2,100', 'is not a date and time like 2031-03-13T15:45'],
    [
      'symbol',
      '2031-01-06T15:45Z,GHOST,2031-04-17,100,C,1,2,100',
      'is no known underlying: import an underlyings file with it first',
    ],
    ['bid', '2031-01-06T15:45Z,BAD3,2031-04-17,100,C,-1,2,100', 'must be at least 0'],
    ['ask', '2031-01-06T15:45Z,BAD3,2031-04-17,100,C,1,0x20,100', 'is not a number'],
    ['(row)', '2031-01-06T15:45Z,BAD3,2031-04-17,100,C,1,2', 'has 7 cells where the header has 8'],
  ])('a bad %s is told', async (column, line, reason) => {
    await makeUnderlying('BAD3');
    const { errors } = await problemOf('/imports', 422, { method: 'POST', body: `${CHAIN}\n${line}\n` });
    expect(errors![0]!.path).toBe(`row 2, column ${column}`);
    expect(errors![0]!.message).toContain(reason);
  });

  it('a contract that stands twice, and two prices in a snapshot', async () => {
    await makeUnderlying('BAD4');
    const line = '2031-01-06T15:45Z,BAD4,2031-04-17,100,C,1,2,100';
    const twice = await problemOf('/imports', 422, { method: 'POST', body: [CHAIN, line, line].join('\n') });
    expect(twice.errors![0]!.message).toContain('stands twice');
    const moved = line.replace(',C,1,2,100', ',P,1,2,101');
    const prices = await problemOf('/imports', 422, { method: 'POST', body: [CHAIN, line, moved].join('\n') });
    expect(prices.errors![0]).toMatchObject({ path: 'row 3, column underlying_price' });
  });

  it.each([
    ['no header', 'one,two\n1,2\n', 'no header of a known file'],
    ['a missing column', 'asof,symbol,expiry,strike,side,bid\n', 'for a chain file the header lacks ask'],
    ['a column twice', `${CHAIN},bid\n`, 'bid stands twice'],
    ['nothing at all', '', 'there is no body'],
    ['an open quote', `${CHAIN}\n"2031-01-06,BAD,2031-04-17,100,C,1,2,100\n`, 'never closed'],
  ])('a file with %s is refused with the reason', async (_, body, detail) => {
    expect((await problemOf('/imports', body === '' ? 400 : 422, { method: 'POST', body })).detail).toContain(detail);
  });

  it('a file that is not UTF-8', async () => {
    const body = new Uint8Array([...new TextEncoder().encode(`${CHAIN}\n`), 0xff, 0xfe, 0x0a]);
    const init = { method: 'POST', body, headers: { 'content-type': 'text/csv' } };
    expect((await problemOf('/imports', 422, init)).detail).toContain('not UTF-8');
  });
});

describe('the other files', () => {
  it('bars: changed ones are changed, the others left; a bar whose high is under its close is bad', async () => {
    await makeUnderlying('BARS');
    const head = 'symbol,date,open,high,low,close,volume\n';
    const rows = ['BARS,2031-01-06,10,11,9,10.5,', 'BARS,2031-01-07,10.5,12,10,11,500'];
    expect((await done(await importText(head + rows.join('\n')))).counts).toMatchObject({ added: 2 });
    const changed = `${head}${rows[0]}\n${rows[1]!.replace(',11,500', ',11.5,500')}`;
    expect((await done(await importText(changed))).counts).toMatchObject({ added: 0, changed: 1, unchanged: 1 });
    const { errors } = await problemOf('/imports', 422, {
      method: 'POST',
      body: `${head}BARS,2031-01-08,10,10,9,10.5,\n`,
    });
    expect(errors![0]!.path).toBe('row 2, column high');
  });

  it('rates that change are counted into what hangs on them', async () => {
    await done(await importText('symbol,name,kind,currency\nRATE,Test,index,XTS\n'));
    await done(await importText(chainFile(chainLines('RATE', '2031-01-06T15:45Z'))));
    const discount = async () => (await get('/underlyings/RATE/snapshots/latest', SnapshotResponse)).slices[1]!.fit;
    expect((await discount()).rate).toBe(0);
    const record = await done(
      await importText('date,currency,days,rate\n2031-01-02,XTS,30,0.05\n2031-01-02,XTS,365,0.05\n'),
    );
    expect(record.counts).toMatchObject({ added: 2, rebuilt: 1 });
    const fit = await discount();
    expect(fit.rate).toBe(0.05);
    expect(fit.discount).toBeCloseTo(Math.exp(-0.05 * fit.years), 12);
    const { errors } = await problemOf('/imports', 422, {
      method: 'POST',
      body: 'date,currency,days,rate\n2031-01-02,XTS,30,4.5\n',
    });
    expect(errors![0]!.message).toContain('is no decimal rate per year');
  });

  it('a dividend lowers the forward by carry of an expiry that parity cannot tell', async () => {
    await makeUnderlying('DIVI');
    const calls = chainLines('DIVI', '2031-01-06T15:45Z').filter((line) => line.includes(',call,'));
    await done(await importText(chainFile(calls)));
    const fit = async () => (await get('/underlyings/DIVI/snapshots/latest', SnapshotResponse)).slices[0]!.fit;
    expect(await fit()).toMatchObject({ forwardSource: 'carry', forward: 100 });
    await done(await importText('symbol,ex_date,amount\nDIVI,2031-01-20,2\n'));
    expect((await fit()).forward).toBe(98);
  });

  it('come as a form too, and formulas in names do not leave as formulas', async () => {
    const form = new FormData();
    form.set('file', new File(['symbol,name,kind\nFORM,=1+1,index\n'], 'names.csv'));
    const record = await done(await request('/imports', { method: 'POST', body: form }));
    expect(record).toMatchObject({ file: 'names.csv', what: 'underlyings' });
    const { underlyings } = await get('/underlyings', UnderlyingsResponse);
    expect(underlyings.find((row) => row.symbol === 'FORM')!.name).toBe('=1+1');
    expect(await (await request('/underlyings?format=csv')).text()).toContain(`FORM,"'=1+1",index`);
  });

  it('two imports of one snapshot at once leave one of them whole', async () => {
    await makeUnderlying('RACE');
    const files = [0.2, 0.3, 0.4].map((vol) => chainFile(chainLines('RACE', '2031-01-06T15:45Z', vol)));
    const records = await Promise.all(files.map(async (file) => done(await importText(file))));
    expect(records.map((record) => record.status)).toEqual(['done', 'done', 'done']);
    const { slices, measures } = await get('/underlyings/RACE/snapshots/latest', SnapshotResponse);
    expect(slices).toHaveLength(2);
    expect(measures.contracts).toBe(20);
    expect([0.2, 0.3, 0.4].some((vol) => Math.abs(measures.iv30! - vol) < 0.03)).toBe(true);
  });

  it('an import that does not exist is told', async () => {
    await problemOf('/imports/999999', 404);
    await problemOf('/imports/first', 404);
  });
});
