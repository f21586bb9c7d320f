import type { Conventions } from '../../db';
import type { FileSource } from '../source';
import type { TableReader } from '../table';
import { plainBytes, type FileFormat } from './bytes';
import { CsvReader } from './csv';

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
