import {
  valueSlice,
  writtenOn,
  expiryAt,
  expiryName,
  isSameExpiry,
  type ExpiryId,
  type NamedExpiry,
  type Settlement,
} from '@umwelt/core';
import { and, between, desc, eq, sql } from 'drizzle-orm';
import pg from 'pg';
import { atOneMoment, readColumns, tables, type Database, type Queryable, type Session } from '../db';
import { listBorrowings } from './borrowings';
import { isoDay } from './days';
import { findAsof, loadValued, type StoredSnapshot } from './queries';
import type { Underlying } from './terms';

const { measures, prints } = tables;

/** Which prints are wanted. */
export interface TapeQuery {
  from: Date;
  to: Date;
  /** The smallest size. */
  size: number;
  legs: 'all' | 'single' | 'several';
  /** Those over theory at their time, or under it. */
  against: 'all' | 'above' | 'below';
  most: number;
}

/** What was known of a contract at a moment. */
interface Known {
  theory: number;
  bid: number;
  ask: number;
}

/** A side of an expiry at a moment, by strike. */
interface SideBook {
  index: ReadonlyMap<number, number>;
  theory: Float64Array;
  bid: Float64Array;
  ask: Float64Array;
}

/** Theory and quotes of all contracts of a moment, each side valued when it is first asked for. */
class Book {
  private readonly sides = new Map<string, SideBook | null>();

  constructor(
    private readonly underlying: Underlying,
    private readonly stored: StoredSnapshot,
  ) {}

  /** How an expiry settles: as it is said, or pm, or as the only one of that day; null where none is held. */
  settlementOf(named: NamedExpiry): Settlement | null {
    if (named.settlement) return named.settlement;
    const { slices } = this.stored.snapshot;
    return slices[expiryAt(slices, named)]?.settlement ?? null;
  }

  at(expiry: ExpiryId, strike: number, isCall: boolean): Known | null {
    const key = `${expiryName(expiry)} ${isCall}`;
    let side = this.sides.get(key);
    if (side === undefined) this.sides.set(key, (side = this.value(expiry, isCall)));
    const i = side?.index.get(strike);
    return side && i !== undefined ? { theory: side.theory[i]!, bid: side.bid[i]!, ask: side.ask[i]! } : null;
  }

  private value(expiry: ExpiryId, isCall: boolean): SideBook | null {
    const { snapshot, fits } = this.stored;
    const slice = snapshot.slices.find((one) => isSameExpiry(one, expiry));
    const fit = slice && fits.find((one) => isSameExpiry(one, expiry));
    if (!slice || !fit) return null;
    const { strike } = slice;
    const nothing = new Float64Array(strike.length).fill(NaN);
    const { theory } = valueSlice(
      strike,
      fit,
      writtenOn(snapshot, this.underlying),
      { basis: 'curve', realizedVol: NaN, indexVol: NaN },
      { own: nothing, mid: nothing },
      isCall ? 1 : -1,
    );
    const { bid, ask } = isCall ? slice.call : slice.put;
    return { index: new Map(Array.from(strike, (level, i) => [level, i])), theory, bid, ask };
  }
}

/** Moments of a few sessions of quarters of an hour. */
const MOST_BOOKS = 200;
/** Books that were opened, with the transaction that wrote their measures last: another one, and they are opened again. */
const books = new Map<string, { writtenBy: string; book: Book }>();

/** The books of moments, in their order; those of an underlying that borrows curves depend on others and are not kept. */
async function openBooks(
  database: Database,
  underlying: Underlying,
  moments: readonly { asof: Date; writtenBy: string }[],
): Promise<(Book | null)[]> {
  const isBorrowing = (await listBorrowings(database, underlying.symbol)).length > 0;
  const opened: (Book | null)[] = [];
  for (const { asof, writtenBy } of moments) {
    const key = `${underlying.symbol} ${asof.getTime()}`;
    const found = books.get(key);
    if (found?.writtenBy === writtenBy && !isBorrowing) {
      opened.push(found.book);
      continue;
    }
    const stored = await loadValued(database, underlying.symbol, asof);
    const book = stored && new Book(underlying, stored);
    opened.push(book);
    books.delete(key);
    if (book && !isBorrowing) books.set(key, { writtenBy, book });
    for (const oldest of books.keys()) if (books.size > MOST_BOOKS) books.delete(oldest);
  }
  return opened;
}

/** The moments that prints of a span are held against: one may come before the first of the span. */
async function momentsOf(session: Session, symbol: string, from: Date, to: Date) {
  const first = (await findAsof(session, symbol, from)) ?? from;
  return session
    .select({ asof: measures.asof, writtenBy: sql<string>`xmin::text` })
    .from(measures)
    .where(and(eq(measures.symbol, symbol), between(measures.asof, first, to)))
    .orderBy(measures.asof);
}

const SECOND = 1000;

/** As many columns as a print has numbers. */
type TapeColumns = [...Array<Float64Array>] & Record<0 | 1 | 2 | 3 | 4 | 5 | 6 | 7, Float64Array>;
const SETTLED = [null, 'am', 'pm'] as const;

/** The prints of a query as columns, the latest first, with the names of the trades of several legs and the moments around. */
async function readPrints(session: Session, symbol: string, { from, to, size, legs }: TapeQuery) {
  const literal = (value: string) => pg.escapeLiteral(value);
  const wanted = `FROM prints WHERE symbol = ${literal(symbol)} AND size >= ${Number(size)}
    AND time BETWEEN ${literal(from.toISOString())} AND ${literal(to.toISOString())}
    ${legs === 'all' ? '' : legs === 'single' ? `AND "group" = ''` : `AND "group" <> ''`}`;
  const order = 'ORDER BY time DESC, id DESC';
  const [time, expiry, strike, isCall, price, sizes, isLeg, settled] = (await readColumns(
    session,
    `SELECT extract(epoch FROM time)::float8, (expiry - DATE '1970-01-01')::float8, strike, (side = 'call')::int::float8,
      price, size, ("group" <> '')::int::float8, (CASE settlement WHEN 'am' THEN 1 WHEN 'pm' THEN 2 ELSE 0 END)::float8 ${wanted} ${order}`,
    8,
  )) as TapeColumns;
  const groups = await session.execute<{ group: string }>(
    sql.raw(`SELECT "group" ${wanted} AND "group" <> '' ${order}`),
  );
  const columns = { time, expiry, strike, isCall, price, sizes, isLeg, settled };
  return {
    ...columns,
    groups: groups.rows.map(({ group }) => group),
    moments: await momentsOf(session, symbol, from, to),
  };
}

/**
 * Prints of an underlying, the latest first, each against the curve of its time: at most so many of those that are meant, with
 * how many there are and how all of them lie against theory.
 */
export async function listTape(database: Database, underlying: Underlying, query: TapeQuery) {
  const { against, most } = query;
  const { moments, groups, time, expiry, strike, isCall, price, sizes, isLeg, settled } = await atOneMoment(
    database,
    (session) => readPrints(session, underlying.symbol, query),
  );
  const opened = await openBooks(database, underlying, moments);
  const meant: { i: number; leg: number; known: Known | null; at: number; settlement: Settlement | null }[] = [];
  const balance = { above: 0, below: 0 };
  let [sum, weight, legs] = [0, 0, 0];
  // Both are in order of time, prints backwards.
  let at = moments.length - 1;
  for (let i = 0; i < time.length; i++) {
    const leg = legs;
    legs += isLeg[i]!;
    const when = Math.round(SECOND * time[i]!);
    while (at >= 0 && moments[at]!.asof.getTime() > when) at--;
    const [day, book] = [isoDay(expiry[i]!), opened[at]];
    const said = SETTLED[settled[i]!] ?? null;
    const settlement = book?.settlementOf({ expiry: day, settlement: said }) ?? said;
    const known = (settlement && book?.at({ expiry: day, settlement }, strike[i]!, isCall[i] === 1)) ?? null;
    const distance = price[i]! - (known?.theory ?? NaN);
    if (against === 'above' ? !(distance > 0) : against === 'below' && !(distance < 0)) continue;
    if (distance > 0) balance.above += sizes[i]!;
    if (distance < 0) balance.below += sizes[i]!;
    if (!Number.isNaN(distance)) {
      sum += distance * sizes[i]!;
      weight += sizes[i]!;
    }
    meant.push({ i, leg, known, at, settlement });
  }
  return {
    count: meant.length,
    balance: { ...balance, mean: weight > 0 ? sum / weight : null },
    prints: meant.slice(0, most).map(({ i, leg, known, at: moment, settlement }) => ({
      time: new Date(Math.round(SECOND * time[i]!)).toISOString(),
      expiry: isoDay(expiry[i]!),
      settlement,
      strike: strike[i]!,
      side: isCall[i] === 1 ? ('call' as const) : ('put' as const),
      price: price[i]!,
      size: sizes[i]!,
      group: isLeg[i] === 1 ? groups[leg]! : null,
      theory: known?.theory ?? null,
      bid: known?.bid ?? null,
      ask: known?.ask ?? null,
      theoryAt: known ? moments[moment]!.asof.toISOString() : null,
    })),
  };
}

/** When the last print of an underlying came; null without any. */
export async function latestPrint(database: Queryable, symbol: string): Promise<Date | null> {
  const [row] = await database
    .select({ time: prints.time })
    .from(prints)
    .where(eq(prints.symbol, symbol))
    .orderBy(desc(prints.time))
    .limit(1);
  return row?.time ?? null;
}
