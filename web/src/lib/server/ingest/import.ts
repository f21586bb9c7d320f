import { eq, inArray, sql } from 'drizzle-orm';
import type { Readable } from 'node:stream';
import { tables, type Database, type Queryable, type RowFault } from '../db';
import { TermsStore } from '../market/terms';
import { CellError, requiredInstant, requiredText, type Cells } from './cells';
import { SnapshotAssembler } from './chain';
import { csvBatches } from './csv';
import { HeaderError, matchHeader, type FileKind, type MatchedHeader } from './layouts';
import { RECORD_KINDS, upsertRecords, type WriteCounts } from './records';
import { deriveFinished, rebuildDerived, storeSnapshots, type DerivedSnapshot } from './store';

export type ImportRecord = typeof tables.imports.$inferSelect;

export interface ImportOptions {
  /** Name of the file, as it is shown. */
  name: string;
  source: Readable;
  /** Import the good rows of a file that has bad ones; without it such a file changes nothing. */
  acceptBadRows?: boolean;
  /** Told now and then how many rows have been read. */
  onProgress?: (rows: number) => void;
}

/** Faults kept with an import; further ones are counted only. */
const MOST_FAULTS = 1000;
const RECORDS_PER_WRITE = 1000;
const SNAPSHOTS_PER_WRITE = 48;
const ROWS_PER_PAUSE = 500;
const ROWS_PER_REPORT = 20_000;
/** One import writes at a time, so that two of the same snapshot cannot mix. */
const IMPORT_LOCK = 4890;

/** Rolls the transaction back: the file has bad rows and nobody said that the others may go in. */
class Refused extends Error {}

/** The running state of an import, and what it says of bad rows. */
class Run {
  rows = 0;
  badRows = 0;
  readonly faults: RowFault[] = [];
  counts: Record<string, number> = {};
  header: MatchedHeader | null = null;

  fault(row: number, error: unknown): void {
    if (!(error instanceof CellError)) throw error;
    this.badRows++;
    if (this.faults.length < MOST_FAULTS) {
      this.faults.push({ row, column: error.column, value: error.value.slice(0, 200), reason: error.reason });
    }
  }

  count(counts: WriteCounts): void {
    for (const [name, number] of Object.entries(counts)) this.counts[name] = (this.counts[name] ?? 0) + number;
  }
}

/**
 * Imports one CSV file of docs/formats.md, streamed, in one transaction: whole or not at all. What kind it is
 * its header tells. The same file again changes nothing.
 *
 * @returns the record of the import: `done`; `refused` (bad rows, nothing was changed); `failed` (unreadable,
 *   with the reason in `detail`)
 */
export async function importFile(database: Database, options: ImportOptions): Promise<ImportRecord> {
  const { imports } = tables;
  const [started] = await database
    .insert(imports)
    .values({ file: options.name, status: 'running' })
    .returning({ id: imports.id });
  const id = started!.id;
  const run = new Run();
  const finish = async (change: Partial<ImportRecord>) => {
    const { rows, badRows, counts, faults, header } = run;
    const [record] = await database
      .update(imports)
      .set({
        rows,
        badRows,
        counts,
        faults,
        what: header?.kind ?? null,
        ignoredColumns: header?.ignored ?? [],
        finished: new Date(),
        ...change,
      })
      .where(eq(imports.id, id))
      .returning();
    return record!;
  };
  try {
    await database.transaction(async (transaction) => {
      await transaction.execute(sql`SELECT pg_advisory_xact_lock(${IMPORT_LOCK})`);
      const report = async () => {
        options.onProgress?.(run.rows);
        await database.update(imports).set({ rows: run.rows, badRows: run.badRows }).where(eq(imports.id, id));
      };
      await importRows(transaction, options.source, run, id, report);
      if (run.badRows > 0 && !options.acceptBadRows) throw new Refused();
    });
    return await finish({ status: 'done' });
  } catch (error) {
    options.source.destroy();
    run.counts = {};
    if (error instanceof Refused) {
      return await finish({
        status: 'refused',
        detail: `${run.badRows} of ${run.rows} rows are bad; nothing was imported`,
      });
    }
    const reason =
      error instanceof Error ? (error.cause instanceof Error ? error.cause.message : error.message) : String(error);
    return await finish({ status: 'failed', detail: reason });
  }
}

/**
 * Marks imports that a stopped process has left behind; what they wrote was rolled back. While another process
 * imports, nothing is touched.
 */
export async function closeInterruptedImports(database: Database): Promise<void> {
  const { imports } = tables;
  await database.transaction(async (transaction) => {
    const lock = sql<{ held: boolean }>`SELECT pg_try_advisory_xact_lock(${IMPORT_LOCK}) AS held`;
    const { rows } = await transaction.execute<{ held: boolean }>(lock);
    if (!rows[0]?.held) return;
    await transaction
      .update(imports)
      .set({
        status: 'interrupted',
        finished: new Date(),
        detail: 'the process ended before the import did; nothing was imported',
      })
      .where(eq(imports.status, 'running'));
  });
}

async function importRows(
  database: Queryable,
  source: Readable,
  run: Run,
  importId: number,
  report: () => Promise<void>,
): Promise<void> {
  let sink: Sink | null = null;
  let width = 0;
  let current: string[] = [];
  let position: Readonly<Record<string, number>> = {};
  const cells: Cells = (column) => {
    const at = position[column];
    return at === undefined ? undefined : trimmed(current[at]);
  };
  for await (const batch of csvBatches(source)) {
    for (const row of batch) {
      current = row.cells;
      if (!sink) {
        const header = matchHeader(current);
        run.header = header;
        position = header.position;
        width = current.length;
        sink = header.kind === 'chain' ? chainSink(database, run, importId) : recordSink(database, run, header.kind);
        continue;
      }
      run.rows++;
      try {
        const pending = sink.add(row.number, cells, widthFault(current, width));
        if (pending) await pending;
      } catch (error) {
        run.fault(row.number, error);
      }
      // Often, so that one batch at a time becomes ready and is written while the next is read.
      if (run.rows % ROWS_PER_PAUSE === 0) await sink.pause();
      if (run.rows % ROWS_PER_REPORT === 0) await report();
    }
  }
  if (!sink) throw new HeaderError('the file is empty');
  await sink.end();
  await report();
}

const SPACE = 32;

/** The text without white space around it; most cells have none, and are handed on as they are. */
function trimmed(text: string | undefined): string | undefined {
  if (!text) return text;
  const isTight = text.charCodeAt(0) > SPACE && text.charCodeAt(text.length - 1) > SPACE;
  return isTight ? text : text.trim();
}

function widthFault(cells: readonly string[], width: number): CellError | null {
  if (cells.length === width) return null;
  return new CellError('(row)', cells.join(','), `has ${cells.length} cells where the header has ${width}`);
}

interface Sink {
  /**
   * Takes a row, or throws what is wrong with it; `fault` is what is known to be wrong already. A promise only
   * where the database had to be asked.
   */
  add(row: number, cells: Cells, fault: CellError | null): Promise<void> | void;
  /** Called between rows now and then: the time to write. */
  pause(): Promise<void>;
  end(): Promise<void>;
}

function chainSink(database: Queryable, run: Run, importId: number): Sink {
  const assembler = new SnapshotAssembler();
  const terms = new TermsStore(database);
  let waiting: DerivedSnapshot[] = [];
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
    underWay = storeSnapshots(database, waiting, importId);
    // A failure is met at the next settling; until then it must not count as unhandled.
    underWay.catch(() => undefined);
    waiting = [];
  };
  const take = async (isEnd: boolean) => {
    for (const finished of assembler.take(isEnd)) {
      waiting.push(deriveFinished(finished, terms));
      if (waiting.length >= SNAPSHOTS_PER_WRITE) await store();
    }
  };
  let asofText = '';
  let asofSymbol = '';
  let asof = 0;
  const place = (symbol: string, cells: Cells, fault: CellError | null) => {
    const text = requiredText(cells, 'asof');
    if (text !== asofText || symbol !== asofSymbol) {
      asof = requiredInstant(cells, 'asof', terms.calendar(symbol));
      asofText = text;
      asofSymbol = symbol;
    }
    assembler.add(symbol, asof, cells, fault);
  };
  const meet = async (symbol: string, cells: Cells, fault: CellError | null) => {
    await settle();
    if (!(await terms.load(symbol))) throw unknownSymbol(symbol);
    place(symbol, cells, fault);
  };
  return {
    add(_, cells, fault) {
      const symbol = requiredText(cells, 'symbol');
      return terms.isKnown(symbol) ? place(symbol, cells, fault) : meet(symbol, cells, fault);
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

function unknownSymbol(symbol: string): CellError {
  return new CellError('symbol', symbol, 'is no known underlying: import an underlyings file with it first');
}

function recordSink(database: Queryable, run: Run, name: Exclude<FileKind, 'chain'>): Sink {
  const kind = RECORD_KINDS[name];
  const terms = new TermsStore(database);
  const seen = new Map<string, number>();
  const touched = new Set<string>();
  let waiting: Record<string, unknown>[] = [];
  const write = async () => {
    if (waiting.length === 0) return;
    const counts = await upsertRecords(database, kind, waiting);
    if (counts.added + counts.changed > 0)
      for (const row of waiting) touched.add(String(name === 'rates' ? row.currency : row.symbol));
    run.count(counts);
    waiting = [];
  };
  return {
    async add(row, cells, fault) {
      if (fault) throw fault;
      const record = kind.parse(cells);
      if (kind.needsUnderlying && !(await terms.load(String(record.symbol)))) {
        throw unknownSymbol(String(record.symbol));
      }
      const key = kind.key.map((column) => String(record[column])).join('\u0000');
      const earlier = seen.get(key);
      if (earlier !== undefined) {
        throw new CellError(kind.key[0]!, String(record[kind.key[0]!]), `the same key stands in row ${earlier}`);
      }
      seen.set(key, row);
      waiting.push(record);
      if (waiting.length >= RECORDS_PER_WRITE) await write();
    },
    pause: async () => undefined,
    async end() {
      await write();
      await rebuildTouched(database, run, name, touched);
    },
  };
}

/** Fits hang on rates, dividends and the terms of the underlying: what has changed is derived again. */
async function rebuildTouched(database: Queryable, run: Run, name: FileKind, touched: ReadonlySet<string>) {
  if (touched.size === 0 || !['underlyings', 'rates', 'dividends'].includes(name)) return;
  const { underlyings } = tables;
  const column = name === 'rates' ? underlyings.currency : underlyings.symbol;
  const affected = await database
    .select({ symbol: underlyings.symbol })
    .from(underlyings)
    .where(inArray(column, [...touched]));
  if (affected.length === 0) return;
  const rebuilt = await rebuildDerived(
    database,
    affected.map((row) => row.symbol),
  );
  if (rebuilt > 0) run.counts.rebuilt = rebuilt;
}
