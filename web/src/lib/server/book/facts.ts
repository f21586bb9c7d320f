import Big from 'big.js';
import {
  calendarById,
  expiryInstant,
  instantOf,
  isUnderlying,
  type BookFill,
  type Calendar,
  type ContractId,
  type LedgerFacts,
  type OptionId,
  type Settlement,
  type TermsChange,
} from '@umwelt/core';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { heldExpiry } from '../market/queries';
import type { Underlying } from '../market/terms';

const { bars, dividends, settlements, underlyings } = tables;

const ONE = new Big(1);
const UNKNOWN = calendarById(null);
const NO_CHANGES: readonly TermsChange[] = [];

/** What a unit of price of a contract is in money: the multiplier of an option and of a future, 1 of what else can be held. */
export function multiplierOf(underlying: Underlying | undefined, contract: ContractId): Big {
  if (!underlying || (isUnderlying(contract) && underlying.kind !== 'future')) return ONE;
  return new Big(underlying.multiplier);
}

/** What is known of some underlyings beside their quotes: terms, changes of terms, and what expiries settled at. */
export class BookFacts implements LedgerFacts {
  private readonly ends = new Map<string, number>();

  private constructor(
    readonly underlyings: ReadonlyMap<string, Underlying>,
    private readonly changes: ReadonlyMap<string, readonly TermsChange[]>,
    private readonly settled: ReadonlyMap<string, Big>,
    private readonly calendars: ReadonlyMap<string, Calendar>,
  ) {}

  /** @param contracts that are held at some time */
  static async read(session: Queryable, contracts: readonly ContractId[]): Promise<BookFacts> {
    const symbols = [...new Set(contracts.map(({ symbol }) => symbol))];
    if (symbols.length === 0) return new BookFacts(new Map(), new Map(), new Map(), new Map());
    const days = [...new Set(contracts.flatMap((one) => (isUnderlying(one) ? [] : [one.expiry])))];
    const [known, paid, barRows, said] = await Promise.all([
      session.select().from(underlyings).where(inArray(underlyings.symbol, symbols)),
      session.select().from(dividends).where(inArray(dividends.symbol, symbols)).orderBy(asc(dividends.exDate)),
      days.length === 0
        ? []
        : session
            .select({ symbol: bars.symbol, date: bars.date, open: bars.open, close: bars.close })
            .from(bars)
            .where(and(inArray(bars.symbol, symbols), inArray(bars.date, days))),
      session.select().from(settlements).where(inArray(settlements.symbol, symbols)),
    ]);
    const calendars = new Map(known.map(({ symbol, calendar }) => [symbol, calendarById(calendar)]));
    const changes = paid.map(({ symbol, exDate, kind, amount }): TermsChange => {
      const calendar = calendars.get(symbol) ?? UNKNOWN;
      return {
        symbol,
        time: instantOf(calendar, exDate, calendar.open),
        kind: kind === 'split' || kind === 'special' ? kind : 'cash',
        amount: new Big(amount),
      };
    });
    const settled = new Map<string, Big>();
    for (const { symbol, date, open, close } of barRows) {
      settled.set(`${symbol} ${date} am`, new Big(open));
      settled.set(`${symbol} ${date} pm`, new Big(close));
    }
    for (const { symbol, expiry, settlement, price } of said)
      settled.set(`${symbol} ${expiry} ${settlement}`, new Big(price));
    return new BookFacts(
      new Map(known.map((one) => [one.symbol, one])),
      bySymbol(changes.sort((a, b) => a.time - b.time)),
      settled,
      calendars,
    );
  }

  calendarOf(symbol: string): Calendar {
    return this.calendars.get(symbol) ?? UNKNOWN;
  }

  multiplierOf(contract: ContractId): Big {
    return multiplierOf(this.underlyings.get(contract.symbol), contract);
  }

  changesOf(symbol: string): readonly TermsChange[] {
    return this.changes.get(symbol) ?? NO_CHANGES;
  }

  endOf({ symbol, expiry, settlement }: OptionId): number {
    const key = `${symbol} ${expiry} ${settlement}`;
    const known = this.ends.get(key) ?? expiryInstant(this.calendarOf(symbol), expiry, settlement);
    this.ends.set(key, known);
    return known;
  }

  settledAt({ symbol, expiry, settlement }: OptionId): Big | null {
    return this.settled.get(`${symbol} ${expiry} ${settlement}`) ?? null;
  }
}

function bySymbol(changes: readonly TermsChange[]): Map<string, TermsChange[]> {
  const found = new Map<string, TermsChange[]>();
  for (const change of changes) {
    const there = found.get(change.symbol);
    if (there) there.push(change);
    else found.set(change.symbol, [change]);
  }
  return found;
}

/** A trade as it is read of a book. */
type FillRow = Omit<typeof tables.fills.$inferSelect, 'importId'>;

/** The contract of a fill. */
export function contractOf({
  symbol,
  expiry,
  settlement,
  strike,
  side,
}: Pick<FillRow, 'symbol' | 'expiry' | 'settlement' | 'strike' | 'side'>): ContractId {
  if (expiry === '' || side === '') return { symbol, underlying: true };
  return { symbol, expiry, settlement: settlement === 'am' ? 'am' : 'pm', strike: Number(strike), side };
}

/** Trades with how their expiries settle, where that was left unsaid: pm, or the only series of that day. */
export async function settledAs<Row extends Pick<FillRow, 'symbol' | 'expiry' | 'settlement'>>(
  session: Queryable,
  rows: readonly Row[],
): Promise<Row[]> {
  const known = new Map<string, Settlement>();
  const settled: Row[] = [];
  for (const row of rows) {
    const { symbol, expiry, settlement } = row;
    if (expiry === '' || settlement !== '') {
      settled.push(row);
      continue;
    }
    const key = `${symbol} ${expiry}`;
    const found = known.get(key) ?? (await heldExpiry(session, symbol, { expiry, settlement: null })).settlement;
    known.set(key, found);
    settled.push({ ...row, settlement: found });
  }
  return settled;
}

/** What is stored of a book, up to no moment. */
export interface StoredBook {
  book: typeof tables.books.$inferSelect;
  positions: readonly (typeof tables.bookPositions.$inferSelect)[];
  /** By position, in order of time. */
  fills: ReadonlyMap<number, readonly FillRow[]>;
  cash: readonly (typeof tables.bookCash.$inferSelect)[];
}

/** A book with all that was ever traded in it; null where there is none. */
export async function readBook(session: Queryable, id: number): Promise<StoredBook | null> {
  const { books, bookPositions, fills, bookCash } = tables;
  const [[book], positions, rows, cash] = await Promise.all([
    session.select().from(books).where(eq(books.id, id)),
    session.select().from(bookPositions).where(eq(bookPositions.bookId, id)).orderBy(asc(bookPositions.id)),
    // Thousands of rows: without the mapping of the query builder.
    session.execute<FillRow & Record<string, unknown>>(sql`
      SELECT f.id, f.position_id AS "positionId", f.time, f.symbol, f.expiry, f.settlement, f.strike::text, f.side,
        f.quantity::text, f.price::text, f.fee::text, f.is_assigned AS "isAssigned", f.tag, f.version
      FROM ${fills} f JOIN ${bookPositions} p ON p.id = f.position_id
      WHERE p.book_id = ${id} ORDER BY f.time, f.id`),
    session.select().from(bookCash).where(eq(bookCash.bookId, id)).orderBy(asc(bookCash.time), asc(bookCash.id)),
  ]);
  if (!book) return null;
  const byPosition = new Map<number, FillRow[]>();
  // A time is a text where no column is named to the driver.
  const read = rows.rows.map((row): FillRow => ({ ...row, time: new Date(row.time) }));
  for (const fill of await settledAs(session, read)) {
    const there = byPosition.get(fill.positionId);
    if (there) there.push(fill);
    else byPosition.set(fill.positionId, [fill]);
  }
  return { book, positions, fills: byPosition, cash };
}

/** Fills as the ledger takes them. */
export function ledgerFills(rows: readonly FillRow[]): BookFill[] {
  return rows.map((row) => ({
    time: row.time.getTime(),
    contract: contractOf(row),
    quantity: new Big(row.quantity),
    price: new Big(row.price),
    fee: new Big(row.fee),
    isAssigned: row.isAssigned,
  }));
}
