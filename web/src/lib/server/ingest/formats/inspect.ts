import { eq } from 'drizzle-orm';
import { tables, type Conventions, type Queryable } from '../../db';
import { storable } from '../cells';
import { guessConventions, guessDelimiter, type Guess } from '../conventions';
import {
  columnsOf,
  HeaderError,
  missingColumns,
  nearestKind,
  plainName,
  type FileKind,
  type Matching,
} from '../../../layouts';
import type { FileSource } from '../source';
import { TableError, type TableReader, type TableRow } from '../table';
import { ApartReader } from './apart';
import { formatOf, headOf } from './bytes';
import { openTable, type Opening } from './open';
import { checkWidth } from './width';

const SAMPLE_ROWS = 200;
/** What is shown of a cell, and enough to tell what is in it. */
const LONGEST_SAMPLE = 1000;

/** What is known of a file before it is imported. */
export interface Inspected extends Opening {
  /** Names of the columns as they stand in the file. */
  header: string[];
  /** The first rows. */
  rows: TableRow[];
  /** How the columns are to be read; undefined where their names are ours. */
  matching: Matching | undefined;
  /** The kind that fits best, and what stands for our columns: by hand, as remembered, or guessed. */
  guess: Matching;
  /** Whether the guess is more than one: the names are ours, or were matched so before. */
  isSure: boolean;
  /** Questions about numbers and days that only a person can answer. */
  open: Guess['open'];
}

/**
 * Opens a file as a table. Plain texts (CSV) are read here, which is quickest; whatever a library decodes, in a thread of its own.
 */
export function readTable(source: FileSource, opening: Opening): TableReader | Promise<TableReader> {
  return opening.format === 'csv' ? openTable(source, opening) : new ApartReader(source, opening);
}

/**
 * Looks at the beginning of a file: its format, columns, first rows and conventions.
 *
 * @param settings what has been said by hand; it goes before what is remembered, and that before what is guessed
 * @throws TableError for a file that cannot be read, or that can be read in two ways and nobody said which
 */
export async function inspectFile(
  database: Queryable,
  source: FileSource,
  settings: { matching?: Matching; conventions?: Conventions } = {},
  options: { mayAsk?: boolean; signal?: AbortSignal } = {},
): Promise<Inspected> {
  const bytes = await headOf(source, options.signal);
  if (bytes.length === 0) throw new TableError('the file is empty');
  const format = formatOf(bytes);
  if ((format === 'xlsx' || format === 'parquet') && formatOf(await source.slice(0, 4)) !== format) {
    throw new TableError(`a packed ${format} file is not read: unpack it first`);
  }
  const head = bytes.toString('utf8');
  const delimiter = settings.conventions?.delimiter ?? (format === 'csv' ? guessDelimiter(head) : undefined);
  const opening: Opening = { format, head, conventions: delimiter ? { delimiter } : {} };
  const [first, ...rows] = await firstRows(source, opening, options.signal);
  if (!first) throw new TableError('the file is empty');
  const header = first.cells.map((name) => name.replace(/^\uFEFF/, '').trim());
  const remembered = settings.matching ? null : await recall(database, header);
  const matching = settings.matching ?? remembered?.matching;
  const isByName = missingColumns(nearestKind(header.map(plainName)), header.map(plainName)).length === 0;
  const guess = matching ?? guessMatching(header);
  const ours = header.map((name) => guess.columns[name] ?? null);
  const told = guessConventions(
    ours,
    rows.map((row) => row.cells),
  );
  const conventions = {
    ...opening.conventions,
    ...told.conventions,
    ...remembered?.conventions,
    ...settings.conventions,
  };
  const open = told.open.filter(({ convention }) => conventions[convention] === undefined);
  if (open[0] && !options.mayAsk) {
    const { convention, column, example } = open[0];
    const ways = convention === 'dates' ? 'dates=dmy or dates=mdy' : 'decimal=. or decimal=,';
    throw new TableError(`column ${column}: “${example}” can be read in two ways; say ${ways}`);
  }
  const isSure = matching !== undefined || isByName;
  return { ...opening, header, rows, matching, guess, isSure, conventions, open };
}

async function firstRows(source: FileSource, opening: Opening, signal: AbortSignal | undefined): Promise<TableRow[]> {
  const rows: TableRow[] = [];
  for await (const batch of new ApartReader(source, opening, { longestCell: LONGEST_SAMPLE, signal }).batches()) {
    if (rows.length === 0 && batch.rows[0]) checkWidth(batch.rows[0].cells.length);
    rows.push(...batch.rows.slice(0, SAMPLE_ROWS));
    if (rows.length > SAMPLE_ROWS) break;
  }
  return rows;
}

/** Other names that our columns go by in the trade. */
const ALSO: Record<string, readonly string[]> = {
  asof: ['as_of', 'timestamp', 'quote_time', 'quote_datetime', 'datetime', 'snapshot', 'quote_date', 'time'],
  symbol: ['underlying', 'underlying_symbol', 'ticker', 'root', 'instrument'],
  expiry: ['expiration', 'expiration_date', 'expiry_date', 'exp_date', 'exp', 'maturity'],
  strike: ['strike_price', 'k'],
  side: ['type', 'option_type', 'right', 'call_put', 'put_call', 'cp'],
  bid: ['bid_price', 'best_bid'],
  ask: ['ask_price', 'best_ask', 'offer'],
  bid_size: ['bidsize', 'bid_qty', 'bid_quantity'],
  ask_size: ['asksize', 'ask_qty', 'ask_quantity', 'offer_size'],
  last: ['last_price', 'trade_price'],
  volume: ['vol', 'trade_volume', 'total_volume'],
  open_interest: ['oi', 'openinterest', 'open_int'],
  underlying_price: ['spot', 'spot_price', 'underlying_last', 'price_underlying', 'stock_price'],
  settlement: ['settle', 'am_pm'],
  date: ['day', 'session'],
  ex_date: ['exdate', 'ex_dividend_date', 'date'],
  amount: ['dividend', 'cash'],
  price: ['trade_price', 'last', 'cost'],
  size: ['quantity', 'qty', 'volume', 'contracts'],
  quantity: ['qty', 'contracts', 'size'],
  opened: ['date', 'trade_date', 'open_date'],
  days: ['tenor', 'tenor_days', 'term'],
  start: ['date', 'time', 'datetime'],
  title: ['name', 'event', 'summary', 'description'],
  contract: ['contract_symbol', 'option_symbol', 'osi', 'option'],
};

/** The kind that a header fits best by our names and by others of the trade, and what stands for what. */
export function guessMatching(header: readonly string[]): Matching {
  const match = (kind: FileKind): Record<string, string> => {
    const found: Record<string, string> = {};
    const taken = new Set<string>();
    const take = (name: string, ours: string) => {
      if (found[name] !== undefined || taken.has(ours)) return;
      found[name] = ours;
      taken.add(ours);
    };
    const known = columnsOf(kind);
    for (const name of header) if (known.includes(plainName(name))) take(name, plainName(name));
    for (const ours of known) {
      for (const other of ALSO[ours] ?? []) {
        for (const name of header) if (plainName(name) === other) take(name, ours);
      }
    }
    return found;
  };
  const names = header.map(plainName);
  const byName = nearestKind(names);
  if (missingColumns(byName, names).length === 0) return { kind: byName, columns: match(byName) };
  const kinds = (Object.keys(ORDER) as FileKind[]).map((kind) => {
    const columns = match(kind);
    return { kind, columns, missing: missingColumns(kind, Object.values(columns)).length };
  });
  const { kind, columns } = kinds.sort(
    (a, b) =>
      Number(a.missing > 0) - Number(b.missing > 0) ||
      Object.keys(b.columns).length - Object.keys(a.columns).length ||
      ORDER[a.kind] - ORDER[b.kind],
  )[0]!;
  return { kind, columns };
}

/** Which kind goes first where several fit as well. */
const ORDER: Record<FileKind, number> = {
  chain: 0,
  bars: 1,
  prints: 2,
  underlyings: 3,
  dividends: 4,
  rates: 5,
  events: 6,
  positions: 7,
  fills: 8,
  settlements: 9,
};

const { columnMatches } = tables;
const headerKey = (header: readonly string[]) =>
  storable(header.map((name) => name.trim()).join('\u001f')).slice(0, 2000);

async function recall(database: Queryable, header: readonly string[]) {
  const [row] = await database
    .select()
    .from(columnMatches)
    .where(eq(columnMatches.header, headerKey(header)));
  if (!row) return null;
  return { matching: { kind: row.kind as FileKind, columns: row.columns }, conventions: row.conventions };
}

/** Remembers how a header was matched, for the next file that has the same. */
export async function rememberMatching(
  database: Queryable,
  header: readonly string[],
  { kind, columns }: Matching,
  conventions: Conventions,
): Promise<void> {
  const row = { header: headerKey(header), kind, columns: { ...columns }, conventions, used: new Date() };
  await database.insert(columnMatches).values(row).onConflictDoUpdate({ target: columnMatches.header, set: row });
}

/** Whether a matching has all that its kind needs; what is missing is named. */
export function checkMatching({ kind, columns }: Matching): void {
  const missing = missingColumns(kind, Object.values(columns));
  if (missing.length > 0) throw new HeaderError(`for a ${kind} file nothing stands for ${missing.join(', ')}`);
}
