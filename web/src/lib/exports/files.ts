import { answerTo } from '$lib/state/api';
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
  const body = JSON.stringify({ columns: columns.map(({ name, type }) => ({ name, type })), rows });
  return (await answerTo(`/exports/${name}.${format}`, { method: 'POST', body })).blob();
}

/** Hands a file to whoever sits before the screen. */
export function save(file: Blob | string, name: string): void {
  const url = typeof file === 'string' ? file : URL.createObjectURL(file);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  if (typeof file !== 'string') URL.revokeObjectURL(url);
}
