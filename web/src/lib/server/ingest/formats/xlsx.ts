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
    const parts = await openParts(this.source);
    const workbook = new PartsReader(parts);
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

/** How a part of an archive is read, by its name. */
type Parts = ReadonlyMap<string, () => Promise<Readable>>;

/** What the library's reader does with a part. */
interface PartParsers {
  _parseRels(part: Readable): Promise<void>;
  _parseWorkbook(part: Readable): Promise<void>;
  _parseStyles(part: Readable): Promise<void>;
  _parseSharedStrings(part: Readable): AsyncIterable<unknown>;
  _parseWorksheet(part: AsyncIterable<Buffer>, number: string): Iterable<{ eventType: string; value: unknown }>;
  workbookRels?: readonly { Id: string; Target: string }[];
  model?: { sheets?: readonly { rId: string }[] };
}

const SHEET = /^xl\/worksheets\/sheet(\d+)\.xml$/;

/**
 * The library's reader over parts that are looked up by name, and read in the order in which they need each other. Its own goes
 * through an archive as it comes, and loses the last part of one in some two hundred: a good workbook was refused as damaged.
 */
class PartsReader extends ExcelJS.stream.xlsx.WorkbookReader {
  constructor(private readonly parts: Parts) {
    super(Readable.from([]), {
      entries: 'emit',
      sharedStrings: 'cache',
      styles: 'cache',
      hyperlinks: 'ignore',
      worksheets: 'emit',
    });
  }

  override async *parse(): AsyncGenerator<{ eventType: string; value: unknown }> {
    const reader = this as unknown as PartParsers;
    const part = async (name: string) => this.parts.get(name)?.();
    const rels = await part('xl/_rels/workbook.xml.rels');
    if (rels) await reader._parseRels(rels);
    const workbook = await part('xl/workbook.xml');
    if (!workbook) throw new TableError('the archive is no workbook: it has no xl/workbook.xml');
    await reader._parseWorkbook(workbook);
    const strings = await part('xl/sharedStrings.xml');
    if (strings) for await (const _ of reader._parseSharedStrings(strings)) void _;
    const styles = await part('xl/styles.xml');
    if (styles) await reader._parseStyles(styles);
    for (const name of this.sheets(reader)) {
      const sheet = await part(name);
      if (sheet) yield* reader._parseWorksheet(sheet, SHEET.exec(name)![1]!);
    }
  }

  /** Parts of the sheets: in the order of the workbook, then what it does not name. */
  private sheets({ model, workbookRels = [] }: PartParsers): string[] {
    const targets = new Map(workbookRels.map(({ Id, Target }) => [Id, Target]));
    const named = (model?.sheets ?? []).flatMap(({ rId }) => {
      const target = targets.get(rId);
      return target === undefined ? [] : [target.startsWith('/') ? target.slice(1) : `xl/${target}`];
    });
    return [...new Set([...named, ...this.parts.keys()])].filter((name) => SHEET.test(name));
  }
}

/** Opens an archive; refuses those that unpack to more than they say or than memory holds, before anything is read from them. */
function openParts(source: FileSource): Promise<Parts> {
  class Ranges extends yauzl.RandomAccessReader {
    override _readStreamForRange(start: number, end: number): Readable {
      const pieces = async function* () {
        const STEP = 1 << 20;
        for (let at = start; at < end; at += STEP) yield await source.slice(at, Math.min(end, at + STEP));
      };
      return Readable.from(pieces());
    }
  }
  return new Promise((resolve, reject) => {
    const damaged = (error: Error) =>
      reject(error instanceof TableError ? error : new TableError(`the workbook is damaged: ${damageOf(error)}`));
    yauzl.fromRandomAccessReader(
      new Ranges(),
      source.size,
      { lazyEntries: true, validateEntrySizes: true, autoClose: false },
      (error, zip) => {
        if (error) return damaged(error);
        const parts = new Map<string, () => Promise<Readable>>();
        const open = (entry: yauzl.Entry) =>
          new Promise<Readable>((take, refuse) => {
            zip.openReadStream(entry, (failure, stream) => (failure ? refuse(failure) : take(stream)));
          });
        let total = 0;
        zip.on('error', damaged);
        zip.on('end', () => resolve(parts));
        zip.on('entry', (entry: yauzl.Entry) => {
          const { fileName, compressedSize, uncompressedSize } = entry;
          total += uncompressedSize;
          const isHeld = !fileName.startsWith('xl/worksheets/') && !fileName.startsWith('xl/media/');
          const shrinks = uncompressedSize > SMALL_PART && uncompressedSize > MOST_SHRINKING * compressedSize;
          if (total > MOST_UNPACKED || shrinks || (isHeld && uncompressedSize > MOST_HELD)) {
            return damaged(new TableError(`the workbook unpacks to too much: ${fileName}, ${uncompressedSize} bytes`));
          }
          parts.set(fileName, () => open(entry));
          // Unpacked once for its size alone: an archive may say less than there is.
          open(entry).then((stream) => {
            stream.on('error', damaged);
            stream.on('end', () => zip.readEntry());
            stream.resume();
          }, damaged);
        });
        zip.readEntry();
      },
    );
  });
}
