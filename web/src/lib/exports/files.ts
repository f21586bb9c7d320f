import { respond } from '$lib/api/call';
import type { DataTable } from '$lib/tables/data-table';

/** The formats of every table. */
export const FORMATS = ['csv', 'json', 'xlsx', 'parquet'] as const;
export type Format = (typeof FORMATS)[number];

/**
 * Has a table written as a file, by the same code that writes those of the database.
 *
 * @throws Error with what the server says is wrong
 */
export async function fileOf({ columns, rows }: DataTable, name: string, format: Format): Promise<Blob> {
  const body = { columns: columns.map(({ name, type }) => ({ name, type })), rows };
  return (await respond('POST /exports/{file}', { path: { file: `${name}.${format}` }, body })).blob();
}

/** Downloads a file to the user's machine. */
export function save(file: Blob | string, name: string): void {
  const url = typeof file === 'string' ? file : URL.createObjectURL(file);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  if (typeof file !== 'string') URL.revokeObjectURL(url);
}
