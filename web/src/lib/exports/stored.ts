import { FORMATS } from './files';

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
  { name: 'fills', hasSymbol: true, hasMoment: false },
  { name: 'settlements', hasSymbol: true, hasMoment: false },
] as const;

/** The formats that something is exported in. */
export function formatsOf(what: string): string[] {
  return [...FORMATS, ...(what === 'events' ? ['ics'] : [])];
}

/** What a file is narrowed to; null for everything. */
export interface StoredScope {
  symbol: string | null;
  asof: string | null;
}

const LONG = ['chain', 'measures', 'bars', 'intraday-bars', 'prints'];

/** Whether a file takes so long that a worker writes it, to be fetched when it is there. */
export function isLong(what: string, { symbol, asof }: StoredScope): boolean {
  if (!LONG.includes(what)) return false;
  const hasMoment = EXPORT_CHOICES.some((choice) => choice.name === what && choice.hasMoment);
  return symbol === null || (hasMoment && asof === null);
}

/** What a worker is asked for. */
export function exportTask(what: string, format: string, { symbol, asof }: StoredScope) {
  return {
    kind: 'export' as const,
    file: `${what}.${format}`,
    ...(symbol ? { symbols: [symbol] } : {}),
    ...(asof ? { asof } : {}),
  };
}

/** Where a file is had at once. */
export function exportPath(what: string, format: string, { symbol, asof }: StoredScope): string {
  const query = new URLSearchParams();
  if (symbol) query.set('symbol', symbol);
  if (asof) query.set('asof', asof);
  return `/api/v1/exports/${what}.${format}${query.size > 0 ? `?${query}` : ''}`;
}
