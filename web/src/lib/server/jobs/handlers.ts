import { and, eq, gte, inArray, isNotNull, lt, sql } from 'drizzle-orm';
import { dropEmptyPartitions, tables, type Database } from '../db';
import {
  deriveImport,
  deriveUndone,
  failImport,
  ofOlderMethod,
  rebuildDerived,
  runImport,
  uploadSource,
} from '../ingest';
import { workDemo } from './demo';
import { workExport } from './exports';
import { findImport } from './imports';
import { resumeLost } from './lost';
import { send, type JobName, type Jobs } from './queue';
import { failTask, runTask } from './tasks';

const { changes, imports, requests, snapshots, structures, taskFiles, tasks, uploads } = tables;

type Handlers = { [Name in JobName]: (database: Database, data: Jobs[Name]) => Promise<void> };

async function workImport(database: Database, { importId }: Jobs['import']): Promise<void> {
  const record = await findImport(database, importId);
  if (!record) return;
  const isCheck = record.status === 'checking';
  if (isCheck || record.status === 'queued' || record.status === 'running') {
    const source = await uploadSource(database, importId, record.file);
    if (!source) {
      await failImport(database, importId, new Error('its file is not kept any longer: send it again'));
      return;
    }
    const run = await runImport(database, record, source, { isCheck });
    if (run.status === 'deriving') await send(database, 'measures', { importId });
    else if (run.status !== 'done') await dropEmptyPartitions(database);
  } else if (record.status === 'deriving') await send(database, 'measures', { importId });
}

async function workMeasures(database: Database, { importId }: Jobs['measures']): Promise<void> {
  const record = await findImport(database, importId);
  if (record?.status === 'deriving') await deriveImport(database, record);
  if (record?.status !== 'undoing') return;
  await deriveUndone(database, record);
  await dropEmptyPartitions(database);
}

/** Derives fits and measures again: of some underlyings or all, from a moment on, of those only that an older method made. */
function workRebuild(database: Database, { taskId }: Jobs['rebuild']): Promise<void> {
  return runTask(database, taskId, async ({ input }, report) => {
    const symbols = input.symbols as string[] | undefined;
    const which = and(
      symbols ? inArray(snapshots.symbol, symbols) : undefined,
      input.from ? gte(snapshots.asof, new Date(input.from as string)) : undefined,
      input.isOutdatedOnly ? ofOlderMethod() : undefined,
    );
    const count = await rebuildDerived(database, which, (done, total) => report(done, total));
    return `${count} snapshots derived anew by the present method`;
  });
}

const FILES_KEPT_DAYS = 7;
/** How long something deleted can be brought back. */
const DROPPED_KEPT_DAYS = 30;
const LONGEST_UPLOAD_HOURS = 24;
/** How long a caller's key stands for the same request. */
const REQUESTS_KEPT_DAYS = 2;
/** Whoever has not looked at what has changed for half as long reads everything again. */
const CHANGES_KEPT_DAYS = 2;

async function tidy(database: Database): Promise<void> {
  await resumeLost(database);
  await dropEmptyPartitions(database);
  await database.delete(changes).where(lt(changes.changed, sql`now() - make_interval(days => ${CHANGES_KEPT_DAYS})`));
  // Whoever received them is gone: no file takes so long.
  const lost = and(
    eq(imports.status, 'receiving'),
    lt(imports.started, sql`now() - make_interval(hours => ${LONGEST_UPLOAD_HOURS})`),
  );
  await database.delete(imports).where(lost);
  await database
    .delete(structures)
    .where(lt(structures.dropped, sql`now() - make_interval(days => ${DROPPED_KEPT_DAYS})`));
  await database.delete(requests).where(lt(requests.begun, sql`now() - make_interval(days => ${REQUESTS_KEPT_DAYS})`));
  const then = sql`now() - make_interval(days => ${FILES_KEPT_DAYS})`;
  const oldImports = database.select({ id: imports.id }).from(imports).where(lt(imports.started, then));
  await database.delete(uploads).where(inArray(uploads.importId, oldImports));
  const oldTasks = await database
    .update(tasks)
    .set({ fileBytes: null })
    .where(and(lt(tasks.started, then), isNotNull(tasks.fileBytes)))
    .returning({ id: tasks.id });
  await database.delete(taskFiles).where(
    inArray(
      taskFiles.taskId,
      oldTasks.map(({ id }) => id),
    ),
  );
}

/** What each kind of job does; all of them may be run again from their beginning. */
export const HANDLERS: Handlers = {
  import: workImport,
  measures: workMeasures,
  rebuild: workRebuild,
  demo: workDemo,
  export: workExport,
  tidy,
};

/** Says why a job does not go on yet, where those who wait for it look. */
export async function sayWaiting(database: Database, data: Record<string, unknown>, words: string): Promise<void> {
  const { importId, taskId } = data;
  if (typeof importId === 'number') {
    const which = and(eq(imports.id, importId), inArray(imports.status, ['queued', 'running']));
    await database.update(imports).set({ status: 'queued', detail: words }).where(which);
    const others = inArray(imports.status, ['checking', 'deriving', 'undoing']);
    await database
      .update(imports)
      .set({ detail: words })
      .where(and(eq(imports.id, importId), others));
  }
  if (typeof taskId === 'number') {
    const which = and(eq(tasks.id, taskId), inArray(tasks.status, ['queued', 'running']));
    await database.update(tasks).set({ detail: words }).where(which);
  }
}

/** Says that a job was tried often enough, where those who wait for it look. */
export async function giveUp(database: Database, data: Record<string, unknown>, reason: string): Promise<void> {
  if (typeof data.importId === 'number') await failImport(database, data.importId, new Error(reason));
  if (typeof data.taskId === 'number') await failTask(database, data.taskId, reason);
}
