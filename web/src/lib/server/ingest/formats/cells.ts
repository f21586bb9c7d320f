/** A value of a typed format as the text that a CSV file would have. A moment without a zone stays without. */
export function cellOf(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return Number.isNaN(value) ? '' : String(value);
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? '' : momentOf(value);
  if (typeof value === 'object') return JSON.stringify(value);
  return String(value);
}

/** A day where the time is midnight, else the time as well. */
function momentOf(date: Date): string {
  const text = date.toISOString();
  return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.slice(0, 19);
}
