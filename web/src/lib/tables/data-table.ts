/** A cell as a file holds it: exact, and NaN or null where there is nothing. */
export type DataCell = string | number | null;

export interface DataColumn {
  /** In a file: small letters and underscores, as in the layouts of files. */
  name: string;
  /** On the screen; the name where there is none. */
  label?: string;
  type: 'text' | 'number' | 'day' | 'instant';
  /** How numbers are written on the screen. */
  write?: (value: number) => string;
}

/** Figures of a view: exact values, and how they are written. Vols, odds and shares are decimals. */
export interface DataTable {
  columns: DataColumn[];
  rows: DataCell[][];
}

/** Columns of numbers that are written in the same way. */
export function numberColumns(names: readonly string[], write?: (value: number) => string): DataColumn[] {
  return names.map((name) => ({ name, label: name.replaceAll('_', ' '), type: 'number', write }));
}

/** The cells as they are read on the screen. */
export function textsOf({ columns, rows }: DataTable): string[][] {
  const usual = (value: number) => (Number.isFinite(value) ? String(value) : '');
  return rows.map((row) =>
    row.map((cell, i) => (typeof cell === 'number' ? (columns[i]!.write ?? usual)(cell) : (cell ?? ''))),
  );
}

/** The heads as they are read on the screen. */
export function headsOf({ columns }: DataTable): string[] {
  return columns.map(({ name, label }) => label ?? name);
}

/** A table as it is pasted elsewhere: lines of cells between tabs. */
export function tabbed(table: DataTable): string {
  return [headsOf(table), ...textsOf(table)].map((row) => row.join('\t')).join('\n');
}
