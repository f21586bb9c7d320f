/** What can be exported, and what it can be narrowed to. */
export const EXPORT_CHOICES = [
  { name: 'chain', hasSymbol: true, hasMoment: true },
  { name: 'measures', hasSymbol: true, hasMoment: true },
  { name: 'bars', hasSymbol: true, hasMoment: false },
  { name: 'intraday-bars', hasSymbol: true, hasMoment: false },
  { name: 'prints', hasSymbol: true, hasMoment: false },
  { name: 'underlyings', hasSymbol: false, hasMoment: false },
  { name: 'rates', hasSymbol: false, hasMoment: false },
  { name: 'dividends', hasSymbol: true, hasMoment: false },
  { name: 'events', hasSymbol: true, hasMoment: false },
  { name: 'positions', hasSymbol: true, hasMoment: false },
] as const;

/** The formats that something is exported in. */
export function formatsOf(what: string): string[] {
  return ['csv', 'json', 'xlsx', 'parquet', ...(what === 'events' ? ['ics'] : [])];
}

/** Where a file is had. */
export function exportPath(
  what: string,
  format: string,
  { symbol, asof }: { symbol: string | null; asof: string | null },
): string {
  const query = new URLSearchParams();
  if (symbol) query.set('symbol', symbol);
  if (asof) query.set('asof', asof);
  return `/api/v1/exports/${what}.${format}${query.size > 0 ? `?${query}` : ''}`;
}
