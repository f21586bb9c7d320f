import ExcelJS from 'exceljs';
import { parquetWriteBuffer } from 'hyparquet-writer';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Random } from '../../demo/src/random';
import { openDatabase, type Database } from '../../web/src/lib/server/db';
import { importFile, memorySource } from '../../web/src/lib/server/ingest';

/**
 * Files as no program would write them, straight into the database of the API tests: whatever is in them, an import ends
 * with a state and, where it is not done, with the place and the reason; and what is held stays as it was.
 */
const RUNS = Number(process.env.FUZZ_RUNS ?? 400);
const SEED = process.env.FUZZ_SEED ?? 'mutated files';
const MOST_MEMORY = 500_000_000;

const EXPIRIES = ['2031-02-20', '2031-04-17'];
const HEADER = 'asof,symbol,expiry,strike,side,bid,ask,bid_size,ask_size,last,volume,open_interest,underlying_price';
const ROWS = EXPIRIES.flatMap((expiry) =>
  [80, 90, 100, 110, 120].flatMap((strike) =>
    ['C', 'P'].map((side) => {
      const inner = Math.max(0, side === 'C' ? 100 - strike : strike - 100);
      return ['2031-01-06T15:45Z', 'FUZZ', expiry, strike, side, inner + 2, inner + 2.5, 10, 12, '', 5, 70, 100];
    }),
  ),
);
const CSV = [HEADER, ...ROWS.map((row) => row.join(','))].join('\n') + '\n';
const NAMES = HEADER.split(',');
const OBJECTS = ROWS.map((row) => Object.fromEntries(NAMES.map((name, i) => [name, row[i] === '' ? null : row[i]])));
const ICS =
  'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:20310715T123000Z\r\nSUMMARY:Results\r\nCATEGORIES:FUZZ\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n';

async function originals(): Promise<Buffer[]> {
  const workbook = new ExcelJS.Workbook();
  const sheet = workbook.addWorksheet('chain');
  sheet.addRow(NAMES);
  for (const row of ROWS) sheet.addRow(row);
  const parquet = parquetWriteBuffer({
    columnData: NAMES.map((name, i) => ({
      name,
      data: ROWS.map((row) => (row[i] === '' ? null : row[i]!)),
      type: typeof ROWS[0]![i] === 'string' && i !== 9 ? ('STRING' as const) : ('DOUBLE' as const),
      nullable: true,
    })),
  });
  return [
    Buffer.from(CSV),
    Buffer.from(CSV.replaceAll('\n', '\r\n')),
    Buffer.from(CSV.replaceAll(',', ';')),
    Buffer.from(JSON.stringify(OBJECTS)),
    Buffer.from(OBJECTS.map((row) => JSON.stringify(row)).join('\n')),
    Buffer.from(await workbook.xlsx.writeBuffer()),
    Buffer.from(parquet),
    gzipSync(CSV),
    Buffer.from(ICS),
    Buffer.from('symbol,date,open,high,low,close\nFUZZ,2031-01-06,10,11,9,10.5\n'),
  ];
}

const BAD_WORDS = [
  '1e308',
  '-1',
  '-0',
  'NaN',
  'Infinity',
  '1e999',
  '0x10',
  '99999999999999999999',
  '',
  ' ',
  '"',
  '""',
  ',',
  '\n',
  '\r',
  '\0',
  '\t',
  ';',
  '\uFEFF',
  '\u202E',
  '😀',
  '=1+1',
  '2031-02-30',
  '9999-99-99',
  '0000-00-00T00:00Z',
  'GHOST',
  '{',
  ']',
  'null',
  '\\u0000',
];

/** One file, changed in one to four ways. */
function mutated(original: Buffer, random: Random): Buffer {
  let bytes = Buffer.from(original);
  for (let n = 1 + random.below(4); n > 0; n--) {
    const at = random.below(bytes.length + 1);
    const to = Math.min(bytes.length, at + 1 + random.below(40));
    const kind = random.below(9);
    const word = Buffer.from(BAD_WORDS[random.below(BAD_WORDS.length)]!);
    if (kind === 0) bytes = bytes.subarray(0, at);
    else if (kind === 1) bytes = Buffer.concat([bytes.subarray(0, at), bytes.subarray(to)]);
    else if (kind === 2) bytes = Buffer.concat([bytes.subarray(0, to), bytes.subarray(at)]);
    else if (kind === 3) bytes = Buffer.concat([bytes.subarray(0, at), word, bytes.subarray(at)]);
    else if (kind === 4) bytes = Buffer.concat([bytes.subarray(0, at), word, bytes.subarray(to)]);
    else if (kind === 5 && bytes.length > 0) bytes[at % bytes.length] = random.below(256);
    else if (kind === 6) bytes = Buffer.from(bytes.toString('latin1'), 'utf16le');
    else if (kind === 7) bytes = Buffer.from(swappedCells(bytes.toString('latin1'), random), 'latin1');
    else bytes = Buffer.concat([bytes, bytes.subarray(at, to)]);
  }
  return bytes;
}

/** Two cells of one line exchanged. */
function swappedCells(text: string, random: Random): string {
  const lines = text.split('\n');
  const at = random.below(lines.length);
  const cells = lines[at]!.split(',');
  const [a, b] = [random.below(cells.length), random.below(cells.length)];
  [cells[a], cells[b]] = [cells[b]!, cells[a]!];
  lines[at] = cells.join(',');
  return lines.join('\n');
}

const LONGEST_MS = 60_000;

/** Fails after some time. */
function stuck(what: string): Promise<never> {
  return new Promise((_, reject) => setTimeout(() => reject(new Error(what)), LONGEST_MS).unref());
}

describe('files that nobody means', () => {
  let database: Database;
  beforeAll(async () => {
    database = openDatabase(process.env.API_DATABASE_URL ?? '');
    await importFile(
      database,
      memorySource('names', Buffer.from('symbol,name,kind,exercise\nFUZZ,Fuzz,index,european\n')),
    );
  });
  afterAll(() => database.$client.end());

  const state = async () => {
    const { rows } = await database.execute<{ slices: number; fits: number; measures: number; snapshots: number }>(`
      SELECT (SELECT count(*)::int FROM slices WHERE symbol = 'FUZZ') AS slices,
        (SELECT count(*)::int FROM fits WHERE symbol = 'FUZZ') AS fits,
        (SELECT count(*)::int FROM measures WHERE symbol = 'FUZZ') AS measures,
        (SELECT count(*)::int FROM snapshots WHERE symbol = 'FUZZ') AS snapshots`);
    return rows[0]!;
  };

  it(
    `${RUNS} of them end with a reason and its place, and leave nothing by halves`,
    { timeout: 600_000 + 400 * RUNS },
    async () => {
      const files = await originals();
      for (const file of files) {
        const record = await importFile(database, memorySource('original', file));
        expect(record.status, `${record.detail} ${JSON.stringify(record.faults[0])}`).toBe('done');
      }
      const random = new Random(SEED);
      const ends: Record<string, number> = {};
      // Other tests of the process hold memory too.
      const before = process.memoryUsage().rss;
      let peak = before;
      for (let run = 0; run < RUNS; run++) {
        const bytes = mutated(files[run % files.length]!, random);
        const record = await Promise.race([
          importFile(database, memorySource(`file ${run}`, bytes)),
          stuck(`file ${run} has no end`),
        ]);
        ends[record.status] = (ends[record.status] ?? 0) + 1;
        const place = `file ${run}: ${record.status} ${record.detail}`;
        if (record.status === 'refused') {
          expect(record.faults.length, place).toBeGreaterThan(0);
          for (const fault of record.faults) {
            expect(fault.row, place).toBeGreaterThan(0);
            expect(fault.column, place).not.toBe('');
            expect(fault.reason, place).not.toBe('');
          }
        } else if (record.status === 'failed') {
          expect(record.detail ?? '', place).not.toBe('');
          // A fault of ours would be told as one of the database or of the program.
          expect(record.detail, place).not.toMatch(/nothing was imported:|is not a function|Cannot read/);
        } else expect(record.status, place).toBe('done');
        peak = Math.max(peak, process.memoryUsage().rss);
      }
      const { slices, fits, measures, snapshots } = await state();
      expect(fits).toBe(slices);
      expect(measures).toBe(snapshots);
      expect(ends['done']! + ends['refused']! + ends['failed']!).toBe(RUNS);
      for (const end of ['done', 'refused', 'failed']) expect(ends[end]! / RUNS, end).toBeGreaterThan(0.03);
      expect(peak - before).toBeLessThan(MOST_MEMORY);
      console.log(JSON.stringify({ fuzz: RUNS, ...ends, peakMegabytes: Math.round((peak - before) / 1e6) }));
    },
  );

  it('one line without an end, a bomb, and a number without an end are refused while little is held', async () => {
    const MEGABYTE = Buffer.alloc(1 << 20, 'x');
    const endless = (first: string, megabytes: number) => ({
      ...memorySource('endless', Buffer.from(first)),
      size: megabytes << 20,
      stream: async function* () {
        yield Buffer.from(first);
        for (let n = 0; n < megabytes; n++) yield MEGABYTE;
      },
    });
    const before = process.memoryUsage().rss;
    let peak = before;
    const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 5);
    for (const first of [`${HEADER}\n`, `${HEADER}\n"`, '[{"asof":"', HEADER.slice(0, 20)]) {
      const record = await importFile(database, endless(first, 1000));
      expect(record.status, first).toBe('failed');
      expect(record.detail, first).toMatch(/after (row|item) \d+/);
    }
    const bomb = await importFile(database, memorySource('bomb.gz', gzipSync(Buffer.alloc(300 << 20))));
    expect(bomb.status).toBe('failed');
    clearInterval(watch);
    expect(peak - before).toBeLessThan(MOST_MEMORY);
  });
});
