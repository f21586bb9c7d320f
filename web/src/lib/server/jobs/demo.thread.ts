/** Steps of making the demo: some of its files are written and imported, by as many threads as there are cores. */
import { rmSync } from 'node:fs';
import { setPriority } from 'node:os';
import { writeChain, writeRest, writeTables, type Told } from '@umwelt/demo';
import { openDatabase, type Database } from '../db';
import { rememberDemo } from '../demo-held';
import { messageOf } from '../errors';
import { diskSource, importFile } from '../ingest';
import { isForRoom } from '../room';
import { endowDemoBook } from './demo-book';

export type DemoStep =
  | { step: 'tables' }
  /** @prop isHeld its chain is held already: it is only asked what it tells */
  | { step: 'chain'; symbol: string; isHeld: boolean }
  | { step: 'rest'; told: Told[] };

/** @prop isAwaited somebody waits for it; what nobody waits for leaves the cores to others */
export type DemoTask = DemoStep & { url: string; folder: string; isAwaited: boolean };

const NICE = 10;

/** What a step has brought; or that the disk had no room for it, which classes of errors do not tell beyond a thread. */
export type DemoResult = { rows: number; told: Told | null } | { noRoom: string };

export default async function make(task: DemoTask): Promise<DemoResult> {
  // Of this thread alone, and for good.
  if (!task.isAwaited) setPriority(NICE);
  const database = openDatabase(task.url);
  try {
    return await makeStep(database, task);
  } catch (error) {
    if (await isForRoom(error)) return { noRoom: messageOf(error) };
    throw error;
  } finally {
    await database.$client.end();
  }
}

async function makeStep(database: Database, task: DemoTask): Promise<DemoResult> {
  const { folder } = task;
  if (task.step === 'chain') {
    const { path, told } = await writeChain(folder, task.symbol);
    const rows = task.isHeld ? 0 : await importPath(database, path);
    rmSync(path, { force: true });
    if (!task.isHeld) await rememberDemo(database, task.symbol);
    return { rows, told };
  }
  const paths = task.step === 'tables' ? await writeTables(folder) : await writeRest(folder, task.told);
  let rows = 0;
  for (const path of paths) rows += await importPath(database, path);
  if (task.step === 'rest') await endowDemoBook(database);
  return { rows, told: null };
}

async function importPath(database: Database, path: string): Promise<number> {
  const record = await importFile(database, diskSource(path));
  if (record.status !== 'done') throw new Error(`${record.file}: ${record.detail}`);
  return record.rows;
}
