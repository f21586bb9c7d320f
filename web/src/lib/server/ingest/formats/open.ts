import type { Conventions } from '../../db';
import type { FileSource } from '../source';
import { TableError, type TableReader } from '../table';
import { plainBytes, type FileFormat } from './bytes';
import { CsvReader } from './csv';

/** No table has more columns; what is wider is something else, and everything that is done by column takes its time. */
export const MOST_COLUMNS = 512;

/** How a file is opened. */
export interface Opening {
  format: FileFormat;
  head: string;
  conventions: Conventions;
}

/** Opens a file as a table, in this thread. Libraries are loaded for the format that needs them. */
export async function openTable(source: FileSource, { format, head, conventions }: Opening): Promise<TableReader> {
  if (format === 'parquet') return new (await import('./parquet')).ParquetReader(source);
  if (format === 'xlsx') return new (await import('./xlsx')).XlsxReader(source);
  if (format === 'json') return new (await import('./json')).JsonReader(plainBytes(source), head);
  if (format === 'ics') return new (await import('./ics')).IcsReader(plainBytes(source));
  return new CsvReader(plainBytes(source), conventions.delimiter ?? ',');
}

/** Refuses a header that no table has. @throws TableError with how many columns it names */
export function checkWidth(columns: number, hasMore = false): void {
  if (columns > MOST_COLUMNS)
    throw new TableError(
      `the header has ${columns}${hasMore ? ' or more' : ''} columns; at most ${MOST_COLUMNS} are read`,
    );
}
