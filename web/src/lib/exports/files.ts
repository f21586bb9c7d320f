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
  const response = await fetch(`/api/v1/exports/${name}.${format}`, { method: 'POST', body }).catch(() => {
    throw new Error('The server does not answer. Is Umwelt still running?');
  });
  if (response.ok) return response.blob();
  const problem = (await response.json().catch(() => null)) as { detail?: string } | null;
  throw new Error(problem?.detail ?? `The server answered ${response.status}.`);
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
