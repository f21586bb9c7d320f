import type { QuoteLines } from '@umwelt/core';
import Papa from 'papaparse';
import { TableError, type TableBatch, type TableReader, type TableRow } from '../table';

const LINE_FEED = 10;
const QUOTE = 34;
/** No record of a table is longer than this; a quote that is never closed would be. */
const LONGEST_RECORD = 4_000_000;
/** Blank rows of a file; one of nothing else would be read for minutes. */
const MOST_BLANK_ROWS = 1_000_000;
/** Lines that the general reader takes at once when the quick one stops at each. */
const MOST_ODD_LINES = 512;

/**
 * Reads a CSV file (RFC 4180, UTF-8, with or without a byte-order mark) as a stream: first the header alone, then
 * batches of rows. Row numbers count as a spreadsheet shows them: the header is row 1, blank rows count and are
 * passed over.
 *
 * Once `quotes` is set, after the header, lines that it can read come as columns, and only the others as rows.
 */
export class CsvReader implements TableReader {
  quotes: QuoteLines | null = null;
  private hasHeader = false;
  private number = 0;
  private blankRows = 0;
  private oddLines = 1;
  private readonly decoder = new TextDecoder('utf-8', { fatal: true });

  constructor(
    private readonly source: AsyncIterable<Buffer>,
    private readonly delimiter = ',',
  ) {}

  /** @throws TableError for a record that does not end, or text that is not UTF-8 */
  async *batches(): AsyncGenerator<TableBatch> {
    let rest: Buffer = Buffer.alloc(0);
    for await (const chunk of this.source) {
      const bytes = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
      rest = bytes.subarray(yield* this.drain(bytes));
      if (rest.length > LONGEST_RECORD) throw this.endless(rest);
    }
    if (rest.length === 0) return;
    if (countQuotes(rest) % 2 === 1) throw this.endless(rest);
    yield* this.drain(Buffer.concat([rest, Buffer.from('\n')]));
  }

  /** Hands out the complete records of some bytes; returns where the rest begins. */
  private *drain(bytes: Buffer): Generator<TableBatch, number> {
    let from = 0;
    while (!this.hasHeader) {
      const end = recordEnd(bytes, from, 1);
      if (end < 0) return from;
      const rows = this.rowsOf(bytes.subarray(from, end));
      from = end;
      this.hasHeader = rows.length > 0;
      if (this.hasHeader) yield { rows };
    }
    for (;;) {
      if (!this.quotes) {
        const end = lastRecordEnd(bytes, from);
        if (end > from) yield { rows: this.rowsOf(bytes.subarray(from, end)) };
        return Math.max(end, from);
      }
      const { quotes } = this;
      quotes.row = this.number + 1;
      const stop = quotes.read(bytes, from, bytes.length);
      this.oddLines = quotes.position > from ? 1 : Math.min(2 * this.oddLines, MOST_ODD_LINES);
      from = quotes.position;
      this.number = quotes.row - 1;
      if (quotes.block.count > 0) yield { quotes };
      if (stop === 'end') return from;
      if (stop === 'full') continue;
      const end = recordEnd(bytes, from, this.oddLines);
      if (end < 0) return from;
      yield { rows: this.rowsOf(bytes.subarray(from, end)) };
      from = end;
    }
  }

  /** Rows of complete records, the line end of the last included. */
  private rowsOf(bytes: Buffer): TableRow[] {
    const rows = isWhite(bytes) ? this.blanksOf(bytes) : this.parsed(bytes);
    if (this.blankRows > MOST_BLANK_ROWS)
      throw new TableError(`row ${this.number}: more than ${MOST_BLANK_ROWS / 1e6} million rows are blank`);
    return rows;
  }

  private blanksOf(bytes: Buffer): TableRow[] {
    let count = 0;
    for (const byte of bytes) if (byte === LINE_FEED) count++;
    this.number += count;
    this.blankRows += count;
    return [];
  }

  private parsed(bytes: Buffer): TableRow[] {
    // Without its line end the last record is not followed by an empty one.
    const text = this.decode(bytes).replace(/\r?\n$/, '');
    const rows: TableRow[] = [];
    for (const cells of Papa.parse<string[]>(text, { delimiter: this.delimiter }).data) {
      this.number++;
      if (cells.some((cell) => cell.trim() !== '')) rows.push({ number: this.number, cells });
      else this.blankRows++;
    }
    return rows;
  }

  private decode(bytes: Buffer): string {
    try {
      return this.decoder.decode(bytes);
    } catch {
      throw new TableError(`after row ${this.number}: the text is not UTF-8`);
    }
  }

  private endless(rest: Buffer): TableError {
    const reason =
      countQuotes(rest) % 2 === 1
        ? 'a quote is opened and never closed'
        : `a line is longer than ${LONGEST_RECORD / 1e6} million characters`;
    return new TableError(`after row ${this.number}: ${reason}`);
  }
}

const SPACE = 32;

/** Whether there is nothing but white space. */
function isWhite(bytes: Buffer): boolean {
  for (const byte of bytes) if (byte > SPACE) return false;
  return true;
}

function countQuotes(bytes: Buffer): number {
  let count = 0;
  for (let at = bytes.indexOf(QUOTE); at >= 0; at = bytes.indexOf(QUOTE, at + 1)) count++;
  return count;
}

/** Where the n-th record from a position ends, or the last complete one before it; −1 when none does. */
function recordEnd(bytes: Buffer, from: number, records: number): number {
  let isQuoted = false;
  let left = records;
  let found = -1;
  for (let p = from; p < bytes.length && left > 0; p++) {
    if (bytes[p] === QUOTE) isQuoted = !isQuoted;
    // A line end between quotes belongs to a cell.
    else if (bytes[p] === LINE_FEED && !isQuoted) {
      found = p + 1;
      left--;
    }
  }
  return found;
}

function lastRecordEnd(bytes: Buffer, from: number): number {
  if (bytes.indexOf(QUOTE, from) < 0) return bytes.lastIndexOf(LINE_FEED) + 1;
  return recordEnd(bytes, from, Infinity);
}
