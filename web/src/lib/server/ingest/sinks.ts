import type { QuoteLines, Settlement } from '@umwelt/core';
import { sql } from 'drizzle-orm';
import type { Conventions, Database, Session } from '../db';
import { TermsStore } from '../market/terms';
import { CellError, choice, requiredDay, requiredInstant, requiredText, type Cells } from './cells';
import { SETTLEMENT_WORDS, SnapshotAssembler, type ReadText } from './chain';
import { plainText } from './conventions';
import { INTRADAY_BARS, RECORD_KINDS, recordKey, writeRecords, type RecordName, type WriteCounts } from './records';
import type { Run } from './run';
import { SessionsBefore, type DerivedSnapshot } from './derive';
import { lockSymbol } from './locks';
import { storeSnapshots } from './store';
import { TableError } from './table';

/** Where an import writes: in its transaction, with the pool for what must not wait for its end. */
export interface Target {
  database: Database;
  session: Session;
}

/** Takes the rows of a file and writes them. */
export interface Sink {
  /**
   * Takes a row, or throws what is wrong with it; `fault` is what is known to be wrong already. A promise only
   * where the database had to be asked.
   */
  add(row: number, cells: Cells, fault: CellError | null): Promise<void> | void;
  /** Takes rows that came as columns, where the kind of file has them. */
  addQuotes?(lines: QuoteLines): Promise<void>;
  /** Called between rows now and then: the time to write. */
  pause(): Promise<void>;
  end(): Promise<void>;
}

const RECORDS_PER_WRITE = 5000;
const RECORD_LOCK = 4893;
/** Snapshots are written together once they have so many contracts; small ones cost a round trip each otherwise. */
const CONTRACTS_PER_WRITE = 16_000;
const SNAPSHOTS_PER_WRITE = 200;

/** Each month is a table of its own. */
const MOST_MONTHS = 480;

function attempt<T>(work: () => T): ReadText<T> {
  try {
    return { value: work() };
  } catch (error) {
    if (error instanceof CellError) return { error };
    throw error;
  }
}

function unknownSymbol(symbol: string): CellError {
  return new CellError('symbol', symbol, 'is no known underlying: import an underlyings file with it first');
}

/** Snapshots of a chain file: put together, derived from and written while the next are read. */
export function chainSink({ database, session }: Target, run: Run, conventions: Conventions): Sink {
  const assembler = new SnapshotAssembler((row, error) => run.fault(row, error));
  const terms = new TermsStore(session);
  const before = new SessionsBefore(session, terms);
  const expiries: ReadText<string>[] = [];
  const settlements: ReadText<Settlement>[] = [];
  const months = new Set<string>();
  let waiting: DerivedSnapshot[] = [];
  let contracts = 0;
  // One write is under way while the next snapshots are derived; the connection takes one query at a time.
  let underWay: Promise<WriteCounts | null> = Promise.resolve(null);
  const settle = async () => {
    const counts = await underWay;
    underWay = Promise.resolve(null);
    if (counts) run.count(counts);
  };
  const store = async () => {
    await settle();
    if (waiting.length === 0) return;
    underWay = storeSnapshots({ database, session }, waiting, run.importId);
    // A failure is reported when the write is awaited; until then it must not count as unhandled.
    underWay.catch(() => undefined);
    waiting = [];
    contracts = 0;
  };
  const take = async (isEnd: boolean) => {
    for (const finished of assembler.take(isEnd)) {
      const { symbol, asof } = finished.snapshot;
      if (!before.isKnown(symbol)) {
        await settle();
        await before.load(symbol, asof);
      }
      months.add(new Date(asof).toISOString().slice(0, 7));
      if (months.size > MOST_MONTHS) {
        throw new TableError(
          `the file has snapshots of more than ${MOST_MONTHS} months: split it, or look at its dates`,
        );
      }
      waiting.push(before.derive(finished));
      contracts += finished.contracts;
      if (contracts >= CONTRACTS_PER_WRITE || waiting.length >= SNAPSHOTS_PER_WRITE) await store();
    }
  };
  const meet = async (symbol: string) => {
    await settle();
    // Before anything of it is read: what another import is writing is then there, or not begun.
    await lockSymbol(session, symbol);
    if (!(await terms.load(symbol))) throw unknownSymbol(symbol);
  };
  let asofText = '';
  let asofSymbol = '';
  let asof = 0;
  const asofOf = (symbol: string, text: string, cells: Cells) => {
    if (text !== asofText || symbol !== asofSymbol) {
      asof = requiredInstant(cells, 'asof', terms.calendar(symbol));
      asofText = text;
      asofSymbol = symbol;
    }
    return asof;
  };
  const place = (symbol: string, row: number, cells: Cells, fault: CellError | null) =>
    assembler.add(symbol, asofOf(symbol, requiredText(cells, 'asof'), cells), row, cells, fault);
  const textCells =
    (text: string, type: 'day' | 'instant'): Cells =>
    () =>
      plainText(text, type, conventions);
  return {
    add(row, cells, fault) {
      const symbol = requiredText(cells, 'symbol');
      if (terms.isKnown(symbol)) return place(symbol, row, cells, fault);
      return meet(symbol).then(() => place(symbol, row, cells, fault));
    },
    async addQuotes({ block, texts }) {
      for (let id = expiries.length; id < texts.expiry.list.length; id++) {
        const cells = textCells(texts.expiry.list[id]!, 'day');
        expiries.push(attempt(() => requiredDay(cells, 'expiry')));
      }
      for (let id = settlements.length; id < texts.settlement.list.length; id++) {
        const text = texts.settlement.list[id]!;
        settlements.push(attempt(() => choice(() => text, 'settlement', SETTLEMENT_WORDS, 'pm')));
      }
      const { asof: asofs, symbol: symbols } = block.text;
      for (let from = 0, to = 0; from < block.count; from = to) {
        while (to < block.count && asofs[to] === asofs[from] && symbols[to] === symbols[from]) to++;
        const symbol = texts.symbol.list[symbols[from]!]!;
        const text = texts.asof.list[asofs[from]!]!;
        try {
          if (!terms.isKnown(symbol)) await meet(symbol);
          const at = asofOf(symbol, text, textCells(text, 'instant'));
          assembler.addRun(symbol, at, block, from, to, expiries, settlements);
        } catch (error) {
          const raw = (column: string) => (column === 'asof' ? text : undefined);
          for (let i = from; i < to; i++) run.fault(block.row[i]!, error, raw);
        }
      }
    },
    pause: () => take(false),
    async end() {
      await take(true);
      await store();
      await settle();
      if (assembler.spoiled > 0) run.counts.leftOut = assembler.spoiled;
    },
  };
}

/** Records of any other kind of file. */
export function recordSink({ session }: Target, run: Run, name: RecordName): Sink {
  const kind = name === 'bars' && run.header?.position.time !== undefined ? INTRADAY_BARS : RECORD_KINDS[name];
  const terms = new TermsStore(session);
  const seen = new Map<string, number>();
  let isLocked = false;
  let waiting: Record<string, unknown>[] = [];
  const write = async () => {
    if (waiting.length === 0) return;
    if (!isLocked) {
      // Two imports of one kind write one after the other, so that the journal of each tells the truth.
      await session.execute(sql`SELECT pg_advisory_xact_lock(${RECORD_LOCK}, hashtext(${name}))`);
      isLocked = true;
    }
    run.count(await writeRecords(session, kind, waiting, run.importId));
    waiting = [];
  };
  return {
    async add(row, cells, fault) {
      if (fault) throw fault;
      const record = kind.parse(cells);
      if (kind.needsUnderlying && !(await terms.load(String(record.symbol)))) {
        throw unknownSymbol(String(record.symbol));
      }
      const key = recordKey(kind, record);
      const earlier = seen.get(key);
      if (earlier !== undefined && !kind.mayRepeat) {
        throw new CellError(kind.key[0]!, String(record[kind.key[0]!]), `the same key stands in row ${earlier}`);
      }
      seen.set(key, kind.mayRepeat ? (earlier ?? 0) + 1 : row);
      waiting.push(kind.mayRepeat ? { ...record, occurrence: earlier ?? 0 } : record);
      if (waiting.length >= RECORDS_PER_WRITE) await write();
    },
    pause: async () => undefined,
    end: write,
  };
}
