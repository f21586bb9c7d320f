import { performance as nodePerformance } from 'node:perf_hooks';
import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { parquetWriteBuffer } from 'hyparquet-writer';
import { gzipSync } from 'node:zlib';
import { QuoteLines, type QuoteColumn } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { Queryable } from '../../db';
import { memorySource } from '../source';
import { XlsxReader } from './xlsx';
import { formatOf, headOf } from './bytes';
import { CsvReader } from './csv';
import { inspectFile, readTable } from './inspect';

async function* streamOf(pieces: readonly Buffer[]) {
  yield* pieces;
}

async function read(text: string | Uint8Array, chunk = 7) {
  const bytes = typeof text === 'string' ? Buffer.from(text) : Buffer.from(text);
  const pieces = Array.from({ length: Math.ceil(bytes.length / chunk) }, (_, i) =>
    bytes.subarray(i * chunk, (i + 1) * chunk),
  );
  const rows: { number: number; cells: string[] }[] = [];
  for await (const batch of new CsvReader(streamOf(pieces)).batches()) if ('rows' in batch) rows.push(...batch.rows);
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
    expect((await read('\uFEFFsymbol,name,kind\n'))[0]!.cells).toEqual(['symbol', 'name', 'kind']);
    await expect(read(new Uint8Array([0x61, 0xff, 0x0a]))).rejects.toThrow('not UTF-8');
    await expect(read('a,b\n"open')).rejects.toThrow('after row 1: a quote is opened and never closed');
  });
  it('nothing gives no rows', async () => {
    expect(await read('')).toEqual([]);
    expect(await read('\n \n')).toEqual([]);
  });
});

describe('plain lines of a chain', () => {
  const columns = ['asof', 'symbol', 'expiry', 'strike', 'side', 'bid', 'ask'] as const satisfies QuoteColumn[];
  /** What a reader says of a file, row by row, whether it came as cells or as columns. */
  async function rowsOf(text: string, chunk: number, isQuick: boolean): Promise<string[]> {
    const bytes = Buffer.from(text);
    const pieces = Array.from({ length: Math.ceil(bytes.length / chunk) }, (_, i) =>
      bytes.subarray(i * chunk, (i + 1) * chunk),
    );
    const reader = new CsvReader(streamOf(pieces));
    const found: string[] = [];
    for await (const batch of reader.batches()) {
      if ('rows' in batch) {
        for (const { number, cells } of batch.rows)
          found.push(`${number}: ${cells.map((cell, at) => valueOf(cell, at)).join('|')}`);
        if (isQuick) reader.quotes ??= new QuoteLines(columns, 2, 4);
        continue;
      }
      const { block, texts } = batch.quotes;
      for (let i = 0; i < block.count; i++) {
        const cells = columns.map((name) =>
          name === 'side'
            ? valueOf(block.sign[i]! > 0 ? 'C' : 'P', 4)
            : name === 'asof' || name === 'symbol' || name === 'expiry'
              ? valueOf(texts[name].list[block.text[name][i]!]!)
              : String(block.number[name][i]),
        );
        found.push(`${block.row[i]}: ${cells.join('|')}`);
      }
      block.count = 0;
    }
    return found;
  }
  const valueOf = (cell: string, at = 0) =>
    at === 4
      ? cell.slice(0, 1).toUpperCase()
      : at > 4 || (at === 3 && /^[\d.]+$/.test(cell))
        ? String(cell === '' ? NaN : Number(cell))
        : cell;
  it('say the same read quickly and in general, among lines that are not plain', async () => {
    const cell = (...texts: string[]) => fc.constantFrom(...texts);
    const line = fc
      .tuple(
        cell('2031-03-13T15:45Z', '2031-03-13T15:45Z', '2031-03-12T15:45Z', '"2031-03-13T15:45Z"'),
        cell('MRX40', 'MRX40', 'MRX4', 'AB', '"A,B"', 'Ä'),
        cell('2031-03-20', '2031-03-20', '2031-04-17'),
        cell('4200', '4225.5', '0', '-1', ' 4200', '4e3', '12345678901234567'),
        cell('C', 'P', 'c', 'call', 'PUT', 'Q'),
        cell('1.25', '0', '', '.5', '7.'),
        cell('1.3', '"1.3"', '123456789012.25', '10'),
      )
      .map((cells) => cells.join(','));
    const file = fc.array(fc.oneof({ arbitrary: line, weight: 9 }, fc.constantFrom('', ' ', '"a\nb",c', 'x')), {
      maxLength: 30,
    });
    await fc.assert(
      fc.asyncProperty(
        file,
        fc.constantFrom('\n', '\r\n'),
        fc.integer({ min: 1, max: 200 }),
        async (lines, end, chunk) => {
          const text = [columns.join(','), ...lines].join(end);
          expect(await rowsOf(text, chunk, true)).toEqual(await rowsOf(text, 10_000, false));
        },
      ),
    );
  });
});

/** Stands in for the database where nothing is remembered. */
const EMPTY = { select: () => ({ from: () => ({ where: async () => [] }) }) } as unknown as Queryable;

async function tableOf(bytes: Buffer, settings = {}) {
  const source = memorySource('file', bytes);
  const inspected = await inspectFile(EMPTY, source, settings, { mayAsk: true });
  const rows: string[][] = [];
  const numbers: number[] = [];
  for await (const batch of (await readTable(source, inspected)).batches()) {
    if (!('rows' in batch)) continue;
    rows.push(...batch.rows.map((row) => row.cells));
    numbers.push(...batch.rows.map((row) => row.number));
  }
  return { inspected, rows, numbers };
}

const BARS = [
  ['symbol', 'date', 'open', 'high', 'low', 'close'],
  ['MRX40', '2031-03-12', '4200', '4210.5', '4190', '4201.25'],
  ['MRX40', '2031-03-13', '4201', '4220', '4200', '4208.15'],
];
const csv = BARS.map((row) => row.join(',')).join('\n');

describe('every format gives the same table', () => {
  const expectBars = async (bytes: Buffer, format: string) => {
    const { inspected, rows } = await tableOf(bytes);
    expect(inspected.format).toBe(format);
    expect(inspected.guess.kind).toBe('bars');
    expect(inspected.isSure).toBe(true);
    expect(rows).toEqual(BARS);
  };
  const objects = BARS.slice(1).map(([symbol, date, ...prices]) =>
    Object.fromEntries(BARS[0]!.map((name, i) => [name, i < 2 ? [symbol, date][i] : Number(prices[i - 2])])),
  );
  it('CSV, packed, with a byte-order mark, in UTF-16, with other delimiters', async () => {
    await expectBars(Buffer.from(csv), 'csv');
    await expectBars(gzipSync(csv), 'csv');
    await expectBars(Buffer.from(`\uFEFF${csv}`), 'csv');
    await expectBars(Buffer.from(`\uFEFF${csv}`, 'utf16le'), 'csv');
    await expectBars(Buffer.from(`\uFEFF${csv}`, 'utf16le').swap16(), 'csv');
    for (const delimiter of [';', '\t', '|']) await expectBars(Buffer.from(csv.replaceAll(',', delimiter)), 'csv');
  });
  it('JSON: a list, a named list, an object a line', async () => {
    await expectBars(Buffer.from(JSON.stringify(objects)), 'json');
    await expectBars(Buffer.from(JSON.stringify({ bars: objects, more: [] }, null, 2)), 'json');
    await expectBars(Buffer.from(objects.map((row) => JSON.stringify(row)).join('\n')), 'json');
    await expectBars(gzipSync(JSON.stringify(objects)), 'json');
  });
  it('XLSX, with numbers and days as such', async () => {
    const workbook = new ExcelJS.Workbook();
    const sheet = workbook.addWorksheet('bars');
    sheet.addRow(BARS[0]!);
    for (const row of BARS.slice(1))
      sheet.addRow([row[0], new Date(`${row[1]}T00:00:00Z`), ...row.slice(2).map(Number)]);
    workbook.addWorksheet('other').addRow(['not read']);
    const bytes = Buffer.from(await workbook.xlsx.writeBuffer());
    await expectBars(bytes, 'xlsx');
    // Each time: the library loses the last part of an archive in one reading of two hundred.
    for (let i = 0; i < 60; i++) {
      let rows = 0;
      for await (const batch of new XlsxReader(memorySource('file', bytes)).batches()) {
        rows += 'rows' in batch ? batch.rows.length : 0;
      }
      expect(rows).toBe(BARS.length);
    }
  });
  it('Parquet', async () => {
    const column = (i: number) => BARS.slice(1).map((row) => row[i]!);
    const bytes = parquetWriteBuffer({
      columnData: BARS[0]!.map((name, i) =>
        i === 0
          ? { name, data: column(i), type: 'STRING' as const }
          : i === 1
            ? { name, data: column(i).map((day) => new Date(day)), type: 'TIMESTAMP' as const }
            : { name, data: column(i).map(Number), type: 'DOUBLE' as const },
      ),
    });
    const { inspected, rows } = await tableOf(Buffer.from(bytes));
    expect(inspected.format).toBe('parquet');
    expect(rows.map((row) => row.map((cell) => cell.replace('T00:00:00.000Z', '')))).toEqual(BARS);
  });
});

describe('calendars', () => {
  it('give events, with zones and whole days', async () => {
    const text = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//test//EN',
      'BEGIN:VEVENT',
      'UID:1',
      'DTSTART;TZID=America/New_York:20310715T083000',
      'SUMMARY:Results\\, second quarter',
      'CATEGORIES:LMNQ',
      'X-UMWELT-KIND:results',
      'END:VEVENT',
      'BEGIN:VEVENT',
      'UID:2',
      'DTSTART;VALUE=DATE:20310716',
      'SUMMARY:Holiday of a very long name that has to be folded because it is lo',
      ' nger than a line',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n');
    const { inspected, rows } = await tableOf(Buffer.from(text));
    expect(inspected.guess.kind).toBe('events');
    expect(rows.slice(1)).toEqual([
      ['LMNQ', '2031-07-15T12:30:00.000Z', 'Results, second quarter', 'results'],
      ['', '2031-07-16', 'Holiday of a very long name that has to be folded because it is longer than a line', ''],
    ]);
    await expect(tableOf(Buffer.from(text.replace('UID:2', 'RRULE:FREQ=DAILY')))).rejects.toThrow('event 2: repeats');
    await expect(tableOf(Buffer.from('BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n'))).rejects.toThrow('calendar is damaged');
  });
});

describe('what cannot be read', () => {
  const refused = (bytes: Buffer | string) => expect(tableOf(Buffer.from(bytes)));
  it('says why and where', async () => {
    await refused('').rejects.toThrow('the file is empty');
    await refused(gzipSync(csv.repeat(99)).subarray(0, 60)).rejects.toThrow('gzip) is damaged');
    await refused('[{"a":1},2]').rejects.toThrow('item 2: is not an object');
    await refused('[{"a":1},{"a":').rejects.toThrow('after item 1');
    await refused('PAR1 no').rejects.toThrow('Parquet file is');
    await refused('PK\u0003\u0004 no').rejects.toThrow('workbook is damaged');
    const late = Array.from({ length: 1001 }, (_, i) => (i < 1000 ? { a: 1 } : { a: 1, b: 2 }));
    await refused(JSON.stringify(late)).rejects.toThrow('item 1001: has “b”');
  });
  it('more columns than any table has, in every format', async () => {
    const wide = Array.from({ length: 513 }, (_, i) => `c${i}`);
    const says = '513 columns; at most 512';
    await refused(`${wide.join(',')}\n`).rejects.toThrow(says);
    // Columns of many objects, and of one.
    await refused(JSON.stringify(wide.map((name) => ({ [name]: 1 })))).rejects.toThrow('513 or more columns');
    await refused(`{${wide.map((name) => `"${name}":1`).join(',')}}`).rejects.toThrow('513 or more columns');
    const workbook = new ExcelJS.Workbook();
    workbook.addWorksheet('wide').getCell('XFD1').value = 'last';
    await refused(Buffer.from(await workbook.xlsx.writeBuffer())).rejects.toThrow('16384 columns; at most 512');
    const columnData = wide.map((name) => ({ name, data: [1], type: 'DOUBLE' as const }));
    await refused(Buffer.from(parquetWriteBuffer({ columnData }))).rejects.toThrow(says);
  });
  it('what would take minutes or all memory ends in seconds, and not here', async () => {
    const keys = Array.from({ length: 200_000 }, (_, i) => `"k${i}":1`).join(',');
    const blank = gzipSync(Buffer.alloc(50 << 20, '\n'));
    // Items that are read at once and fit into no memory.
    const long = Buffer.from(`{"a":"${'x'.repeat(3_900_000)}"},`);
    const heavy = {
      ...memorySource('heavy', Buffer.from('[')),
      stream: async function* () {
        yield Buffer.from('[');
        for (let n = 0; n < 200; n++) yield long;
      },
    };
    const before = nodePerformance.eventLoopUtilization();
    await refused(`{${keys}}`).rejects.toThrow('513 or more columns');
    await refused(blank).rejects.toThrow('million rows are blank');
    await expect(inspectFile(EMPTY, heavy)).rejects.toThrow('asks for more memory');
    const { utilization } = nodePerformance.eventLoopUtilization(before);
    // The share of the time that this thread is at work does not depend on how fast the machine is; here it would be nearly all.
    expect(utilization).toBeLessThan(0.5);
  });
  it('is left where it is when nobody waits any longer', async () => {
    const stopping = new AbortController();
    const endless = {
      ...memorySource('endless', Buffer.from('a,b\n')),
      stream: async function* () {
        yield Buffer.from('a,b\n');
        for (;;) {
          await new Promise((resolve) => setTimeout(resolve, 5));
          yield Buffer.from('\n');
        }
      },
    };
    const looking = inspectFile(EMPTY, endless, {}, { signal: stopping.signal });
    setTimeout(() => stopping.abort(), 100);
    await expect(looking).rejects.toThrow(/abort/i);
  });
  it('a file that is lost while it is read is no fault of the file', async () => {
    const lost = {
      ...memorySource('lost', Buffer.from('[{"a":1},')),
      stream: async function* () {
        yield Buffer.alloc(1 << 17, '[{"a":1},');
        throw new Error('the database is gone');
      },
    };
    const opening = { format: 'json' as const, head: '[', conventions: {} };
    await expect(async () => {
      for await (const _ of (await readTable(lost, opening)).batches());
    }).rejects.toThrow('the database is gone');
  });
  it('a file that can be read in two ways is asked about', async () => {
    const source = memorySource('file', Buffer.from('symbol,ex_date,amount\nA,01/02/2031,1\n'));
    await expect(inspectFile(EMPTY, source)).rejects.toThrow('say dates=dmy or dates=mdy');
    const told = await inspectFile(EMPTY, source, { conventions: { dates: 'dmy' } });
    expect(told.open).toEqual([]);
    expect((await inspectFile(EMPTY, source, {}, { mayAsk: true })).open).toHaveLength(1);
  });
  it('the format is told by the first bytes', async () => {
    expect(formatOf(Buffer.from(' \n[{'))).toBe('json');
    expect(formatOf(Buffer.from('begin:vcalendar'))).toBe('ics');
    expect(formatOf(await headOf(memorySource('x', gzipSync('{}'))))).toBe('json');
  });
});
