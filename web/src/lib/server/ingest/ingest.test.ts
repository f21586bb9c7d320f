import { calendarById } from '@umwelt/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CellError, choice, optionalNumber, requiredDay, requiredInstant, requiredText, type Cells } from './cells';
import { SnapshotAssembler, type FinishedSnapshot } from './chain';
import { guessConventions, guessDelimiter, plainText } from './conventions';
import { guessMatching } from './formats/inspect';
import { FILE_KINDS, HeaderError, LAYOUTS, matchHeader } from '../../layouts';

describe('headers', () => {
  it('are matched by hand where their names are not ours, and remembered names of the trade are guessed', () => {
    const header = ['quote_date', 'Ticker', 'Expiration', 'K', 'Type', 'Bid', 'Offer', 'mood'];
    const guess = guessMatching(header);
    expect(guess).toEqual({
      kind: 'chain',
      columns: {
        quote_date: 'asof',
        Ticker: 'symbol',
        Expiration: 'expiry',
        K: 'strike',
        Type: 'side',
        Bid: 'bid',
        Offer: 'ask',
      },
    });
    expect(matchHeader(header, guess)).toMatchObject({ kind: 'chain', ignored: ['mood'], position: { ask: 6 } });
    expect(() => matchHeader(header)).toThrow(HeaderError);
    expect(guessMatching(['date', 'ticker', 'open', 'high', 'low', 'close', 'vol']).kind).toBe('bars');
  });
  it('may have a contract symbol in place of four columns, and a time in place of a date', () => {
    expect(matchHeader(['asof', 'contract', 'bid', 'ask']).kind).toBe('chain');
    expect(matchHeader(['symbol', 'time', 'open', 'high', 'low', 'close']).kind).toBe('bars');
    expect(() => matchHeader(['asof', 'contract', 'bid'])).toThrow('lacks ask');
  });
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
      ).toBe('is not between 1990 and 2100');
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
    assembler.add(symbol, asof, 2, (column) => row[column], null);
  };
  const none = (row: number, error: CellError) => {
    throw new Error(`row ${row}: ${error.message}`);
  };
  const all = (assembler: SnapshotAssembler) => [...assembler.take(true)];
  it('come out whole, sorted, with NaN where a side is not quoted', () => {
    const assembler = new SnapshotAssembler(none);
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
      const assembler = new SnapshotAssembler(none);
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
    const faults: string[] = [];
    const assembler = new SnapshotAssembler((row, { column, value, reason }) =>
      faults.push(`${row} ${column} ${value} ${reason}`),
    );
    add(assembler, { strike: 100, side: 'C' });
    add(assembler, { strike: 100, side: 'C' });
    expect(() => add(assembler, { strike: 90, side: 'X', asof: 3 })).toThrow('must be one of');
    add(assembler, { strike: 100, side: 'C', asof: 2 });
    expect(all(assembler).map(({ snapshot }) => snapshot.asof)).toEqual([2]);
    expect(assembler.spoiled).toBe(2);
    expect(faults).toEqual(['2 strike 100 the call of 2031-04-17 stands twice in its snapshot']);
  });
  it('are handed on while a grouped file is read, and never twice', () => {
    const assembler = new SnapshotAssembler(none);
    for (let asof = 1; asof <= 3; asof++)
      for (let strike = 1; strike <= 6000; strike++) add(assembler, { asof, strike, side: 'C' });
    expect([...assembler.take(false)].map(({ snapshot }) => snapshot.asof)).toEqual([1, 2]);
    expect(() => add(assembler, { asof: 1, strike: 9999, side: 'C' })).toThrow('sort the file by asof and symbol');
    expect(all(assembler).map(({ snapshot }) => snapshot.asof)).toEqual([3]);
  });
  it('wait longer once rows of several alternate', () => {
    const assembler = new SnapshotAssembler(none);
    for (let strike = 1; strike <= 9000; strike++)
      for (const asof of [1, 2]) add(assembler, { asof, strike, side: 'C' });
    expect([...assembler.take(false)]).toEqual([]);
    expect(all(assembler)).toHaveLength(2);
  });
});

describe('conventions', () => {
  it('turn numbers, days and moments into ours', () => {
    const comma = { decimal: ',' } as const;
    const numbers = ['1.234,50', '1 234,5', '-0,25', '1.234', '12,', '\u221212,5'];
    expect(numbers.map((text) => plainText(text, 'number', comma))).toEqual([
      '1234.50',
      '1234.5',
      '-0.25',
      '1234',
      '12.',
      '-12.5',
    ]);
    expect(['1,234.5', '1,234', '1 234', '1e3', '1,23'].map((text) => plainText(text, 'number', {}))).toEqual([
      '1234.5',
      '1234',
      '1234',
      '1e3',
      '1,23',
    ]);
    expect(plainText('3.4.2031', 'day', { dates: 'dmy' })).toBe('2031-04-03');
    expect(plainText('03/04/2031', 'day', { dates: 'mdy' })).toBe('2031-03-04');
    expect(plainText('20310403', 'day', {})).toBe('2031-04-03');
    expect(plainText('2031/04/03', 'day', {})).toBe('2031-04-03');
    expect(plainText('03/04/2031', 'day', {})).toBe('03/04/2031');
    expect(plainText('3/4/2031 3:45 PM', 'instant', { dates: 'mdy' })).toBe('2031-03-04T15:45');
    expect(plainText('3/4/2031 12:05:30 a.m.', 'instant', { dates: 'mdy' })).toBe('2031-03-04T00:05:30');
    expect(plainText('as it is', 'text', comma)).toBe('as it is');
  });
  it('a zone that is named moves with the daylight, one in the text goes before it', () => {
    const zone = 'America/New_York';
    expect(plainText('2031-01-15 16:00', 'instant', { zone })).toBe('2031-01-15T21:00:00.000Z');
    expect(plainText('2031-07-15 16:00', 'instant', { zone })).toBe('2031-07-15T20:00:00.000Z');
    expect(plainText('2031-07-15T16:00+02:00', 'instant', { zone })).toBe('2031-07-15T16:00+02:00');
  });
  it('are told from the cells, or asked for', () => {
    const guess = (columns: string[], ...rows: string[][]) => guessConventions(columns, rows);
    expect(guess(['bid'], ['1,25'], ['1,250']).conventions).toEqual({ decimal: ',' });
    expect(guess(['bid'], ['1,250'], ['1.5'])).toEqual({ conventions: {}, open: [] });
    expect(guess(['bid'], ['1,250']).open).toEqual([{ convention: 'decimal', column: 'bid', example: '1,250' }]);
    expect(guess(['expiry'], ['01/02/2031'], ['20/03/2031']).conventions).toEqual({ dates: 'dmy' });
    expect(guess(['asof'], ['02/20/2031 10:00']).conventions).toEqual({ dates: 'mdy' });
    expect(guess(['expiry'], ['01.02.2031']).conventions).toEqual({ dates: 'dmy' });
    expect(guess(['expiry'], ['01/02/2031']).open).toEqual([
      { convention: 'dates', column: 'expiry', example: '01/02/2031' },
    ]);
    expect(guess(['symbol'], ['01/02/2031'])).toEqual({ conventions: {}, open: [] });
  });
  it('the delimiter is the one that the header has most of', () => {
    expect(['a,b,c', 'a;b;c\n1,5;2,5;3', '"a,b,c";d\n', 'a\tb', 'a|b|c,d'].map(guessDelimiter)).toEqual([
      ',',
      ';',
      ';',
      '\t',
      '|',
    ]);
  });
});
