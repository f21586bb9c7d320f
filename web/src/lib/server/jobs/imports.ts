import { desc, eq, getTableColumns, inArray, and, sql } from 'drizzle-orm';
import { inTransaction, tables, type Database } from '../db';
import { StateError } from '../errors';
import { checkRoom } from '../room';
import {
  checkMatching,
  createImport,
  rememberMatching,
  settingsOf,
  storeUpload,
  undoImport,
  uploadSource,
  inspectFile,
  type FileSource,
  type ImportRecord,
  type ImportSettings,
  type Inspected,
} from '../ingest';
import { send } from './queue';

const { imports, uploads } = tables;

/** An import with whether its file is still there. */
export type HeldImport = ImportRecord & { isKept: boolean };

const isKept = sql<boolean>`EXISTS (SELECT 1 FROM uploads WHERE uploads.import_id = ${imports.id})`;

/** Imports, the latest first, without their faults. */
export function listImports(database: Database, limit = 100): Promise<Omit<HeldImport, 'faults'>[]> {
  const { faults: _, ...columns } = getTableColumns(imports);
  return database
    .select({ ...columns, isKept })
    .from(imports)
    .orderBy(desc(imports.id))
    .limit(limit);
}

/** One import, or null. */
export async function findImport(database: Database, id: number): Promise<HeldImport | null> {
  const [row] = await database
    .select({ ...getTableColumns(imports), isKept })
    .from(imports)
    .where(eq(imports.id, id));
  return row ?? null;
}

async function found(database: Database, id: number): Promise<HeldImport> {
  const record = await findImport(database, id);
  if (!record) throw new RangeError(`there is no import ${id}`);
  return record;
}

/**
 * Keeps a file that comes in and puts its import into the queue, or holds it for somebody to look at. No transaction is open
 * while bytes are waited for.
 *
 * @param chunks the file as it arrives; where it breaks off nothing is kept
 * @param options `announced`: how many bytes are said to come
 * @throws StateError where somebody stops it meanwhile; RoomError where the disk has no room for it
 */
export async function receiveImport(
  database: Database,
  name: string,
  chunks: AsyncIterable<Buffer>,
  { isHeld = false, announced = 0, ...settings }: ImportSettings & { isHeld?: boolean; announced?: number },
): Promise<HeldImport> {
  await checkRoom(announced);
  const { id } = await createImport(database, { name, size: 0 }, settings, 'receiving');
  const own = and(eq(imports.id, id), eq(imports.status, 'receiving'));
  const stopped = () => new StateError('the import was stopped by hand while its file came in');
  try {
    await storeUpload(database, id, chunks, async (bytes) => {
      await checkRoom();
      const [seen] = await database.update(imports).set({ bytes }).where(own).returning({ id: imports.id });
      if (!seen) throw stopped();
    });
    await inTransaction(database, async (session) => {
      const [whole] = await session
        .update(imports)
        .set({ status: isHeld ? 'received' : 'queued' })
        .where(own)
        .returning({ id: imports.id });
      if (!whole) throw stopped();
      if (!isHeld) await send(session, 'import', { importId: id });
    });
  } catch (error) {
    await database.delete(uploads).where(eq(uploads.importId, id));
    await database.delete(imports).where(own);
    throw error;
  }
  return found(database, id);
}

async function fileOf(database: Database, record: HeldImport): Promise<FileSource> {
  const source = await uploadSource(database, record.id, record.file);
  if (!source) throw new StateError('its file is not kept any longer: send it again');
  return source;
}

/** Looks at the file of an import, for as long as somebody waits. Settings go before what the record says. */
export async function previewImport(
  database: Database,
  record: HeldImport,
  settings: ImportSettings,
  signal?: AbortSignal,
): Promise<Inspected> {
  const held = settingsOf(record);
  const merged = {
    matching: settings.matching ?? held.matching,
    conventions: { ...held.conventions, ...settings.conventions },
  };
  return inspectFile(database, await fileOf(database, record), merged, { mayAsk: true, signal });
}

const IDLE = ['received', 'checked', 'refused', 'failed', 'cancelled', 'undone'] as const;
const BUSY = ['checking', 'queued', 'running'] as const;

/** Puts a held import into the queue: to be checked, or to be imported. How its columns are matched is remembered. */
export async function queueImport(
  database: Database,
  record: HeldImport,
  settings: ImportSettings,
  status: 'checking' | 'queued',
  signal?: AbortSignal,
): Promise<HeldImport> {
  if (settings.matching) {
    checkMatching(settings.matching);
    const { header, conventions } = await previewImport(database, record, settings, signal);
    await rememberMatching(database, header, settings.matching, conventions);
  } else await fileOf(database, record);
  await inTransaction(database, async (session) => {
    const { matching, conventions, acceptBadRows } = settings;
    const changed = await session
      .update(imports)
      .set({
        status,
        detail: null,
        rows: 0,
        badRows: 0,
        bytesRead: 0,
        counts: {},
        faults: [],
        isCancelled: false,
        finished: null,
        ...(matching ? { what: matching.kind, columns: { ...matching.columns } } : {}),
        ...(conventions ? { conventions } : {}),
        ...(acceptBadRows === undefined ? {} : { acceptBadRows }),
      })
      .where(and(eq(imports.id, record.id), inArray(imports.status, [...IDLE])))
      .returning({ id: imports.id });
    if (changed.length === 0)
      throw new StateError(`the import is ${(await found(database, record.id)).status} already`);
    await send(session, 'import', { importId: record.id });
  });
  return found(database, record.id);
}

/** Stops an import: at once where it waits, else when whoever runs it looks. */
export async function cancelImport(database: Database, record: HeldImport): Promise<HeldImport> {
  const idle = await database
    .update(imports)
    .set({ status: 'cancelled', detail: 'stopped by hand; nothing was imported', finished: new Date() })
    .where(and(eq(imports.id, record.id), inArray(imports.status, ['receiving', 'received', 'checked', 'queued'])))
    .returning({ id: imports.id });
  if (idle.length === 0) {
    const busy = await database
      .update(imports)
      .set({ isCancelled: true })
      .where(and(eq(imports.id, record.id), inArray(imports.status, [...BUSY])))
      .returning({ id: imports.id });
    if (busy.length === 0) throw new StateError(`the import is ${record.status}; there is nothing to stop`);
  }
  return found(database, record.id);
}

/** Takes an import back; what depends on it is derived by a job. */
export async function takeBackImport(database: Database, record: HeldImport): Promise<HeldImport> {
  await undoImport(database, record, (session) => send(session, 'measures', { importId: record.id }));
  return found(database, record.id);
}
