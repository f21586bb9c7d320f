import type { QuoteLines } from '@umwelt/core';

/** A file that cannot be read as a table: says from where on, and why. */
export class TableError extends Error {}

/** The message of a library that failed on a file; where the library itself broke, only that it did. */
export function damageOf(error: unknown): string {
  // A TypeError or RangeError inside the library tells the author of the file nothing.
  const isTold = error instanceof Error && !(error instanceof TypeError || error instanceof RangeError);
  return isTold ? error.message.slice(0, 200) : 'it is not what it says it is';
}

/** One row that is not blank. The cells of all formats are texts, as a CSV file would have them. */
export interface TableRow {
  /** As a spreadsheet shows it: the header is row 1. */
  number: number;
  cells: string[];
}

/** What a reader hands on: rows, or quotes as columns, to be taken before it goes on. */
export type TableBatch = { rows: TableRow[] } | { quotes: QuoteLines };

/** A file read as a table. The first batch is the header alone. */
export interface TableReader {
  /** Set after the header by whoever wants plain quote lines as columns, where the format has them. */
  quotes?: QuoteLines | null;
  batches(): AsyncGenerator<TableBatch>;
}
