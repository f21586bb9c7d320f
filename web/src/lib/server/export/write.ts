import ExcelJS from 'exceljs';
import { fileWriter, ParquetWriter, schemaFromColumnData, type ColumnSource } from 'hyparquet-writer';
import ICAL from 'ical.js';
import { createHash } from 'node:crypto';
import { createReadStream, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PassThrough, Readable } from 'node:stream';
import Papa from 'papaparse';
import { guarded, KIND_PROPERTY } from '../ingest';
import type { Cell, ExportTable } from './rows';

export const EXPORT_FORMATS = ['csv', 'json', 'xlsx', 'parquet', 'ics'] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];

/** Raised for a table that a format cannot hold. */
export class ExportError extends Error {}

export const CONTENT_TYPES: Record<ExportFormat, string> = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  parquet: 'application/vnd.apache.parquet',
  ics: 'text/calendar; charset=utf-8',
};

/** Writes a table in a format, as it is read. @throws ExportError for iCalendar of anything but events */
export function writeTable(table: ExportTable, format: ExportFormat): Readable {
  if (format === 'csv') return Readable.from(csv(table));
  if (format === 'json') return Readable.from(json(table));
  if (format === 'xlsx') return xlsx(table);
  if (format === 'parquet') return Readable.from(parquet(table));
  if (table.name !== 'events') throw new ExportError('only events are written as iCalendar');
  return Readable.from(ics(table));
}

async function* csv({ columns, rows }: ExportTable): AsyncGenerator<string> {
  yield `${columns.map(({ name }) => name).join(',')}\r\n`;
  for await (const batch of rows) {
    const cells = batch.map((row) => row.map((cell) => (typeof cell === 'string' ? guarded(cell) : cell)));
    yield `${Papa.unparse(cells, { newline: '\r\n' })}\r\n`;
  }
}

async function* json({ columns, rows }: ExportTable): AsyncGenerator<string> {
  let lead = '[\n';
  for await (const batch of rows) {
    const items = batch.map((row) =>
      JSON.stringify(Object.fromEntries(columns.map(({ name }, i) => [name, row[i] ?? null]))),
    );
    if (items.length > 0) yield lead + items.join(',\n');
    if (items.length > 0) lead = ',\n';
  }
  yield lead === '[\n' ? '[]\n' : '\n]\n';
}

/** A sheet has no more rows. */
const MOST_SHEET_ROWS = 1_048_575;

function xlsx({ name, columns, rows }: ExportTable): Readable {
  const out = new PassThrough();
  const write = async () => {
    const workbook = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: out, useSharedStrings: false });
    const sheet = workbook.addWorksheet(name);
    sheet.addRow(columns.map((column) => column.name)).commit();
    let count = 0;
    for await (const batch of rows) {
      count += batch.length;
      if (count > MOST_SHEET_ROWS) throw new ExportError(`a sheet holds ${MOST_SHEET_ROWS} rows; there are more`);
      // A text is a text here: nothing of it is run, so nothing has to be guarded.
      for (const row of batch) sheet.addRow(row).commit();
    }
    sheet.commit();
    await workbook.commit();
  };
  write().catch((error: Error) => out.destroy(error));
  return out;
}

const ROWS_PER_GROUP = 50_000;

/** Written to a file first: where its parts lie stands at the end. */
async function* parquet({ columns, rows }: ExportTable): AsyncGenerator<Buffer> {
  const folder = mkdtempSync(join(tmpdir(), 'umwelt-export-'));
  const path = join(folder, 'table.parquet');
  try {
    const typed = (data: readonly Cell[][]): ColumnSource[] =>
      columns.map(({ name, type }, i) => ({
        name,
        data: data.map((row) => row[i] ?? null),
        type: type === 'number' ? 'DOUBLE' : 'STRING',
        nullable: true,
      }));
    const schema = schemaFromColumnData({ columnData: typed([]) });
    const writer = new ParquetWriter({ writer: fileWriter(path), schema });
    let waiting: Cell[][] = [];
    const flush = async () => {
      const columnData = typed(waiting).map(({ name, data }) => ({ name, data }));
      await writer.write({ columnData, rowGroupSize: ROWS_PER_GROUP });
      waiting = [];
    };
    for await (const batch of rows) {
      waiting.push(...batch);
      if (waiting.length >= ROWS_PER_GROUP) await flush();
    }
    if (waiting.length > 0) await flush();
    await writer.finish();
    for await (const chunk of createReadStream(path)) yield chunk as Buffer;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

async function* ics({ columns, rows }: ExportTable): AsyncGenerator<string> {
  const at = (name: string) => columns.findIndex((column) => column.name === name);
  const [symbol, start, title, kind] = ['symbol', 'start', 'title', 'kind'].map(at) as [number, number, number, number];
  yield 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Umwelt//events//EN\r\n';
  for await (const batch of rows) {
    for (const row of batch) {
      const event = new ICAL.Component('vevent');
      const moment = ICAL.Time.fromJSDate(new Date(String(row[start])), true);
      event.addPropertyWithValue('uid', `${createHash('sha1').update(JSON.stringify(row)).digest('hex')}@umwelt`);
      event.addPropertyWithValue('dtstamp', moment);
      event.addPropertyWithValue('dtstart', moment);
      event.addPropertyWithValue('summary', String(row[title]));
      if (row[symbol]) event.addPropertyWithValue('categories', String(row[symbol]));
      if (row[kind]) event.addPropertyWithValue(KIND_PROPERTY, String(row[kind]));
      yield `${event.toString()}\r\n`;
    }
  }
  yield 'END:VCALENDAR\r\n';
}
