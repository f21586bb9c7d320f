import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { inTransaction, tables, type Database } from '../db';
import { send } from './queue';

const { tasks } = tables;
export type Task = typeof tasks.$inferSelect;
export type TaskKind = Task['kind'];

/** Thrown between steps of a task that somebody wants stopped. */
export class TaskCancelled extends Error {}

const RUNNING: Task['status'][] = ['queued', 'running'];
const TASK_LOCK = 4895;

/** Puts a task into the queue; one of its kind that waits or runs with the same input is taken for it. */
export async function startTask(
  database: Database,
  kind: TaskKind,
  input: Record<string, unknown> = {},
): Promise<Task> {
  return inTransaction(database, async (session) => {
    // Two at once would both find nothing that waits.
    await session.execute(sql`SELECT pg_advisory_xact_lock(${TASK_LOCK})`);
    const [waiting] = await session
      .select()
      .from(tasks)
      .where(
        and(eq(tasks.kind, kind), eq(tasks.input, input), inArray(tasks.status, RUNNING), eq(tasks.isCancelled, false)),
      );
    if (waiting) return waiting;
    const [task] = await session.insert(tasks).values({ kind, input, status: 'queued' }).returning();
    await send(session, kind, { taskId: task!.id });
    return task!;
  });
}

/** One task, or null. */
export async function findTask(database: Database, id: number): Promise<Task | null> {
  const [row] = await database.select().from(tasks).where(eq(tasks.id, id));
  return row ?? null;
}

const REPORT_EVERY_MS = 250;

/**
 * Runs a task: notes its progress and how it ended.
 *
 * @param work told how to report; returns what is to be said of it afterwards. It has to stand being run again from its
 *   beginning
 * @throws what the work throws, so that the queue tries again; not where somebody stopped it
 */
export async function runTask(
  database: Database,
  id: number,
  work: (task: Task, report: (done: number, total: number, detail?: string) => Promise<void>) => Promise<string>,
): Promise<void> {
  const task = await findTask(database, id);
  if (!task || !RUNNING.includes(task.status)) return;
  const set = (change: Partial<Task>) => database.update(tasks).set(change).where(eq(tasks.id, id)).returning();
  await set({ status: 'running' });
  let reported = 0;
  const report = async (done: number, total: number, detail?: string) => {
    if (performance.now() - reported < REPORT_EVERY_MS && done < total) return;
    const [seen] = await set({ done, total, ...(detail === undefined ? {} : { detail }) });
    reported = performance.now();
    if (seen?.isCancelled) throw new TaskCancelled();
  };
  try {
    const detail = await work(task, report);
    await set({ status: 'done', detail, finished: new Date() });
  } catch (error) {
    if (!(error instanceof TaskCancelled)) throw error;
    await set({ status: 'cancelled', detail: 'stopped by hand', finished: new Date() });
  }
}

/** Closes a task that was tried often enough. */
export async function failTask(database: Database, id: number, detail: string): Promise<void> {
  await database.update(tasks).set({ status: 'failed', detail, finished: new Date() }).where(eq(tasks.id, id));
}

/** Tasks, the latest first. */
export function listTasks(database: Database, limit = 20): Promise<Task[]> {
  return database.select().from(tasks).orderBy(desc(tasks.id)).limit(limit);
}

/** Asks for a task to be stopped; whoever runs it looks now and then. */
export async function cancelTask(database: Database, id: number): Promise<void> {
  await database
    .update(tasks)
    .set({ isCancelled: true })
    .where(and(eq(tasks.id, id), inArray(tasks.status, RUNNING)));
}
