import { parquetMetadataAsync, parquetReadObjects, type AsyncBuffer, type FileMetaData } from 'hyparquet';
import { compressors } from 'hyparquet-compressors';
import type { FileSource } from '../source';
import { damageOf, TableError, type TableBatch, type TableReader } from '../table';
import { cellOf } from './cells';

/** A row group is read at once, so it has to fit into memory. */
const MOST_GROUP_BYTES = 300_000_000;
const MOST_GROUP_ROWS = 2_000_000;
const MOST_METADATA_BYTES = 50_000_000;

/**
 * Reads an Apache Parquet file as a table, one row group at a time. Rows are counted as a spreadsheet would show them:
 * the first is row 2.
 */
export class ParquetReader implements TableReader {
  /** Rows that have been read. */
  private rows = 0;

  constructor(private readonly source: FileSource) {}

  async *batches(): AsyncGenerator<TableBatch> {
    const { source } = this;
    const file: AsyncBuffer = {
      byteLength: source.size,
      slice: async (from, to = source.size) => {
        const bytes = await source.slice(from, to);
        return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer;
      },
    };
    const metadata = await this.read(() => this.metadata(file));
    const columns = columnsOf(metadata);
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
        // One column at a time: read together, a second broken one would end the process by a failure that nobody awaits.
        const options = { file, metadata, compressors, columns: [name], rowStart: from, rowEnd };
        const rows = await this.read(() => parquetReadObjects(options));
        if (rows.length !== cells.length) throw new TableError(`after row ${from + 1}: the column ${name} is cut off`);
        rows.forEach((row, i) => cells[i]!.push(parquetCell(row[name], isZoned)));
      }
      yield { rows: cells.map((row, i) => ({ number: from + i + 2, cells: row })) };
      rowStart = this.rows = rowEnd;
    }
  }

  private async metadata(file: AsyncBuffer): Promise<FileMetaData> {
    const tail = Buffer.from(await file.slice(Math.max(0, file.byteLength - 8), file.byteLength));
    if (tail.length < 8 || tail.toString('latin1', 4) !== 'PAR1') throw new TableError('the Parquet file is cut off');
    if (tail.readUInt32LE(0) > Math.min(MOST_METADATA_BYTES, file.byteLength)) {
      throw new TableError('the description of the Parquet file is longer than the file');
    }
    return parquetMetadataAsync(file);
  }

  /** Whatever the reader stumbles over is a fault of the file. */
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
