import { Readable } from 'node:stream';
import { calendarById } from '@umwelt/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CellError, choice, optionalNumber, requiredDay, requiredInstant, requiredText, type Cells } from './cells';
import { SnapshotAssembler, type FinishedSnapshot } from './chain';
import { csvBatches } from './csv';
import { FILE_KINDS, HeaderError, LAYOUTS, matchHeader } from './layouts';

async function read(text: string | Uint8Array, chunk = 7) {
  const bytes = typeof text === 'string' ? Buffer.from(text) : Buffer.from(text);
  const pieces = Array.from({ length: Math.ceil(bytes.length / chunk) }, (_, i) =>
    bytes.subarray(i * chunk, (i + 1) * chunk),
  );
  const rows: { number: number; cells: string[] }[] = [];
  for await (const batch of csvBatches(Readable.from(pieces))) rows.push(...batch);
  return rows;
}

describe('CSV', () => {
  it('reads quotes, doubled quotes and line ends inside cells, however it is cut', async () => {
    const text = 'a,b\r\n"x, ""y""","two\r\nlines"\r\n\r\n1,2';
    for (const chunk of [1, 2, 3, 7, 1000]) {
      expect(await read(text, chunk)).toEqual([
        { number: 1, cells: ['a', 'b'] },
        { number: 2, cells: ['x, "y"', 'two\r\nlines'] },
        { number: 4, cells: ['1', '2'] },
      ]);
    }
  });
  it('comes back from what a writer of RFC 4180 makes of any cells', async () => {
    const cell = fc.string({ unit: fc.constantFrom('a', ',', '"', '\n', '\r\n', ' ', 'é', '1'), maxLength: 8 });
    const table = fc.array(fc.array(cell, { minLength: 2, maxLength: 2 }), { minLength: 1, maxLength: 8 });
    await fc.assert(
      fc.asyncProperty(table, fc.integer({ min: 1, max: 20 }), async (rows, chunk) => {
        const quoted = rows.map((cells) => cells.map((text) => `"${text.replaceAll('"', '""')}"`).join(','));
        const back = await read(`${quoted.join('\r\n')}\r\n`, chunk);
        const kept = rows.filter((cells) => cells.some((text) => text.trim() !== ''));
        expect(back.map((row) => row.cells)).toEqual(kept);
      }),
    );
  });
  it('strips a byte-order mark with the header, and refuses what is not text', async () => {
    expect(matchHeader((await read('\uFEFFsymbol,name,kind\n'))[0]!.cells).kind).toBe('underlyings');
    await expect(read(new Uint8Array([0x61, 0xff, 0x0a]))).rejects.toThrow('not UTF-8');
    await expect(read('a,b\n"open')).rejects.toThrow('after row 1: a quote is opened and never closed');
  });
  it('nothing gives no rows', async () => {
    expect(await read('')).toEqual([]);
    expect(await read('\n \n')).toEqual([]);
  });
});

describe('headers', () => {
  it('tell the kind of file, in any order and case, and keep other columns aside', () => {
    for (const kind of FILE_KINDS) {
      const columns = [...LAYOUTS[kind].required, ...LAYOUTS[kind].optional].reverse();
      const matched = matchHeader(columns.map((name) => ` ${name.toUpperCase().replace('_', ' ')} `));
      expect(matched.kind, kind).toBe(kind);
      expect(matched.position[LAYOUTS[kind].required[0]!]).toBe(columns.length - 1);
    }
    expect(matchHeader(['symbol', 'start', 'title', 'mood']).ignored).toEqual(['mood']);
  });
  it('say what is missing from the nearest kind', () => {
    expect(() => matchHeader(['asof', 'symbol', 'expiry', 'strike', 'side', 'bid'])).toThrow(
      'for a chain file the header lacks ask',
    );
    expect(() => matchHeader(['date', 'open', 'high', 'low', 'close'])).toThrow(
      'for a bars file the header lacks symbol',
    );
    expect(() => matchHeader(['x'])).toThrow(HeaderError);
    expect(() => matchHeader(['symbol', 'Symbol'])).toThrow('stands twice');
  });
});

describe('cells', () => {
  const cells =
    (value?: string): Cells =>
    () =>
      value;
  const fault = (work: () => unknown) => {
    try {
      work();
    } catch (error) {
      if (error instanceof CellError) return error.reason;
    }
    return null;
  };
  it('numbers are plain decimals', () => {
    expect(['1', '-2.5', '.5', '1e3', '+4'].map((text) => optionalNumber(cells(text), 'x'))).toEqual([
      1, -2.5, 0.5, 1000, 4,
    ]);
    expect(optionalNumber(cells(''), 'x')).toBeNaN();
    expect(optionalNumber(cells(undefined), 'x')).toBeNaN();
    for (const text of ['1,5', '0x10', '0b1', 'NaN', 'Infinity', '1e999', '12 3', '--1']) {
      expect(
        fault(() => optionalNumber(cells(text), 'x')),
        text,
      ).toBe('is not a number');
    }
    expect(fault(() => optionalNumber(cells('0'), 'x', { above: 0 }))).toBe('must be greater than 0');
    expect(fault(() => optionalNumber(cells('-0.1'), 'x', { min: 0 }))).toBe('must be at least 0');
  });
  it('days exist', () => {
    expect(requiredDay(cells('2032-02-29'), 'x')).toBe('2032-02-29');
    expect(fault(() => requiredDay(cells('2031-02-29'), 'x'))).toBe('does not exist in the calendar');
    expect(fault(() => requiredDay(cells('2031-2-9'), 'x'))).toBe('is not a date like 2031-03-13');
    expect(fault(() => requiredDay(cells(''), 'x'))).toBe('is missing');
  });
  it('moments have a zone, or are of the exchange', () => {
    const mrx = calendarById('MRX');
    const moment = (text: string) => new Date(requiredInstant(cells(text), 'x', mrx)).toISOString();
    expect(moment('2031-03-13T15:45')).toBe('2031-03-13T16:45:00.000Z');
    expect(moment('2031-03-13 15:45:30')).toBe('2031-03-13T16:45:30.000Z');
    expect(moment('2031-03-13T15:45+02:00')).toBe('2031-03-13T13:45:00.000Z');
    expect(moment('2031-03-13T15:45Z')).toBe('2031-03-13T15:45:00.000Z');
    // A bare day is the close of its session, half days included.
    expect(moment('2030-12-24')).toBe('2030-12-24T14:00:00.000Z');
    for (const text of ['1900-01-01T10:00', '9999-12-31', '2200-01-01T00:00Z'])
      expect(
        fault(() => moment(text)),
        text,
      ).toBe('is not between 1970 and 2199');
    for (const text of ['15:45', '2031-03-13T25:00', 'tomorrow', '2031-13-01T10:00'])
      expect(
        fault(() => moment(text)),
        text,
      ).toContain('is not a date and time');
  });
  it('words are matched whatever their case, and never by accident', () => {
    const sides = { c: 'call', p: 'put' } as const;
    expect(choice(cells('C'), 'side', sides)).toBe('call');
    expect(choice(cells(''), 'side', sides, 'put')).toBe('put');
    expect(fault(() => choice(cells('toString'), 'side', sides))).toBe('must be one of c, p');
    expect(fault(() => choice(cells(''), 'side', sides))).toBe('is missing');
    expect(fault(() => requiredText(cells(''), 'x'))).toBe('is missing');
    expect(fault(() => requiredText(cells('a\0b'), 'x'))).toBe('holds a zero character');
    expect(fault(() => optionalNumber(cells('4'), 'x', { max: 3 }))).toBe('must be at most 3');
  });
});

describe('snapshots from rows', () => {
  type Row = {
    symbol?: string;
    asof?: number;
    expiry?: string;
    strike: number;
    side: string;
    bid?: string;
    price?: string;
  };
  const add = (
    assembler: SnapshotAssembler,
    { symbol = 'A', asof = 1, expiry = '2031-04-17', strike, side, bid = '1', price = '' }: Row,
  ) => {
    const row: Record<string, string> = {
      expiry,
      strike: String(strike),
      side,
      bid,
      ask: '2',
      underlying_price: price,
    };
    assembler.add(symbol, asof, (column) => row[column], null);
  };
  const all = (assembler: SnapshotAssembler) => [...assembler.take(true)];
  it('come out whole, sorted, with NaN where a side is not quoted', () => {
    const assembler = new SnapshotAssembler();
    add(assembler, { strike: 110, side: 'C', price: '100' });
    add(assembler, { strike: 90, side: 'P', bid: '' });
    add(assembler, { strike: 100, side: 'P', expiry: '2031-03-20' });
    const [{ snapshot, contracts }] = all(assembler) as [FinishedSnapshot];
    expect(contracts).toBe(3);
    expect(snapshot.price).toBe(100);
    expect(snapshot.slices.map((slice) => slice.expiry)).toEqual(['2031-03-20', '2031-04-17']);
    const [, slice] = snapshot.slices;
    expect(Array.from(slice!.strike)).toEqual([90, 110]);
    expect(Array.from(slice!.call.bid)).toEqual([NaN, 1]);
    expect(Array.from(slice!.put.ask)).toEqual([2, NaN]);
  });
  it('are the same whatever the order of the rows, and tell another quote', () => {
    const rows = [90, 100, 110].flatMap((strike) => ['C', 'P'].map((side) => ({ strike, side })));
    const digest = (order: readonly Row[]) => {
      const assembler = new SnapshotAssembler();
      for (const row of order) add(assembler, row);
      return all(assembler)[0]!.digest;
    };
    fc.assert(
      fc.property(fc.shuffledSubarray(rows, { minLength: 6 }), (order) => {
        expect(digest(order)).toBe(digest(rows));
      }),
    );
    expect(digest(rows.map((row) => (row.strike === 90 ? { ...row, bid: '1.01' } : row)))).not.toBe(digest(rows));
  });
  it('with a bad row do not come out at all', () => {
    const assembler = new SnapshotAssembler();
    add(assembler, { strike: 100, side: 'C' });
    expect(() => add(assembler, { strike: 100, side: 'C' })).toThrow('stands twice');
    add(assembler, { strike: 100, side: 'C', asof: 2 });
    expect(all(assembler).map(({ snapshot }) => snapshot.asof)).toEqual([2]);
    expect(assembler.spoiled).toBe(1);
  });
  it('are handed on while a grouped file is read, and never twice', () => {
    const assembler = new SnapshotAssembler();
    for (let asof = 1; asof <= 3; asof++)
      for (let strike = 1; strike <= 6000; strike++) add(assembler, { asof, strike, side: 'C' });
    expect([...assembler.take(false)].map(({ snapshot }) => snapshot.asof)).toEqual([1, 2]);
    expect(() => add(assembler, { asof: 1, strike: 9999, side: 'C' })).toThrow('sort the file by asof and symbol');
    expect(all(assembler).map(({ snapshot }) => snapshot.asof)).toEqual([3]);
  });
  it('wait longer once rows of several alternate', () => {
    const assembler = new SnapshotAssembler();
    for (let strike = 1; strike <= 9000; strike++)
      for (const asof of [1, 2]) add(assembler, { asof, strike, side: 'C' });
    expect([...assembler.take(false)]).toEqual([]);
    expect(all(assembler)).toHaveLength(2);
  });
});
