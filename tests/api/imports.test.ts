import pg from 'pg';
import { describe, expect, it } from 'vitest';
import { priceContract } from '@umwelt/core';
import { z } from 'zod';
import {
  BorrowingsResponse,
  ChainResponse,
  IntradayBarsResponse,
  ImportRecord,
  ImportPreview,
  SnapshotsResponse,
  SnapshotResponse,
  StructuresResponse,
  TaskRecord,
  TasksResponse,
  UnderlyingsResponse,
} from '../../web/src/lib/api/schemas';
import { get, importBytes, importText, post, problemOf, request, settled } from './client';

/** A preview of a file that can be read. */
const Readable = ImportPreview.options[0];

const CHAIN = 'asof,symbol,expiry,strike,side,bid,ask,underlying_price';

/** Every test has symbols of its own, so that they can run in any order. */
async function makeUnderlying(symbol: string, terms = 'index,european'): Promise<void> {
  await importText(`symbol,name,kind,exercise\r\n${symbol},Test ${symbol},${terms}\r\n`);
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
const snapshotsOf = async (symbol: string) =>
  (await get(`/underlyings/${symbol}/snapshots`, SnapshotsResponse)).snapshots;

describe('importing a chain', () => {
  it('stores whole snapshots, derives their measures, and takes the same file once', async () => {
    await makeUnderlying('IMP1');
    const file = chainFile([
      ...chainLines('IMP1', '2031-01-06T15:45Z'),
      ...chainLines('IMP1', '2031-01-07T15:45Z', 0.3),
    ]);
    const first = await importText(file, '?name=two%20days.csv');
    expect(first).toMatchObject({ file: 'two days.csv', what: 'chain', status: 'done', rows: 40, badRows: 0 });
    expect(first.counts).toMatchObject({ added: 2, changed: 0, unchanged: 0 });
    const held = await snapshotsOf('IMP1');
    expect(held.map((row) => row.asof)).toEqual(['2031-01-06T15:45:00.000Z', '2031-01-07T15:45:00.000Z']);
    expect(held[0]!.iv30).toBeGreaterThan(0.15);
    expect(held[1]!.iv30).toBeGreaterThan(held[0]!.iv30! * 1.3);
    const again = await importText(file);
    expect(again.counts).toMatchObject({ added: 0, changed: 0, unchanged: 2 });
    expect(await snapshotsOf('IMP1')).toEqual(held);
  });

  it('a snapshot that comes again with other quotes is replaced whole', async () => {
    await makeUnderlying('IMP2');
    await importText(chainFile(chainLines('IMP2', '2031-01-06T15:45Z')));
    const shorter = chainLines('IMP2', '2031-01-06T15:45Z').filter((line) => line.includes('2031-04-17'));
    expect((await importText(chainFile(shorter))).counts).toMatchObject({ added: 0, changed: 1 });
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
    const record = await importText(file);
    expect(record.ignoredColumns.map((name) => name.trim().toLowerCase())).toEqual(['remark']);
    expect(record.counts).toMatchObject({ added: 2 });
    expect((await get('/underlyings/IMP3/snapshots/latest', SnapshotResponse)).measures.contracts).toBe(20);
  });

  it('a moment without zone is of the exchange, and a bare day its close', async () => {
    await importText('symbol,name,kind,calendar\nIMP4,Test,index,MRX\n');
    await importText(chainFile([...chainLines('IMP4', '2031-01-06T15:45'), ...chainLines('IMP4', '2031-01-07')]));
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
    const record = await importBytes(broken('BAD1'));
    expect(await snapshotsOf('BAD1')).toEqual([]);
    expect(record).toMatchObject({ status: 'refused', what: 'chain', rows: 40, badRows: 1, counts: {} });
    expect(record.errors).toEqual([{ row: 26, column: 'bid', value: '1O.5', reason: 'is not a number' }]);
    const text = await (await request(`/imports/${record.id}/errors?format=csv`)).text();
    expect(text).toBe('row,column,value,reason\r\n26,bid,1O.5,is not a number\r\n');
    // Having seen them, somebody says that the others may go in.
    const accepted = await post(`/imports/${record.id}/start`, { acceptBadRows: true }, ImportRecord);
    expect((await settled(accepted.id)).counts).toMatchObject({ added: 1, leftOut: 1 });
  });

  it('when accepted leave their snapshot out whole', async () => {
    await makeUnderlying('BAD2');
    const record = await importText(broken('BAD2'), '?acceptBadRows=true');
    expect(record.counts).toMatchObject({ added: 1, leftOut: 1 });
    expect((await snapshotsOf('BAD2')).map((row) => row.asof)).toEqual(['2031-01-06T15:45:00.000Z']);
  });

  it.each([
    ['strike', '2031-01-06T15:45Z,BAD3,2031-04-17,-5,C,1,2,100', 'must be greater than 0'],
    ['side', '2031-01-06T15:45Z,BAD3,2031-04-17,100,X,1,2,100', 'must be one of c, call, p, put'],
    ['expiry', '2031-01-06T15:45Z,BAD3,2031-02-30,100,C,1,2,100', 'does not exist in the calendar'],
    ['expiry', '2031-01-06T15:45Z,BAD3,2031-4-17,100,C,1,2,100', 'is not a date like 2031-03-13'],
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
    const { status, errors } = await importBytes(`${CHAIN}\n${line}\n`);
    expect(status).toBe('refused');
    expect(errors[0]).toMatchObject({ row: 2, column });
    expect(errors[0]!.reason).toContain(reason);
  });

  it('a contract that stands twice, and two prices in a snapshot', async () => {
    await makeUnderlying('BAD4');
    const line = '2031-01-06T15:45Z,BAD4,2031-04-17,100,C,1,2,100';
    const twice = await importBytes([CHAIN, line, line].join('\n'));
    expect(twice.errors[0]!.reason).toContain('stands twice');
    const moved = line.replace(',C,1,2,100', ',P,1,2,101');
    const prices = await importBytes([CHAIN, line, moved].join('\n'));
    expect(prices.errors[0]).toMatchObject({ row: 3, column: 'underlying_price' });
  });

  it.each([
    ['no header', 'one,two\n1,2\n', 'no header of a known file'],
    ['a missing column', 'asof,symbol,expiry,strike,side,bid\n', 'for a chain file the header lacks ask'],
    ['a column twice', `${CHAIN},bid\n`, 'bid stands twice'],
    ['an open quote', `${CHAIN}\n"2031-01-06,BAD,2031-04-17,100,C,1,2,100\n`, 'never closed'],
  ])('a file with %s is refused with the reason', async (_, body, detail) => {
    const record = await importBytes(body);
    expect(record.status).toBe('failed');
    expect(record.detail).toContain(detail);
  });

  it('a request without a file', async () => {
    expect((await problemOf('/imports', 400, { method: 'POST' })).detail).toContain('there is no body');
    await problemOf('/imports?zone=Nowhere/Town', 400, { method: 'POST', body: 'x' });
  });

  it('a file of more months than anybody holds is refused: its dates are not meant', async () => {
    await makeUnderlying('MONTHS');
    const months = Array.from({ length: 600 }, (_, i) => new Date(Date.UTC(2000, i, 15, 15, 45)).toISOString());
    const rows = months.map((asof) => `${asof},MONTHS,2099-02-20,100,call,1,1.2,100`);
    const record = await importBytes(chainFile(rows));
    expect(record.status).toBe('failed');
    expect(record.detail).toContain('more than 480 months');
    expect(await snapshotsOf('MONTHS')).toEqual([]);
    // The tables that were made for it are gone as well, as soon as nobody writes.
    const client = new pg.Client({ connectionString: process.env.API_DATABASE_URL ?? '' });
    await client.connect();
    const left = async () =>
      (await client.query("SELECT to_regclass('slices_2005_03') AS found")).rows[0]?.found as unknown;
    await expect.poll(left).toBeNull();
    await client.end();
  });

  it('texts that no key can hold are named by their place', async () => {
    const title = await importBytes(`symbol,start,title\n,2031-01-25T21:00Z,${'x'.repeat(3000)}\n`);
    expect(title.errors[0]).toMatchObject({ row: 2, column: 'title', reason: 'is longer than 500 characters' });
    for (const symbol of ['"A,B"', 'S'.repeat(33), 'A\u0007B']) {
      const { errors } = await importBytes(`symbol,name,kind\n${symbol},Any,index\n`);
      expect(errors[0], symbol).toMatchObject({ row: 2, column: 'symbol' });
    }
    await problemOf(`/exports/bars.csv?symbol=${'S'.repeat(33)}`, 400);
  });

  it('a file that is not UTF-8', async () => {
    const body = new Uint8Array([...new TextEncoder().encode(`${CHAIN}\n`), 0xff, 0xfe, 0x0a]);
    expect((await importBytes(body)).detail).toContain('not UTF-8');
  });
});

describe('the other files', () => {
  it('bars: changed ones are changed, the others left; a bar whose high is under its close is bad', async () => {
    await makeUnderlying('BARS');
    const head = 'symbol,date,open,high,low,close,volume\n';
    const rows = ['BARS,2031-01-06,10,11,9,10.5,', 'BARS,2031-01-07,10.5,12,10,11,500'];
    expect((await importText(head + rows.join('\n'))).counts).toMatchObject({ added: 2 });
    const changed = `${head}${rows[0]}\n${rows[1]!.replace(',11,500', ',11.5,500')}`;
    expect((await importText(changed)).counts).toMatchObject({ added: 0, changed: 1, unchanged: 1 });
    const { errors } = await importBytes(`${head}BARS,2031-01-08,10,10,9,10.5,\n`);
    expect(errors[0]).toMatchObject({ row: 2, column: 'high' });
  });

  it('rates that change are counted into what depends on them', async () => {
    await importText('symbol,name,kind,currency\nRATE,Test,index,XTS\n');
    await importText(chainFile(chainLines('RATE', '2031-01-06T15:45Z')));
    const discount = async () => (await get('/underlyings/RATE/snapshots/latest', SnapshotResponse)).slices[1]!.fit;
    expect((await discount()).rate).toBe(0);
    const record = await importText('date,currency,days,rate\n2031-01-02,XTS,30,0.05\n2031-01-02,XTS,365,0.05\n');
    expect(record.counts).toMatchObject({ added: 2, rebuilt: 1 });
    const fit = await discount();
    expect(fit.rate).toBe(0.05);
    expect(fit.discount).toBeCloseTo(Math.exp(-0.05 * fit.years), 12);
    const { errors } = await importBytes('date,currency,days,rate\n2031-01-02,XTS,30,4.5\n');
    expect(errors[0]!.reason).toContain('is no decimal rate per year');
  });

  it('a session that comes in late is the session before for the one after it, until it is taken back', async () => {
    await makeUnderlying('LATE');
    const [before, after] = [chainLines('LATE', '2031-01-06T15:45Z'), chainLines('LATE', '2031-01-07T15:45Z', 0.24)];
    // One quote stands still while the others move.
    const isStill = (line: string) => line.includes(',2031-02-20,110,call,');
    const stillAt = after.findIndex(isStill);
    after[stillAt] = before.find(isStill)!.replace('2031-01-06', '2031-01-07');
    const aside = async () => {
      const { slices } = await get('/underlyings/LATE/snapshots/latest', SnapshotResponse);
      return slices.flatMap(({ fit }) => fit.aside.map(({ reason }) => reason));
    };
    expect((await importText(chainFile(after))).counts).toEqual({ added: 1, changed: 0, unchanged: 0 });
    const alone = await aside();
    const late = await importText(chainFile(before));
    expect(late.counts).toMatchObject({ added: 1, rebuilt: 1 });
    expect(await aside()).not.toEqual(alone);
    await post(`/imports/${late.id}/undo`, {}, ImportRecord);
    expect((await settled(late.id)).status).toBe('undone');
    expect(await aside()).toEqual(alone);
  });

  it('a dividend lowers the forward by carry of an expiry that parity cannot tell', async () => {
    await makeUnderlying('DIVI');
    const calls = chainLines('DIVI', '2031-01-06T15:45Z').filter((line) => line.includes(',call,'));
    await importText(chainFile(calls));
    const fit = async () => (await get('/underlyings/DIVI/snapshots/latest', SnapshotResponse)).slices[0]!.fit;
    expect(await fit()).toMatchObject({ forwardSource: 'carry', forward: 100 });
    await importText('symbol,ex_date,amount\nDIVI,2031-01-20,2\n');
    expect((await fit()).forward).toBe(98);
  });

  it('come as a form too, and formulas in names do not leave as formulas', async () => {
    const form = new FormData();
    form.set('file', new File(['symbol,name,kind\nFORM,=1+1,index\n'], 'names.csv'));
    const record = await importBytes(form);
    expect(record).toMatchObject({ file: 'names.csv', what: 'underlyings' });
    const { underlyings } = await get('/underlyings', UnderlyingsResponse);
    expect(underlyings.find((row) => row.symbol === 'FORM')!.name).toBe('=1+1');
    expect(await (await request('/underlyings?format=csv')).text()).toContain(`FORM,"'=1+1",index`);
  });

  it('two imports of one snapshot at once leave one of them whole', async () => {
    await makeUnderlying('RACE');
    const files = [0.2, 0.3, 0.4].map((vol) => chainFile(chainLines('RACE', '2031-01-06T15:45Z', vol)));
    const records = await Promise.all(files.map((file) => importText(file)));
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

describe('an import that waits to be looked at', () => {
  const GERMAN = [
    'Stichtag;Underlying;Verfall;Strike;Typ;Bid;Ask;Notiz',
    '06.01.2031 15:45;LOOK;20.02.2031;95,5;C;1.234,25;1.240,75;a',
    '06.01.2031 15:45;LOOK;20.02.2031;95,5;P;0,25;0,35;b',
  ].join('\r\n');
  const MATCH = {
    kind: 'chain',
    columns: {
      Stichtag: 'asof',
      Underlying: 'symbol',
      Verfall: 'expiry',
      Strike: 'strike',
      Typ: 'side',
      Bid: 'bid',
      Ask: 'ask',
    },
  };
  const hold = async (text: string) => {
    const response = await request('/imports?hold=true&name=held.csv', { method: 'POST', body: text });
    return ImportRecord.parse(await response.json());
  };

  it('shows its first rows as they are understood, is matched, checked, imported, and remembered', async () => {
    await makeUnderlying('LOOK');
    const { id, status } = await hold(GERMAN);
    expect(status).toBe('received');
    const first = await post(`/imports/${id}/preview`, {}, Readable);
    expect(first).toMatchObject({ format: 'csv', kind: 'chain', isSure: false, open: [] });
    expect(first.conventions).toEqual({ delimiter: ';', decimal: ',', dates: 'dmy' });
    expect(first.missing).toEqual(['asof', 'expiry', 'side']);
    const preview = await post(`/imports/${id}/preview`, MATCH, Readable);
    expect(preview.missing).toEqual([]);
    expect(preview.rows[0]!.cells[5]).toBe('1.234,25');
    expect(preview.rows[0]!.read).toEqual([
      '2031-01-06T15:45',
      'LOOK',
      '2031-02-20',
      '95.5',
      'C',
      '1234.25',
      '1240.75',
      'a',
    ]);
    await problemOf(`/imports/${id}/check`, 422, {
      method: 'POST',
      body: JSON.stringify({ kind: 'chain', columns: {} }),
    });
    await post(`/imports/${id}/check`, MATCH, ImportRecord);
    const checked = await settled(id);
    expect(checked).toMatchObject({
      status: 'checked',
      rows: 2,
      badRows: 0,
      counts: { added: 1 },
      ignoredColumns: ['Notiz'],
    });
    expect(await snapshotsOf('LOOK')).toEqual([]);
    await post(`/imports/${id}/start`, {}, ImportRecord);
    expect((await settled(id)).status).toBe('done');
    expect(await snapshotsOf('LOOK')).toHaveLength(1);
    await problemOf(`/imports/${id}/start`, 409, { method: 'POST', body: '{}' });
    // The same header is known now.
    const again = await importText(GERMAN.replaceAll('06.01', '07.01'));
    expect(again.counts).toMatchObject({ added: 1 });
    const { slices } = await get('/underlyings/LOOK/snapshots/latest', SnapshotResponse);
    expect(slices[0]!.call.bid).toEqual([1234.25]);
  });

  it('says what is wrong with a file that cannot be read', async () => {
    const { id } = await hold('PAR1 this is none');
    const { problem } = await post(`/imports/${id}/preview`, {}, z.object({ problem: z.string() }));
    expect(problem).toContain('Parquet');
  });

  it('can be stopped before it has begun', async () => {
    const { id } = await hold('symbol,name,kind\nSTOP,Test,index\n');
    expect((await post(`/imports/${id}/cancel`, {}, ImportRecord)).status).toBe('cancelled');
    await problemOf(`/imports/${id}/cancel`, 409, { method: 'POST' });
    expect((await get('/underlyings', UnderlyingsResponse)).underlyings.some(({ symbol }) => symbol === 'STOP')).toBe(
      false,
    );
    await post(`/imports/${id}/start`, {}, ImportRecord);
    expect((await settled(id)).status).toBe('done');
  });

  it('a question that only a person can answer is asked, and answered', async () => {
    await makeUnderlying('TWO1');
    const file = 'symbol,ex_date,amount\nTWO1,01/02/2031,1\n';
    expect((await importBytes(file)).detail).toContain('say dates=dmy or dates=mdy');
    const { id } = await hold(file);
    expect((await post(`/imports/${id}/preview`, {}, Readable)).open).toEqual([
      { convention: 'dates', column: 'ex_date', example: '01/02/2031' },
    ]);
    const told = { conventions: { dates: 'mdy' } };
    const { rows } = await post(`/imports/${id}/preview`, told, Readable);
    expect(rows[0]!.read[1]).toBe('2031-01-02');
    await post(`/imports/${id}/start`, told, ImportRecord);
    expect((await settled(id)).status).toBe('done');
  });
});

describe('taking an import back', () => {
  it('puts changed records back and removes added ones, with what depends on them', async () => {
    await importText('symbol,name,kind,currency\nUND1,Test,index,XTU\n');
    await importText('date,currency,days,rate\n2031-01-02,XTU,365,0.01\n');
    await importText(chainFile(chainLines('UND1', '2031-01-06T15:45Z')));
    const rate = async () => (await get('/underlyings/UND1/snapshots/latest', SnapshotResponse)).slices[0]!.fit.rate;
    expect(await rate()).toBe(0.01);
    const changed = await importText('date,currency,days,rate\n2031-01-02,XTU,365,0.03\n2031-01-03,XTU,365,0.05\n');
    expect(changed.counts).toMatchObject({ added: 1, changed: 1, rebuilt: 1 });
    expect(await rate()).toBe(0.05);
    await post(`/imports/${changed.id}/undo`, {}, ImportRecord);
    expect((await settled(changed.id)).status).toBe('undone');
    expect(await rate()).toBe(0.01);
    // The file is still kept: it can go in again.
    await post(`/imports/${changed.id}/start`, {}, ImportRecord);
    expect((await settled(changed.id)).counts).toMatchObject({ added: 1, changed: 1 });
    expect(await rate()).toBe(0.05);
  });

  it('leaves what people have made: it says what it misses, and works again when the data are back', async () => {
    const symbol = { id: (await importText('symbol,name,kind,exercise\nKEEP,Kept,index,european\n')).id };
    const chain = await importText(chainFile(chainLines('KEEP', '2031-01-06T15:45Z')));
    const legs = [{ expiry: '2031-02-20', strike: 100, side: 'call', quantity: 1 }];
    await post('/structures', { symbol: 'KEEP', legs, note: 'kept' }, StructuresResponse);
    const borrowing = { source: 'KEEP', sourceExpiry: '2031-04-17', map: 'standardized' };
    const borrowed = { expiry: '2031-02-20', version: null, borrowing };
    const [own] = (await post('/underlyings/KEEP/borrowings', borrowed, BorrowingsResponse)).borrowings;
    const kept = async () =>
      (await get('/structures', StructuresResponse)).structures.find((row) => row.symbol === 'KEEP')!;
    const before = await kept();
    expect(before.now).toMatchObject({ missing: null });
    for (const { id } of [chain, symbol]) {
      await post(`/imports/${id}/undo`, {}, ImportRecord);
      expect((await settled(id)).status).toBe('undone');
    }
    expect(await kept()).toMatchObject({ id: before.id, note: 'kept', value: before.value, now: null });
    for (const { id } of [symbol, chain]) {
      await post(`/imports/${id}/start`, {}, ImportRecord);
      expect((await settled(id)).status).toBe('done');
    }
    expect((await kept()).now).toEqual(before.now);
    expect((await get('/underlyings/KEEP/borrowings', BorrowingsResponse)).borrowings).toEqual([own]);
  });

  it('gives replaced snapshots back, the later import first', async () => {
    await makeUnderlying('UND2');
    const file = (vol: number) => chainFile(chainLines('UND2', '2031-01-06T15:45Z', vol));
    const first = await importText(file(0.2));
    const before = await get('/underlyings/UND2/snapshots/latest', SnapshotResponse);
    const second = await importText(file(0.4));
    const problem = await problemOf(`/imports/${first.id}/undo`, 409, { method: 'POST' });
    expect(problem.detail).toContain(`import ${second.id}`);
    await post(`/imports/${second.id}/undo`, {}, ImportRecord);
    await settled(second.id);
    expect(await get('/underlyings/UND2/snapshots/latest', SnapshotResponse)).toEqual(before);
    await post(`/imports/${first.id}/undo`, {}, ImportRecord);
    await settled(first.id);
    expect(await snapshotsOf('UND2')).toEqual([]);
    await problemOf(`/imports/${first.id}/undo`, 409, { method: 'POST' });
  });

  it('who reads while it is taken back sees what was before or what is after, never nothing', async () => {
    await makeUnderlying('UND5');
    const moments = ['06', '07', '08', '09', '10', '13', '14', '15'].map((day) => `2031-01-${day}T15:45Z`);
    const file = (vol: number) => chainFile(moments.flatMap((asof) => chainLines('UND5', asof, vol)));
    await importText(file(0.2));
    const { id } = await importText(file(0.4));
    let isOver = false;
    const seen = new Set<number>();
    const reading = async () => {
      while (!isOver) {
        const { slices } = await get('/underlyings/UND5/snapshots/latest', SnapshotResponse);
        seen.add(Math.round(10 * slices[0]!.fit.atmVol!));
        const { contracts } = await get('/underlyings/UND5/chain', ChainResponse);
        seen.add(Math.round(10 * contracts.find(({ strike }) => strike === 100)!.midVol!));
      }
    };
    const readers = [reading(), reading(), reading()];
    await post(`/imports/${id}/undo`, {}, ImportRecord);
    expect((await settled(id)).status).toBe('undone');
    isOver = true;
    await Promise.all(readers);
    expect([...seen].sort()).toEqual([2, 4]);
  });

  it('another kind of underlying is taken back with its measures', async () => {
    const terms = (kind: string) => importText(`symbol,name,kind,currency\nUND4,Test,${kind},XTV\n`);
    await terms('index');
    await importText('date,currency,days,rate\n2031-01-02,XTV,365,0.05\n');
    const calls = chainLines('UND4', '2031-01-06T15:45Z').filter((line) => line.includes(',call,'));
    await importText(chainFile(calls));
    const forward = async () =>
      (await get('/underlyings/UND4/snapshots/latest', SnapshotResponse)).slices[0]!.fit.forward!;
    const carried = await forward();
    expect(carried).toBeGreaterThan(100);
    const changed = await terms('future');
    expect(await forward()).toBe(100);
    await post(`/imports/${changed.id}/undo`, {}, ImportRecord);
    expect((await settled(changed.id)).status).toBe('undone');
    expect(await forward()).toBe(carried);
  });

  it('is refused where data of other imports depend on what was added', async () => {
    const first = await importText('symbol,name,kind\nUND3,Test,index\n');
    const bars = await importText('symbol,date,open,high,low,close\nUND3,2031-01-06,1,1,1,1\n');
    const problem = await problemOf(`/imports/${first.id}/undo`, 409, { method: 'POST' });
    expect(problem.detail).toContain('has data of other imports');
    await post(`/imports/${bars.id}/undo`, {}, ImportRecord);
    await settled(bars.id);
    await post(`/imports/${first.id}/undo`, {}, ImportRecord);
    expect((await settled(first.id)).status).toBe('undone');
  });
});

describe('the tape, positions, bars inside a day', () => {
  it('prints that are alike are told apart, and the same file again changes nothing', async () => {
    await makeUnderlying('TAPE');
    const line = '2031-01-06T15:45:01Z,TAPE,2031-02-20,100,C,1.25,3,';
    const file = ['time,symbol,expiry,strike,side,price,size,group', line, line, line.replace(',3,', ',4,X1')].join(
      '\n',
    );
    const record = await importText(file);
    expect(record).toMatchObject({ what: 'prints', counts: { added: 3, unchanged: 0 } });
    expect((await importText(file)).counts).toMatchObject({ added: 0, unchanged: 3 });
    await post(`/imports/${record.id}/undo`, {}, ImportRecord);
    await settled(record.id);
    expect((await importText(file)).counts).toMatchObject({ added: 3 });
  });

  it('contract symbols stand for four columns', async () => {
    await makeUnderlying('OSI1');
    const head = 'asof,contract,bid,ask,underlying_price';
    const rows = ['OSI1  310220C00095500', 'OSI1  310220P00095500'];
    const file = [head, ...rows.map((contract) => `2031-01-06T15:45Z,${contract},1,1.2,96`)].join('\n');
    expect((await importText(file)).counts).toMatchObject({ added: 1 });
    const { slices } = await get('/underlyings/OSI1/snapshots/latest', SnapshotResponse);
    expect(slices[0]).toMatchObject({ strike: [95.5], fit: { expiry: '2031-02-20' } });
    const bad = await importBytes(file.replace('310220C', '310231C'));
    expect(bad.errors[0]).toMatchObject({ row: 2, column: 'contract', value: 'OSI1  310231C00095500' });
  });

  it('positions of options and of the underlying', async () => {
    await makeUnderlying('POSI');
    const file = [
      'symbol,expiry,strike,side,quantity,price,opened,tag',
      'POSI,2031-02-20,100,C,-2,1.25,2031-01-06T15:45Z,income',
      'POSI,,,,100,99.5,2031-01-06T15:45Z,',
    ].join('\n');
    expect(await importText(file)).toMatchObject({ what: 'positions', counts: { added: 2 } });
    expect((await importText(file)).counts).toMatchObject({ added: 0, unchanged: 2 });
    expect((await importBytes(file.replace(',-2,', ',0,'))).errors[0]).toMatchObject({ row: 2, column: 'quantity' });
  });

  it('bars with times are of a session, not of a day', async () => {
    await makeUnderlying('MINU');
    const file = [
      'symbol,time,open,high,low,close,volume',
      'MINU,2031-01-06T10:00Z,5,6,4,5.5,10',
      'MINU,2031-01-06T10:05Z,5.5,7,5,6,20',
      'MINU,2031-01-06T10:15Z,6,6.5,3,4,5',
      'MINU,2031-01-07T10:00Z,4,4,4,4,1',
    ].join('\n');
    expect(await importText(file)).toMatchObject({ what: 'bars', counts: { added: 4 } });
    // Read as quarters of an hour of a session, up to the moment that is asked for.
    const inside = (asof: string) => get(`/underlyings/MINU/intraday-bars?asof=${asof}`, IntradayBarsResponse);
    const first = { time: '2031-01-06T10:00:00.000Z', open: 5, high: 7, low: 4, close: 6, volume: 30 };
    expect(await inside('2031-01-06T10:15:00Z')).toEqual({
      symbol: 'MINU',
      day: '2031-01-06',
      minutes: 15,
      bars: [first],
    });
    expect((await inside('2031-01-06T10:30:00Z')).bars).toEqual([
      first,
      { time: '2031-01-06T10:15:00.000Z', open: 6, high: 6.5, low: 3, close: 4, volume: 5 },
    ]);
    expect((await inside('2031-01-08T10:30:00Z')).bars).toEqual([]);
    const csv = await (await request('/underlyings/MINU/intraday-bars?asof=2031-01-06T10:30:00Z&format=csv')).text();
    expect(csv.split('\r\n')[0]).toBe('time,open,high,low,close,volume');
    await problemOf('/underlyings/MINU/intraday-bars', 404);
  });

  it('a renamed underlying is not measured anew, one of another kind is', async () => {
    await makeUnderlying('NAME');
    await importText(chainFile(chainLines('NAME', '2031-01-06T15:45Z')));
    expect((await importText('symbol,name,kind,exercise\nNAME,Other,index,european\n')).counts).toEqual({
      added: 0,
      changed: 1,
      unchanged: 0,
    });
    expect((await importText('symbol,name,kind,exercise\nNAME,Other,future,european\n')).counts).toMatchObject({
      rebuilt: 1,
    });
  });
});

describe('a calendar with daylight saving', () => {
  it('is named by its zone: closes move, and so do moments that name no zone', async () => {
    expect((await importBytes('symbol,name,kind,calendar\nZONE,Test,index,Mars/Base\n')).errors[0]).toMatchObject({
      row: 2,
      column: 'calendar',
    });
    await importText('symbol,name,kind,calendar\nZONE,Test,index,America/New_York\n');
    const lines = ['2031-03-07T15:45', '2031-03-10T15:45'].flatMap((asof) => chainLines('ZONE', asof));
    await importText(chainFile(lines));
    expect((await snapshotsOf('ZONE')).map(({ asof }) => asof)).toEqual([
      '2031-03-07T20:45:00.000Z',
      '2031-03-10T19:45:00.000Z',
    ]);
    const { slices } = await get('/underlyings/ZONE/snapshots/latest', SnapshotResponse);
    // From Monday 15:45 to Thursday 17 April 16:00, both in summer time.
    expect(slices.find(({ fit }) => fit.expiry === '2031-04-17')!.fit.years * 525_600).toBeCloseTo(38 * 1440 + 15, 6);
  });
});

describe('tasks', () => {
  it('derive anew what is held of an underlying', async () => {
    await makeUnderlying('TASK');
    await importText(chainFile(chainLines('TASK', '2031-01-06T15:45Z')));
    const before = await get('/underlyings/TASK/snapshots/latest', SnapshotResponse);
    const response = await request('/tasks', {
      method: 'POST',
      body: JSON.stringify({ kind: 'rebuild', symbols: ['TASK'] }),
    });
    expect(response.status).toBe(202);
    const { id } = TaskRecord.parse(await response.json());
    await expect.poll(async () => (await get(`/tasks/${id}`, TaskRecord)).status).toBe('done');
    expect((await get(`/tasks/${id}`, TaskRecord)).detail).toContain('1 snapshots');
    expect(await get('/underlyings/TASK/snapshots/latest', SnapshotResponse)).toEqual(before);
    expect((await get('/tasks', TasksResponse)).tasks[0]!.kind).toBe('rebuild');
    // The same again while it waits is the same task; once it is done, another.
    const body = JSON.stringify({ kind: 'rebuild', symbols: ['CAIR'] });
    const ids = await Promise.all(
      [1, 2, 3].map(async () => TaskRecord.parse(await (await request('/tasks', { method: 'POST', body })).json()).id),
    );
    expect(new Set(ids).size).toBe(1);
    expect(ids[0]).not.toBe(id);
    await problemOf('/tasks/999999', 404);
    await problemOf('/tasks', 400, { method: 'POST', body: '{"kind":"demo"}' });
  });
});
