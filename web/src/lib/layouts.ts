import { NUMBER_COLUMNS } from '@umwelt/core';

/** The kinds of files that can be imported, in the order in which several files are taken. */
export const FILE_KINDS = [
  'underlyings',
  'rates',
  'dividends',
  'events',
  'bars',
  'chain',
  'prints',
  'positions',
  'fills',
  'settlements',
] as const;
export type FileKind = (typeof FILE_KINDS)[number];

/** How the cells of a column are read. */
export type ColumnType = 'text' | 'number' | 'day' | 'instant';

interface Layout {
  required: readonly string[];
  optional: readonly string[];
}

/** Columns that a 21-character contract symbol stands for. */
const CONTRACT_COLUMNS = ['symbol', 'expiry', 'strike', 'side'];
/** The column that holds such a symbol. */
export const CONTRACT = 'contract';

/** The columns of each kind of file, as in docs/formats.md. */
export const LAYOUTS: Record<FileKind, Layout> = {
  underlyings: {
    required: ['symbol', 'name', 'kind'],
    optional: ['currency', 'multiplier', 'exercise', 'family', 'family_ratio', 'calendar', 'root', 'expires', 'tick'],
  },
  rates: { required: ['date', 'currency', 'days', 'rate'], optional: [] },
  dividends: { required: ['symbol', 'ex_date', 'amount'], optional: ['kind'] },
  events: { required: ['start', 'title'], optional: ['symbol', 'kind'] },
  bars: { required: ['symbol', 'date', 'open', 'high', 'low', 'close'], optional: ['volume'] },
  chain: {
    required: ['asof', 'symbol', 'expiry', 'strike', 'side', 'bid', 'ask'],
    optional: ['bid_size', 'ask_size', 'last', 'volume', 'open_interest', 'underlying_price', 'settlement'],
  },
  prints: {
    required: ['time', 'symbol', 'expiry', 'strike', 'side', 'price', 'size'],
    optional: ['settlement', 'group'],
  },
  positions: {
    required: ['symbol', 'quantity', 'price', 'opened'],
    optional: ['expiry', 'strike', 'side', 'settlement', 'tag'],
  },
  fills: {
    required: ['time', 'symbol', 'quantity', 'price'],
    optional: ['book', 'position', 'expiry', 'settlement', 'strike', 'side', 'fee', 'tag'],
  },
  settlements: { required: ['symbol', 'expiry', 'settlement', 'price'], optional: [] },
};

const TYPES: Record<string, ColumnType> = {
  asof: 'instant',
  start: 'instant',
  time: 'instant',
  opened: 'instant',
  expiry: 'day',
  ex_date: 'day',
  date: 'day',
  expires: 'day',
  ...Object.fromEntries(
    [
      ...NUMBER_COLUMNS,
      'open',
      'high',
      'low',
      'close',
      'multiplier',
      'family_ratio',
      'tick',
      'days',
      'rate',
      'amount',
      'price',
      'size',
      'quantity',
      'fee',
    ].map((name) => [name, 'number' as const]),
  ),
};

/** How the cells of one of our columns are read. */
export function columnType(column: string): ColumnType {
  return TYPES[column] ?? 'text';
}

/** All columns of a kind of file. */
export function columnsOf(kind: FileKind): string[] {
  const own = [...LAYOUTS[kind].required, ...LAYOUTS[kind].optional];
  return hasContract(kind) ? [...own, CONTRACT] : own;
}

/** Whether one column may hold symbol, expiry, strike and side together. */
function hasContract(kind: FileKind): boolean {
  return CONTRACT_COLUMNS.every((name) => [...LAYOUTS[kind].required, ...LAYOUTS[kind].optional].includes(name));
}

/** A header row matched to a kind of file. */
export interface MatchedHeader {
  kind: FileKind;
  /** Position of each known column that the file has. */
  position: Readonly<Record<string, number>>;
  /** Columns that no layout knows; they are kept out and reported. */
  ignored: string[];
}

/** Thrown for a file whose header fits no kind. */
export class HeaderError extends Error {}

/** A name of a column as it is compared: lower case, no white space around, underscores inside. */
export function plainName(name: string): string {
  return name
    .replace(/^\uFEFF/, '')
    .trim()
    .toLowerCase()
    .replace(/[\s-]+/g, '_');
}

/** What a kind of file still lacks. */
export function missingColumns(kind: FileKind, names: readonly string[]): string[] {
  const isCovered = (name: string) =>
    names.includes(name) ||
    (hasContract(kind) && names.includes(CONTRACT) && CONTRACT_COLUMNS.includes(name)) ||
    // Bars of a day have a date, bars inside a day a time.
    (kind === 'bars' && name === 'date' && names.includes('time'));
  return LAYOUTS[kind].required.filter((name) => !isCovered(name));
}

/** The kind that some names fit best: the fewest required columns missing, of those the one with most. */
export function nearestKind(names: readonly string[]): FileKind {
  const share = (kind: FileKind) => missingColumns(kind, names).length / LAYOUTS[kind].required.length;
  return [...FILE_KINDS].sort(
    (a, b) => share(a) - share(b) || LAYOUTS[b].required.length - LAYOUTS[a].required.length,
  )[0]!;
}

/** How a file's columns are to be read, where its names are not ours. */
export interface Matching {
  kind: FileKind;
  /** Ours by theirs. */
  columns: Readonly<Record<string, string>>;
}

/**
 * Tells the kind of a file from its header: the layout with the most required columns, all of them there. Names match
 * case-blind, in any order.
 *
 * @param matching how the columns were matched by hand; without it the names are ours
 * @throws HeaderError naming what is missing for the nearest kind, or a column that stands twice
 */
export function matchHeader(cells: readonly string[], matching?: Matching): MatchedHeader {
  const plain = cells.map(plainName);
  const names = matching ? cells.map((cell) => matching.columns[cell.trim().replace(/^\uFEFF/, '')] ?? '') : plain;
  const repeated = names.find((name, i) => name !== '' && names.indexOf(name) !== i);
  if (repeated) throw new HeaderError(`row 1: the column ${repeated} stands twice`);
  const kind = matching?.kind ?? nearestKind(names);
  const missing = missingColumns(kind, names);
  if (missing.length > 0) {
    const isNothingLikeIt = !matching && missing.length === LAYOUTS[kind].required.length;
    throw new HeaderError(
      isNothingLikeIt
        ? `row 1: no header of a known file; a chain file has ${LAYOUTS.chain.required.join(', ')}`
        : `row 1: for a ${kind} file the header lacks ${missing.join(', ')}`,
    );
  }
  const known = [...columnsOf(kind), ...(kind === 'bars' ? ['time'] : [])];
  return {
    kind,
    position: Object.fromEntries(names.flatMap((name, i) => (known.includes(name) ? [[name, i]] : []))),
    ignored: cells.filter((_, i) => plain[i] !== '' && !known.includes(names[i]!)),
  };
}
