import { isUnderlying, positionAt, type BookFill, type PositionState } from '@umwelt/core';
import { eq, sql } from 'drizzle-orm';
import { tables, type Database } from '../db';
import { BookFacts, contractOf, ledgerFills, readBook, type StoredBook } from './facts';
import type { Markets } from '../market/known-markets';

/** A book as it is held, with what is known around it, and what its positions were at moments that were asked for. */
export class HeldBook {
  private readonly states = new Map<string, PositionState>();
  private readonly fills = new Map<number, readonly BookFill[]>();
  private readonly turns = new Map<number, Float64Array>();
  /** Answers by what was asked. */
  readonly answers = new Map<string, Promise<object>>();

  constructor(
    readonly mark: string,
    readonly stored: StoredBook,
    readonly facts: BookFacts,
  ) {}

  /** Fills of a position as the ledger takes them. */
  fillsOf(id: number): readonly BookFill[] {
    const found = this.fills.get(id) ?? ledgerFills(this.stored.fills.get(id) ?? []);
    this.fills.set(id, found);
    return found;
  }

  /** Moments at which something may change of a position, in order: trades, changes of terms, ends of expiries. */
  private turnsOf(id: number): Float64Array {
    const known = this.turns.get(id);
    if (known) return known;
    const fills = this.fillsOf(id);
    const times = fills.flatMap(({ time, contract }) => [
      time,
      ...(isUnderlying(contract) ? [] : [this.facts.endOf(contract)]),
    ]);
    for (const symbol of new Set(fills.map(({ contract }) => contract.symbol)))
      for (const { time } of this.facts.changesOf(symbol)) times.push(time);
    const turns = Float64Array.from(times).sort();
    this.turns.set(id, turns);
    return turns;
  }

  /** What a position is at a moment. Between two turns it stays what it was. */
  stateAt(id: number, moment: number): PositionState {
    const turns = this.turnsOf(id);
    let past = 0;
    while (past < turns.length && turns[past]! <= moment) past++;
    const key = `${id} ${past}`;
    const found = this.states.get(key) ?? positionAt(this.fillsOf(id), this.facts, moment);
    this.states.set(key, found);
    return found;
  }
}

/** Books that are kept in memory. */
const MOST_HELD = 4;
const MOST_ANSWERS = 12;

/** Books as they were read last, read again when one of their changes or something around them is new. */
export class HeldBooks {
  private readonly held = new Map<number, HeldBook>();

  constructor(
    private readonly database: Database,
    private readonly markets: Markets,
  ) {}

  /** A book; null where there is none. */
  async get(id: number): Promise<HeldBook | null> {
    const { bookChanges } = tables;
    const [[row]] = await Promise.all([
      this.database
        .select({ mark: sql<string>`max(${bookChanges.id}) || ' ' || count(*) FILTER (WHERE ${bookChanges.isUndone})` })
        .from(bookChanges)
        .where(eq(bookChanges.bookId, id)),
      this.markets.look(),
    ]);
    const mark = `${row?.mark ?? ''} ${this.markets.age}`;
    const known = this.held.get(id);
    if (known?.mark === mark) return known;
    const stored = await readBook(this.database, id);
    if (!stored) return null;
    const contracts = [...stored.fills.values()].flat().map(contractOf);
    const made = new HeldBook(mark, stored, await BookFacts.read(this.database, contracts));
    this.held.delete(id);
    this.held.set(id, made);
    if (this.held.size > MOST_HELD) this.held.delete(this.held.keys().next().value!);
    return made;
  }
}

/** What a book was asked before, as long as it is the same; else what the work brings. */
export function remembered<T extends object>(book: HeldBook, key: string, work: () => Promise<T>): Promise<T> {
  const found = book.answers.get(key) ?? work();
  book.answers.delete(key);
  book.answers.set(key, found);
  found.catch(() => book.answers.delete(key));
  if (book.answers.size > MOST_ANSWERS) book.answers.delete(book.answers.keys().next().value!);
  return found as Promise<T>;
}
