import ExcelJS from 'exceljs';
import { Readable } from 'node:stream';
import yauzl from 'yauzl';
import type { FileSource } from '../source';
import { damageOf, TableError, type TableBatch, type TableReader, type TableRow } from '../table';
import { cellOf } from './cells';
import { checkWidth } from './width';

const ROWS_PER_BATCH = 1000;
const MOST_UNPACKED = 1_500_000_000;
/** Texts and styles of a workbook are held in memory. */
const MOST_HELD = 60_000_000;
/** A part that shrinks more than this when packed is no table; sheets shrink five to twenty times. */
const MOST_SHRINKING = 150;
const SMALL_PART = 10_000_000;

/** Reads the first sheet of a workbook (ISO/IEC 29500) as a table, streamed. Row numbers are those of the sheet. */
export class XlsxReader implements TableReader {
  constructor(private readonly source: FileSource) {}

  async *batches(): AsyncGenerator<TableBatch> {
    await checkParts(this.source);
    const workbook = new ExcelJS.stream.xlsx.WorkbookReader(Readable.from(this.source.stream()), {
      entries: 'emit',
      sharedStrings: 'cache',
      styles: 'cache',
      hyperlinks: 'ignore',
      worksheets: 'emit',
    });
    let width = 0;
    let last = 0;
    try {
      for await (const sheet of workbook) {
        let waiting: TableRow[] = [];
        for await (const row of sheet) {
          last = row.number;
          checkWidth(row.cellCount);
          const cells = cellsOf(row, width);
          if (cells.every((text) => text.trim() === '')) continue;
          if (width === 0) {
            width = cells.length;
            yield { rows: [{ number: row.number, cells }] };
          } else if (waiting.push({ number: row.number, cells }) === ROWS_PER_BATCH) {
            yield { rows: waiting };
            waiting = [];
          }
        }
        if (waiting.length > 0) yield { rows: waiting };
        return;
      }
    } catch (error) {
      if (error instanceof TableError) throw error;
      throw new TableError(`after row ${last}: the workbook is damaged: ${damageOf(error)}`);
    }
  }
}

function cellsOf(row: ExcelJS.Row, width: number): string[] {
  const values = row.values as ExcelJS.CellValue[];
  // The library counts from 1; a row that ends early has blanks up to the width of the header.
  return Array.from({ length: Math.max(width, values.length - 1) }, (_, i) => valueOf(values[i + 1]));
}

function valueOf(value: ExcelJS.CellValue): string {
  if (typeof value !== 'object' || value === null || value instanceof Date) return cellOf(value);
  if ('result' in value) return valueOf(value.result as ExcelJS.CellValue);
  if ('richText' in value) return value.richText.map(({ text }) => text).join('');
  if ('error' in value) return value.error;
  return 'text' in value ? cellOf(value.text) : '';
}

/** Refuses archives that unpack to more than they say or than memory holds, before anything is read from them. */
function checkParts(source: FileSource): Promise<void> {
  class Parts extends yauzl.RandomAccessReader {
    override _readStreamForRange(start: number, end: number): Readable {
      const parts = async function* () {
        const STEP = 1 << 20;
        for (let at = start; at < end; at += STEP) yield await source.slice(at, Math.min(end, at + STEP));
      };
      return Readable.from(parts());
    }
  }
  return new Promise((resolve, reject) => {
    const damaged = (error: Error) =>
      reject(error instanceof TableError ? error : new TableError(`the workbook is damaged: ${damageOf(error)}`));
    yauzl.fromRandomAccessReader(
      new Parts(),
      source.size,
      { lazyEntries: true, validateEntrySizes: true },
      (error, zip) => {
        if (error) return damaged(error);
        let total = 0;
        zip.on('error', damaged);
        zip.on('end', resolve);
        zip.on('entry', (entry: yauzl.Entry) => {
          const { fileName, compressedSize, uncompressedSize } = entry;
          total += uncompressedSize;
          const isHeld = !fileName.startsWith('xl/worksheets/') && !fileName.startsWith('xl/media/');
          const shrinks = uncompressedSize > SMALL_PART && uncompressedSize > MOST_SHRINKING * compressedSize;
          if (total > MOST_UNPACKED || shrinks || (isHeld && uncompressedSize > MOST_HELD)) {
            return damaged(new TableError(`the workbook unpacks to too much: ${fileName}, ${uncompressedSize} bytes`));
          }
          // Unpacked once for its size alone: an archive may say less than there is.
          zip.openReadStream(entry, (failure, stream) => {
            if (failure) return damaged(failure);
            stream.on('error', damaged);
            stream.on('end', () => zip.readEntry());
            stream.resume();
          });
        });
        zip.readEntry();
      },
    );
  });
}
