import { METHOD_VERSION } from '@umwelt/core';
import { lt } from 'drizzle-orm';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { migrateDatabase, openDatabase, tables, type Database } from '../../web/src/lib/server/db';
import { diskSource, FILE_KINDS, importFile, inspectFile, type ImportRecord } from '../../web/src/lib/server/ingest';
import { demoSymbols, FIRST_SYMBOLS, findTask, isDemoHeld, startTask, type Task } from '../../web/src/lib/server/jobs';
import { ROOT } from './packages.mjs';
import { phase, Stop } from './phases.mjs';

/** Creates a database where it is missing. */
export async function ensureDatabase(adminUrl: string, name: string, template = 'template1'): Promise<void> {
  const client = new pg.Client({ connectionString: adminUrl });
  await client.connect();
  try {
    const { rowCount } = await client.query('SELECT 1 FROM pg_database WHERE datname = $1', [name]);
    if (rowCount === 0) await client.query(`CREATE DATABASE "${name}" TEMPLATE "${template}"`);
  } finally {
    await client.end();
  }
}

/** Brings the tables of a database to the present state. */
export async function prepareDatabase(url: string): Promise<Database> {
  const database = openDatabase(url);
  await phase('tables', async () => {
    await migrateDatabase(database, join(ROOT, 'web/drizzle'));
  });
  return database;
}

/** The underlyings of the demo that UMWELT_DEMO names, separated by commas; undefined for all. */
function wantedDemo(): string[] | undefined {
  const names = process.env.UMWELT_DEMO?.split(',').map((name) => name.trim());
  return names?.filter((name) => name !== '');
}

/** Puts into the queue what the data lack: the demo, and measures by the present method. */
export async function queueMissing(database: Database): Promise<{ demo: Task | null }> {
  const { measures } = tables;
  const [outdated] = await database
    .select({ method: measures.method })
    .from(measures)
    .where(lt(measures.method, METHOD_VERSION))
    .limit(1);
  if (outdated) await startTask(database, 'rebuild', { isOutdatedOnly: true });
  const wanted = wantedDemo();
  if (await isDemoHeld(database, wanted)) return { demo: null };
  return { demo: await startTask(database, 'demo', wanted ? { symbols: wanted } : {}) };
}

const LOOK_EVERY_MS = 200;
/** How long a database may be away while its task is waited for. */
const LOST_MS = 60_000;

/**
 * Waits for a task while its progress is shown.
 *
 * @param isEnough ends the waiting before the task itself has ended
 * @throws Stop where the task failed
 */
export async function followTask(
  database: Database,
  id: number,
  progress: (done: number, total: number, detail?: string) => void,
  say: (words: string) => void,
  isEnough: () => Promise<boolean> = async () => false,
): Promise<void> {
  let lost = 0;
  for (;;) {
    // A database that is started again is not the end of the task.
    const task = await findTask(database, id).catch((error: unknown) => {
      if ((lost += LOOK_EVERY_MS) > LOST_MS) throw error;
    });
    if (task === undefined) {
      await sleep(LOOK_EVERY_MS);
      continue;
    }
    lost = 0;
    if (task?.status === 'done') return say(task.detail ?? '');
    if (task?.status !== 'queued' && task?.status !== 'running') throw new Stop(task?.detail ?? 'the task is gone');
    if (task.total > 0) progress(task.done, task.total, task.detail ?? undefined);
    if (await isEnough()) return;
    await sleep(LOOK_EVERY_MS);
  }
}

/** Shows how far the demo is, to its end or until its first underlyings are there. */
export async function followDemo(database: Database, id: number, { isFirstEnough = false }): Promise<void> {
  const hasFirst = async () => {
    const held = await demoSymbols(database);
    const wanted = wantedDemo();
    return FIRST_SYMBOLS.every((symbol) => held.has(symbol) || (wanted && !wanted.includes(symbol)));
  };
  await phase(isFirstEnough ? 'first demo data' : 'demo data', (progress, say) =>
    followTask(database, id, progress, say, isFirstEnough ? hasFirst : undefined),
  );
}

/** Imports a file of the disk. `onProgress` is called with the rows and bytes read so far. */
export function importPath(
  database: Database,
  path: string,
  options: { acceptBadRows?: boolean; onProgress?: (rows: number, bytes: number) => void } = {},
): Promise<ImportRecord> {
  return importFile(database, diskSource(path), options);
}

/** Sorts files so that what others depend on comes first: underlyings, rates, dividends, events, bars, chains, others. */
export async function orderFiles(database: Database, paths: readonly string[]): Promise<string[]> {
  const ranked = await Promise.all(
    paths.map(async (path) => {
      // The import itself says what is wrong with a file.
      const inspected = await inspectFile(database, diskSource(path), {}, { mayAsk: true }).catch(() => null);
      return { path, rank: inspected ? FILE_KINDS.indexOf(inspected.guess.kind) : FILE_KINDS.length };
    }),
  );
  return ranked.sort((a, b) => a.rank - b.rank).map(({ path }) => path);
}
