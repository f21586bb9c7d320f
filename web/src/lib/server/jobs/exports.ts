import { and, asc, eq, gt } from 'drizzle-orm';
import { atOneMoment, inTransaction, tables, type Database, type Queryable, type Session } from '../db';
import { countRows, exportTable, writeTable, type ExportFormat, type ExportName, type ExportScope } from '../export';
import { partsOf } from '../ingest';
import { checkRoom } from '../room';
import type { Jobs } from './queue';
import { runTask, startTask, type Task } from './tasks';

const { taskFiles, tasks } = tables;

/** What is to be written; moments as texts, since it lies in the database as JSON. */
interface ExportInput {
  what: ExportName;
  format: ExportFormat;
  symbols?: string[];
  from?: string;
  to?: string;
}

/** Lets a table be written as a file, which is there when the task is done. */
export function startExport(
  database: Database,
  what: ExportName,
  format: ExportFormat,
  { symbols, from, to }: ExportScope,
): Promise<Task> {
  const input: ExportInput = {
    what,
    format,
    ...(symbols ? { symbols: [...symbols] } : {}),
    ...(from ? { from: from.toISOString() } : {}),
    ...(to ? { to: to.toISOString() } : {}),
  };
  return startTask(database, 'export', { ...input });
}

/** The name of the file that a task makes or has made; null where it makes none. */
export function fileNameOf({ kind, input }: Pick<Task, 'kind' | 'input'>): string | null {
  return kind === 'export' ? `${String(input.what)}.${String(input.format)}` : null;
}

/** Writes the file of an export: of one moment, whatever is imported meanwhile, and whole or not at all. */
export function workExport(database: Database, { taskId }: Jobs['export']): Promise<void> {
  return runTask(database, taskId, async (task, report) => {
    const { what, format, symbols, from, to } = task.input as unknown as ExportInput;
    const scope = { symbols, from: from ? new Date(from) : undefined, to: to ? new Date(to) : undefined };
    let rows = 0;
    const write = async (source: Queryable, session: Session) => {
      const total = await countRows(source, what, scope);
      const table = exportTable(source, what, scope);
      const counted = async function* () {
        for await (const batch of table.rows) {
          rows += batch.length;
          await report(rows, Math.max(rows, total));
          yield batch;
        }
      };
      const stream = writeTable({ ...table, rows: counted() }, format);
      let size = 0;
      for await (const { part, bytes } of partsOf(asBytes(stream))) {
        await session.insert(taskFiles).values({ taskId, part, bytes });
        size += bytes.length;
        await checkRoom();
      }
      await session.update(tasks).set({ fileBytes: size }).where(eq(tasks.id, taskId));
    };
    // Two connections: the one that reads stays at its moment, and sees nothing of how far the task is said to be.
    await atOneMoment(database, (source) => inTransaction(database, (session) => write(source, session)));
    return `${rows} rows`;
  });
}

async function* asBytes(stream: AsyncIterable<string | Buffer>): AsyncGenerator<Buffer> {
  for await (const chunk of stream) yield typeof chunk === 'string' ? Buffer.from(chunk) : chunk;
}

/** The file of a task, part by part. */
export async function* readTaskFile(database: Database, taskId: number): AsyncGenerator<Buffer> {
  for (let last = -1; ;) {
    const [next] = await database
      .select()
      .from(taskFiles)
      .where(and(eq(taskFiles.taskId, taskId), gt(taskFiles.part, last)))
      .orderBy(asc(taskFiles.part))
      .limit(1);
    if (!next) return;
    yield next.bytes;
    last = next.part;
  }
}
