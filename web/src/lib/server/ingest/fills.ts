import Big from 'big.js';
import { and, between, eq, inArray, isNull, ne, or, sql } from 'drizzle-orm';
import { tables } from '../db';
import { imageOf } from '../book';
import { TermsStore } from '../market/terms';
import {
  CellError,
  choice,
  optionalText,
  requiredDay,
  requiredInstant,
  requiredNumber,
  requiredText,
  type Cells,
} from './cells';
import { SETTLEMENT_WORDS, SIDES } from './chain';
import type { Run } from './run';
import type { Sink, Target } from './sinks';

const { books, bookPositions, fills } = tables;

/** The book of rows that name none. */
const USUAL_BOOK = 'Main';
const ROWS_PER_WRITE = 1000;
/** Files of books and positions write one after the other, so that each name is made once. */
const FILLS_LOCK = 4899;

type FillRow = Omit<Known, 'positionId'> & { book: string; position: string };

/** A number as it stands there, digit by digit. */
function decimal(cells: Cells, column: string, range = {}): string {
  requiredNumber(cells, column, range);
  return new Big(cells(column)!).toFixed();
}

/** A row of a `fills` file, or of a `positions` file, whose lots are fills of the moment at which they were opened. */
function parseFill(cells: Cells, kind: 'positions' | 'fills', time: number): FillRow {
  const isOption = Boolean(cells('expiry'));
  const quantity = decimal(cells, 'quantity');
  if (new Big(quantity).eq(0)) throw new CellError('quantity', cells('quantity') ?? '', 'is zero');
  const symbol = requiredText(cells, 'symbol');
  const tag = optionalText(cells, 'tag') ?? '';
  const expiry = isOption ? requiredDay(cells, 'expiry') : '';
  if (isOption && requiredDay(cells, 'expiry') < new Date(time).toISOString().slice(0, 10))
    throw new CellError('expiry', expiry, 'is before the trade');
  return {
    ...{ symbol, expiry, tag, quantity },
    time: new Date(time),
    strike: isOption ? decimal(cells, 'strike', { above: 0 }) : '0',
    side: isOption ? choice(cells, 'side', SIDES) : '',
    settlement: isOption && cells('settlement') ? choice(cells, 'settlement', SETTLEMENT_WORDS) : '',
    price: decimal(cells, 'price', { min: 0 }),
    fee: kind === 'fills' && cells('fee') ? decimal(cells, 'fee') : '0',
    book: (kind === 'fills' && optionalText(cells, 'book')) || USUAL_BOOK,
    position: (kind === 'fills' && optionalText(cells, 'position')) || tag || symbol,
  };
}

/** What a trade is known again by: of a `positions` file wherever it is, of a `fills` file in its position. */
function keyOf(kind: 'positions' | 'fills', row: Known): string {
  const { time, symbol, expiry, settlement, strike, side, quantity, price, tag, fee, positionId } = row;
  const numbers = [strike, quantity, price, ...(kind === 'fills' ? [fee] : [])].map((text) => new Big(text).toFixed());
  return [
    ...[time.getTime(), symbol, expiry, settlement, side, tag, ...numbers],
    ...(kind === 'fills' ? [positionId] : []),
  ].join('\u0000');
}

type Known = Pick<
  typeof fills.$inferSelect,
  'time' | 'symbol' | 'expiry' | 'settlement' | 'strike' | 'side' | 'quantity' | 'price' | 'tag' | 'fee' | 'positionId'
>;

/**
 * Trades of `fills` and `positions` files: books and positions that they name are made where they are not there, and each row is
 * booked once, however often its file comes. All of it stands in the journals of its books.
 */
export function fillSink({ session }: Target, run: Run, kind: 'positions' | 'fills'): Sink {
  const terms = new TermsStore(session);
  const seen = new Map<string, number>();
  const bookIds = new Map<string, number>();
  const positionIds = new Map<string, number>();
  const { importId } = run;
  let waiting: FillRow[] = [];
  let isLocked = false;

  /** How often trades like some are booked already, those of this file apart. */
  const heldAmong = async (rows: readonly Known[]): Promise<Map<string, number>> => {
    const times = rows.map(({ time }) => time.getTime());
    const { positionId: ofPosition, time, symbol, expiry, settlement, strike, side, quantity, price, tag, fee } = fills;
    const known = await session
      .select({ positionId: ofPosition, time, symbol, expiry, settlement, strike, side, quantity, price, tag, fee })
      .from(fills)
      .where(
        and(
          between(time, new Date(Math.min(...times)), new Date(Math.max(...times))),
          inArray(symbol, [...new Set(rows.map((row) => row.symbol))]),
          or(isNull(fills.importId), ne(fills.importId, importId)),
        ),
      );
    const counts = new Map<string, number>();
    for (const row of known) {
      const key = keyOf(kind, row);
      counts.set(key, (counts.get(key) ?? 0) + 1);
    }
    return counts;
  };
  const bookId = async (name: string, symbol: string): Promise<number> => {
    const known = bookIds.get(name);
    if (known !== undefined) return known;
    const [held] = await session.select({ id: books.id }).from(books).where(eq(books.name, name));
    const made = async () => {
      const currency = terms.underlying(symbol).currency ?? 'ICR';
      const [row] = await session.insert(books).values({ name, currency, importId }).returning({ id: books.id });
      return row!.id;
    };
    const id = held?.id ?? (await made());
    bookIds.set(name, id);
    return id;
  };
  const positionId = async (row: { book: string; position: string; symbol: string }): Promise<number> => {
    const ofBook = await bookId(row.book, row.symbol);
    const key = `${ofBook} ${row.position}`;
    const known = positionIds.get(key);
    if (known !== undefined) return known;
    const which = and(eq(bookPositions.bookId, ofBook), eq(bookPositions.name, row.position));
    const [held] = await session.select({ id: bookPositions.id }).from(bookPositions).where(which);
    const made = async () => {
      const [made] = await session
        .insert(bookPositions)
        .values({ bookId: ofBook, symbol: row.symbol, name: row.position, importId })
        .returning({ id: bookPositions.id });
      return made!.id;
    };
    const id = held?.id ?? (await made());
    positionIds.set(key, id);
    return id;
  };
  const write = async () => {
    if (waiting.length === 0) return;
    if (!isLocked) {
      await session.execute(sql`SELECT pg_advisory_xact_lock(${FILLS_LOCK})`);
      isLocked = true;
    }
    const rows: Known[] = [];
    for (const { book, position, ...values } of waiting) {
      const ids = { book, position, symbol: values.symbol };
      rows.push({ ...values, positionId: await positionId(ids) });
    }
    const held = await heldAmong(rows);
    const fresh = rows.filter((row) => {
      const key = keyOf(kind, row);
      const occurrence = (seen.get(key) ?? 0) + 1;
      seen.set(key, occurrence);
      return occurrence > (held.get(key) ?? 0);
    });
    if (fresh.length > 0) await session.insert(fills).values(fresh.map((row) => ({ ...row, importId })));
    run.count({ added: fresh.length, changed: 0, unchanged: rows.length - fresh.length });
    waiting = [];
  };
  return {
    async add(_, cells, fault) {
      if (fault) throw fault;
      const symbol = requiredText(cells, 'symbol');
      if (!(await terms.load(symbol)))
        throw new CellError('symbol', symbol, 'is no known underlying: import an underlyings file with it first');
      const time = requiredInstant(cells, kind === 'fills' ? 'time' : 'opened', terms.calendar(symbol));
      waiting.push(parseFill(cells, kind, time));
      if (waiting.length >= ROWS_PER_WRITE) await write();
    },
    pause: async () => undefined,
    async end() {
      await write();
      await note(session, importId);
    },
  };
}

/** Writes what an import has added into the journals of its books, so that it can be undone there as well. */
async function note(session: Target['session'], importId: number): Promise<void> {
  const row = (table: string, image = imageOf(sql`t`)) =>
    sql`jsonb_build_object('table', ${table}::text, 'id', t.id, 'before', NULL, 'after', ${image})`;
  await session.execute(sql`
    INSERT INTO book_changes (book_id, words, rows, import_id)
    SELECT book_id, count(*) FILTER (WHERE rank = 2) || ' fills of a file', jsonb_agg(image ORDER BY rank, id), ${importId}
    FROM (
      SELECT t.id AS book_id, 0 AS rank, t.id, ${row('books')} AS image FROM books t WHERE t.import_id = ${importId}
      UNION ALL
      SELECT t.book_id, 1, t.id, ${row('book_positions')} FROM book_positions t WHERE t.import_id = ${importId}
      UNION ALL
      SELECT p.book_id, 2, t.id, ${row('fills')} FROM fills t JOIN book_positions p ON p.id = t.position_id
        WHERE t.import_id = ${importId}
    ) made GROUP BY book_id`);
}

/** Takes back what an import has booked, and the books and positions that it made and nobody else has used. */
export async function unbookImport(session: Target['session'], importId: number): Promise<void> {
  await session.execute(sql`DELETE FROM fills WHERE import_id = ${importId}`);
  await session.execute(sql`
    DELETE FROM book_positions p WHERE import_id = ${importId} AND NOT EXISTS (SELECT FROM fills f WHERE f.position_id = p.id)`);
  await session.execute(sql`
    DELETE FROM books b WHERE import_id = ${importId}
      AND NOT EXISTS (SELECT FROM book_positions p WHERE p.book_id = b.id)
      AND NOT EXISTS (SELECT FROM book_cash c WHERE c.book_id = b.id)`);
  await session.execute(sql`DELETE FROM book_changes WHERE import_id = ${importId}`);
}
