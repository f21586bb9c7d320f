import { eq } from 'drizzle-orm';
import { NUMBER_COLUMNS, parseContractSymbol, QuoteLines, TEXT_COLUMNS, type QuoteColumn } from '@umwelt/core';
import { inTransaction, tables, type Conventions, type Database, type Queryable } from '../db';
import { messageOf } from '../errors';
import { CellError, storable, type Cells } from './cells';
import { plainText } from './conventions';
import { hangingOn, rebuildDerived, type Progress } from './derive';
import { unguarded } from './guard';
import { lockImport } from './locks';
import { checkRoom, RoomError } from '../room';
import { inspectFile, readTable } from './formats';
import {
  columnType,
  CONTRACT,
  HeaderError,
  matchHeader,
  type FileKind,
  type MatchedHeader,
  type Matching,
} from '../../layouts';
import { Run } from './run';
import { fillSink } from './fills';
import { chainSink, recordSink, type Sink, type Target } from './sinks';
import type { FileSource } from './source';
import { TableError, type TableReader } from './table';

export type ImportRecord = typeof tables.imports.$inferSelect;

export interface ImportSettings {
  /** How the columns stand for ours; without it by their names, or as the same header was matched before. */
  matching?: Matching;
  conventions?: Conventions;
  /** Import the good rows of a file that has bad ones; without it such a file changes nothing. */
  acceptBadRows?: boolean;
}

export interface RunOptions {
  /** Only find out what would change, and what is wrong. */
  isCheck?: boolean;
  /** Told now and then how many rows and bytes have been read. */
  onProgress?: (rows: number, bytes: number) => void;
}

const ROWS_PER_PAUSE = 500;
const REPORT_EVERY_MS = 250;

/** Ends the transaction without a change. */
class Refused extends Error {}
class Checked extends Error {}
class Cancelled extends Error {}

const { imports } = tables;

/** Makes the record of an import that is to come. */
export async function createImport(
  database: Queryable,
  file: Pick<FileSource, 'name' | 'size'>,
  settings: ImportSettings = {},
  status: ImportRecord['status'] = 'queued',
): Promise<ImportRecord> {
  const { matching, conventions, acceptBadRows } = settings;
  const [record] = await database
    .insert(imports)
    .values({
      file: file.name,
      bytes: file.size,
      status,
      what: matching?.kind ?? null,
      columns: matching?.columns ?? null,
      conventions: conventions ?? {},
      acceptBadRows: acceptBadRows ?? false,
    })
    .returning();
  return record!;
}

/**
 * Imports one file of docs/formats.md, streamed, in one transaction: whole or not at all. The same file again changes
 * nothing.
 *
 * @returns the record of the import: `done`; `refused` (bad rows, nothing was changed); `failed` (unreadable, with the
 *   reason in `detail`)
 */
export async function importFile(
  database: Database,
  source: FileSource,
  options: ImportSettings & RunOptions = {},
): Promise<ImportRecord> {
  const record = await createImport(database, source, options, 'running');
  try {
    const run = await runImport(database, record, source, options);
    return run.status === 'deriving' ? await deriveImport(database, run) : run;
  } catch (error) {
    const failed = await failImport(database, record.id, error);
    // Whoever is to import it may wait until there is.
    if (error instanceof RoomError) throw error;
    return failed;
  }
}

/** Derives again what depends on the records of an import, its last step. Interrupted, it is done again from its beginning. */
export async function deriveImport(
  database: Database,
  record: ImportRecord,
  onProgress?: Progress,
): Promise<ImportRecord> {
  const which = await hangingOn(database, record.id);
  const rebuilt = which ? await rebuildDerived(database, which, onProgress) : 0;
  const [done] = await database
    .update(imports)
    .set({ status: 'done', finished: new Date(), counts: rebuilt > 0 ? { ...record.counts, rebuilt } : record.counts })
    .where(eq(imports.id, record.id))
    .returning();
  return done!;
}

/**
 * Closes an import that broke for no fault of its file. One whose rows are in, or are taken back, is that; only what depends on
 * them is still of before.
 */
export async function failImport(database: Queryable, id: number, error: unknown): Promise<ImportRecord> {
  const reason = messageOf(error);
  const closed = (status: ImportRecord['status'], detail: string) => ({ status, detail, finished: new Date() });
  const left = `the measures that depend on it could not be derived anew: ${reason}. Rebuild measures to do so.`;
  const [held] = await database
    .select({ status: imports.status })
    .from(imports)
    .where(eq(imports.id, id))
    .for('update');
  const change =
    held?.status === 'deriving'
      ? closed('done', `its rows are in, but ${left}`)
      : held?.status === 'undoing'
        ? closed('undone', `it is taken back, but ${left}`)
        : closed('failed', `nothing was imported: ${reason}`);
  const [record] = await database.update(imports).set(change).where(eq(imports.id, id)).returning();
  return record!;
}

/**
 * Runs an import that has a record, from its beginning: whatever an earlier attempt had written was rolled back.
 *
 * @throws where the database failed or another transaction was in the way: the same again may go well
 */
export async function runImport(
  database: Database,
  record: ImportRecord,
  source: FileSource,
  { isCheck = false, onProgress }: RunOptions = {},
): Promise<ImportRecord> {
  const { id } = record;
  const run = new Run(id);
  const outcome = () => {
    const { rows, badRows, bytesRead, counts, faults, header, format } = run;
    faults.sort((a, b) => a.row - b.row);
    return {
      rows,
      badRows,
      bytesRead,
      counts,
      faults,
      format,
      what: header?.kind ?? record.what,
      ignoredColumns: header?.ignored.map(storable) ?? [],
      finished: new Date(),
    };
  };
  const finish = async (change: Partial<ImportRecord>) => {
    const [updated] = await database
      .update(imports)
      .set({ ...outcome(), ...change })
      .where(eq(imports.id, id))
      .returning();
    return updated!;
  };
  let reported = performance.now();
  const report = async (isForced: boolean) => {
    if (!isForced && performance.now() - reported < REPORT_EVERY_MS) return;
    onProgress?.(run.rows, run.bytesRead);
    const { rows, badRows, bytesRead } = run;
    const [seen] = await database
      .update(imports)
      .set({ rows, badRows, bytesRead })
      .where(eq(imports.id, id))
      .returning({ isCancelled: imports.isCancelled });
    reported = performance.now();
    if (seen?.isCancelled) throw new Cancelled();
    await checkRoom();
  };
  try {
    const running = isCheck ? ('checking' as const) : ('running' as const);
    await database.update(imports).set({ status: running, rows: 0, bytesRead: 0 }).where(eq(imports.id, id));
    return await inTransaction(database, async (session) => {
      await lockImport(session, id);
      await importRows({ database, session }, source, run, record, report);
      await report(true);
      if (isCheck) throw new Checked();
      if (run.badRows > 0 && !record.acceptBadRows) throw new Refused();
      // With the rows themselves: an import that is done is known to be, whatever happens next.
      const [done] = await session
        .update(imports)
        .set({ ...outcome(), status: (await hangingOn(session, id)) ? 'deriving' : 'done', detail: null })
        .where(eq(imports.id, id))
        .returning();
      return done!;
    });
  } catch (error) {
    if (error instanceof Checked) return finish({ status: 'checked', detail: null });
    run.counts = {};
    if (error instanceof Cancelled) {
      return finish({ status: 'cancelled', isCancelled: false, detail: 'stopped by hand; nothing was imported' });
    }
    if (error instanceof Refused) {
      const detail = `${run.badRows} of ${run.rows} rows are bad; nothing was imported`;
      return finish({ status: 'refused', detail });
    }
    if (error instanceof TableError || error instanceof HeaderError) {
      return finish({ status: 'failed', detail: storable(error.message) });
    }
    throw error;
  }
}

async function importRows(
  target: Target,
  source: FileSource,
  run: Run,
  record: ImportRecord,
  report: (isForced: boolean) => Promise<void>,
): Promise<void> {
  const inspected = await inspectFile(target.database, source, settingsOf(record));
  run.format = inspected.format;
  const { matching, conventions } = inspected;
  let width = 0;
  let current: string[] = [];
  let position: Readonly<Record<string, number>> = {};
  const raw = (column: string): string | undefined => {
    const at = position[column];
    return at === undefined ? undefined : trimmed(current[at]);
  };
  const contract = contractCells(raw);
  const cells: Cells = (column) => {
    const text = raw(column);
    if (text === undefined) return position[CONTRACT] === undefined ? undefined : contract(column);
    const type = columnType(column);
    if (type !== 'text') return plainText(text, type, conventions);
    // What an export has guarded against spreadsheets.
    return inspected.format === 'csv' ? unguarded(text) : text;
  };
  const counted = {
    ...source,
    stream: async function* () {
      for await (const chunk of source.stream()) {
        run.bytesRead += chunk.length;
        yield chunk;
      }
    },
  };
  let sink: Sink | null = null;
  const reader = await readTable(counted, inspected);
  for await (const batch of reader.batches()) {
    if ('quotes' in batch) {
      run.rows += batch.quotes.block.count;
      await sink?.addQuotes?.(batch.quotes);
      batch.quotes.block.count = 0;
      await sink?.pause();
      await report(false);
      continue;
    }
    await report(false);
    for (const row of batch.rows) {
      current = row.cells;
      if (!sink) {
        const header = matchHeader(current, matching);
        run.header = header;
        position = header.position;
        width = current.length;
        sink = sinkOf(header.kind, target, run, conventions);
        if (sink.addQuotes && (conventions.decimal ?? '.') === '.') readQuotes(reader, header, width);
        continue;
      }
      run.rows++;
      try {
        const pending = sink.add(row.number, cells, widthFault(current, width));
        if (pending) await pending;
      } catch (error) {
        run.fault(row.number, error, raw);
      }
      // Small batches: one is written while the next is read.
      if (run.rows % ROWS_PER_PAUSE === 0) {
        await sink.pause();
        await report(false);
      }
    }
  }
  if (!sink) throw new TableError('the file is empty');
  await sink.end();
}

function sinkOf(kind: FileKind, target: Target, run: Run, conventions: Conventions): Sink {
  if (kind === 'chain') return chainSink(target, run, conventions);
  return kind === 'fills' || kind === 'positions' ? fillSink(target, run, kind) : recordSink(target, run, kind);
}

/** What a record says of how its file is to be read. */
export function settingsOf(record: ImportRecord): ImportSettings {
  const { what, columns, conventions } = record;
  return { matching: what && columns ? { kind: what as Matching['kind'], columns } : undefined, conventions };
}

/** Lets a reader hand on the plain lines of a chain as columns, where it can and the file has no contract symbols. */
function readQuotes(reader: TableReader, header: MatchedHeader, width: number): void {
  if (!('quotes' in reader) || header.position[CONTRACT] !== undefined) return;
  const columns = new Array<QuoteColumn | null>(width).fill(null);
  for (const name of [...TEXT_COLUMNS, ...NUMBER_COLUMNS, 'side'] as const) {
    const at = header.position[name];
    if (at !== undefined) columns[at] = name;
  }
  reader.quotes = new QuoteLines(columns, 2);
}

/** The cells that a contract symbol stands for; its text is read once per row. */
function contractCells(raw: (column: string) => string | undefined): Cells {
  let text: string | undefined;
  let terms: ReturnType<typeof parseContractSymbol> = null;
  return (column) => {
    const now = raw(CONTRACT) ?? '';
    if (now !== text) {
      text = now;
      terms = parseContractSymbol(now);
    }
    if (!['symbol', 'expiry', 'strike', 'side'].includes(column)) return undefined;
    if (!terms) throw new CellError(CONTRACT, now, 'is no 21-character contract symbol like MRX40 310320C04200000');
    return String(terms[column as keyof typeof terms]);
  };
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
