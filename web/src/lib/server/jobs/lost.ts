import { and, inArray, sql } from 'drizzle-orm';
import { inTransaction, tables, type Database } from '../db';
import { failImport, isImportRunning } from '../ingest';
import { send } from './queue';

const { imports, tasks, uploads } = tables;

const LOST_LOCK = 4898;
/** Younger than this, its job may still be on its way. */
const YOUNG_SECONDS = 60;

/** That no job is left that names a row. */
const isForgotten = (name: 'importId' | 'taskId', id: typeof imports.id | typeof tasks.id) =>
  sql`NOT EXISTS (SELECT 1 FROM pgboss.job j WHERE j.state < 'completed' AND (j.data ->> ${name})::int = ${id})`;
const isOld = (started: typeof imports.started | typeof tasks.started) =>
  sql`${started} < now() - make_interval(secs => ${YOUNG_SECONDS})`;

/**
 * Gives work that waits without a job its job again, and closes imports whose program has ended, as they are done by no job:
 * those of a command, and of the demo, which begins its file again.
 */
export async function resumeLost(database: Database): Promise<void> {
  await inTransaction(database, async (session) => {
    // One at a time: two would send two jobs.
    await session.execute(sql`SELECT pg_advisory_xact_lock(${LOST_LOCK})`);
    const isKept = sql<boolean>`EXISTS (SELECT 1 FROM ${uploads} WHERE ${uploads.importId} = ${imports.id})`;
    const lost = await session
      .select({ id: imports.id, status: imports.status, isKept })
      .from(imports)
      .where(
        and(
          inArray(imports.status, ['queued', 'checking', 'running', 'deriving', 'undoing']),
          isOld(imports.started),
          isForgotten('importId', imports.id),
        ),
      );
    for (const { id, status, isKept: hasFile } of lost) {
      if (status === 'deriving' || status === 'undoing') await send(session, 'measures', { importId: id });
      else if (hasFile) await send(session, 'import', { importId: id });
      else if (!(await isImportRunning(session, id))) {
        await failImport(session, id, new Error('it was interrupted'));
      }
    }
    const waiting = await session
      .select({ id: tasks.id, kind: tasks.kind })
      .from(tasks)
      .where(and(inArray(tasks.status, ['queued', 'running']), isOld(tasks.started), isForgotten('taskId', tasks.id)));
    for (const { id, kind } of waiting) await send(session, kind, { taskId: id });
  });
}
