import { parquetMetadataAsync, parquetReadObjects, type AsyncBuffer, type FileMetaData } from 'hyparquet';
import { compressors } from 'hyparquet-compressors';
import type { FileSource } from '../source';
import { damageOf, TableError, type TableBatch, type TableReader } from '../table';
import { cellOf } from './cells';
import { checkWidth } from './width';

/** A row group is read at once, so it has to fit into memory. */
const MOST_GROUP_BYTES = 300_000_000;
const MOST_GROUP_ROWS = 2_000_000;
const MOST_METADATA_BYTES = 50_000_000;
const ROWS_PER_BATCH = 1000;

/**
 * Reads an Apache Parquet file as a table, one row group at a time. A few wrong bytes make the decoder count to billions or fill
 * the memory, so this runs in a thread that can be ended. Rows are counted as a spreadsheet would show them:
 * the first is row 2.
 */
export class ParquetReader implements TableReader {
  /** Rows that have been read. */
  private rows = 0;

  constructor(private readonly source: FileSource) {}

  async *batches(): AsyncGenerator<TableBatch> {
    await this.checkEnd();
    const { source } = this;
    const file: AsyncBuffer = {
      byteLength: source.size,
      slice: async (from, to = source.size) => {
        const bytes = await source.slice(from, to);
        return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer;
      },
    };
    const metadata = await this.read(() => parquetMetadataAsync(file));
    const columns = columnsOf(metadata);
    checkWidth(columns.length);
    yield { rows: [{ number: 1, cells: columns.map(({ name }) => name) }] };
    let rowStart = 0;
    for (const group of metadata.row_groups) {
      if (!(Number(group.num_rows) >= 0)) throw new TableError('a row group of the Parquet file has no number of rows');
      const rowEnd = rowStart + Number(group.num_rows);
      if (Number(group.total_byte_size) > MOST_GROUP_BYTES || rowEnd - rowStart > MOST_GROUP_ROWS) {
        throw new TableError(`a row group is too large: after row ${rowStart + 1} one has ${rowEnd - rowStart} rows`);
      }
      const from = rowStart;
      const cells: string[][] = Array.from({ length: rowEnd - from }, () => []);
      for (const { name, isZoned } of columns) {
        const rows = await this.read(() =>
          parquetReadObjects({ file, metadata, compressors, columns: [name], rowStart: from, rowEnd }),
        );
        if (rows.length !== cells.length) throw new TableError(`after row ${from + 1}: the column ${name} is cut off`);
        rows.forEach((row, i) => cells[i]!.push(parquetCell(row[name], isZoned)));
      }
      for (let at = 0; at < cells.length; at += ROWS_PER_BATCH) {
        const some = cells.slice(at, at + ROWS_PER_BATCH);
        yield { rows: some.map((row, i) => ({ number: from + at + i + 2, cells: row })) };
      }
      rowStart = this.rows = rowEnd;
    }
  }

  private async checkEnd(): Promise<void> {
    const { size } = this.source;
    const tail = await this.source.slice(Math.max(0, size - 8), size);
    if (tail.length < 8 || tail.toString('latin1', 4) !== 'PAR1') throw new TableError('the Parquet file is cut off');
    if (tail.readUInt32LE(0) > Math.min(MOST_METADATA_BYTES, size)) {
      throw new TableError('the description of the Parquet file is longer than the file');
    }
  }

  /** Any error of the reader is a fault of the file. */
  private async read<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (error) {
      if (error instanceof TableError) throw error;
      throw new TableError(`after row ${this.rows + 1}: the Parquet file is damaged: ${damageOf(error)}`);
    }
  }
}

interface ParquetColumn {
  name: string;
  /** Its times are moments rather than readings of a clock. */
  isZoned: boolean;
}

function columnsOf({ schema }: FileMetaData): ParquetColumn[] {
  return schema.slice(1).map(({ name, num_children, repetition_type, converted_type, logical_type }) => {
    if (num_children || repetition_type === 'REPEATED')
      throw new TableError(`the column ${name} holds no single values`);
    const isAdjusted = logical_type?.type === 'TIMESTAMP' ? logical_type.isAdjustedToUTC : undefined;
    return { name, isZoned: isAdjusted ?? converted_type?.startsWith('TIMESTAMP') ?? false };
  });
}

function parquetCell(value: unknown, isZoned: boolean): string {
  return isZoned && value instanceof Date && !Number.isNaN(value.getTime()) ? value.toISOString() : cellOf(value);
}
