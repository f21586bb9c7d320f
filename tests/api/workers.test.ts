import { spawn, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { eq, sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inTransaction, tables, type Database } from '../../web/src/lib/server/db';
import { failImport } from '../../web/src/lib/server/ingest';
import { findImport, findTask, receiveImport, startTask } from '../../web/src/lib/server/jobs';
import { CONTRACTS, longChain } from '../long-chain';
import { makeDatabase, type OwnDatabase } from './own-database';

const SESSIONS = 250;
const WORKER = fileURLToPath(new URL('../../scripts/worker.mjs', import.meta.url));

describe('workers in processes of their own', () => {
  let own: OwnDatabase;
  let database: Database;
  const workers: ChildProcess[] = [];

  beforeAll(async () => {
    own = await makeDatabase('workers');
    database = own.database;
  });
  afterAll(async () => {
    for (const worker of workers) worker.kill('SIGKILL');
    await own.remove();
  });

  /** `npm run worker`, as on another machine. */
  const startWorker = () =>
    new Promise<ChildProcess>((resolve, reject) => {
      const worker = spawn(process.execPath, [WORKER], {
        env: { ...process.env, DATABASE_URL: own.url },
        stdio: ['ignore', 'pipe', 'inherit'],
      });
      workers.push(worker);
      worker.stdout!.on('data', (chunk) => String(chunk).includes('Working on the jobs') && resolve(worker));
      worker.once('exit', () => reject(new Error('the worker ended')));
    });
  const send = async (text: string) => (await receiveImport(database, 'file.csv', [Buffer.from(text)] as never, {})).id;
  const statusOf = async (id: number) => (await findImport(database, id))!.status;
  const held = async () => {
    const { rows } = await database.execute<{ snapshots: number; contracts: number; measures: number }>(sql`
      SELECT count(*)::int AS snapshots, coalesce(sum(contracts), 0)::int AS contracts,
        (SELECT count(*)::int FROM measures) AS measures FROM snapshots`);
    return rows[0]!;
  };

  it('a job whose worker is killed is taken up by another, whole, and nothing is half-stored meanwhile', async () => {
    const first = await startWorker();
    const names = await send('symbol,name,kind\nWORK,Work,index\n');
    await expect.poll(() => statusOf(names)).toBe('done');
    const id = await send(longChain('WORK', SESSIONS));
    await expect.poll(() => statusOf(id), { interval: 10 }).toBe('running');
    first.kill('SIGKILL');
    await new Promise((resolve) => first.once('exit', resolve));
    expect(await statusOf(id)).toBe('running');
    expect(await held()).toEqual({ snapshots: 0, contracts: 0, measures: 0 });

    // Two at once: one of them takes it up, the other leaves it alone.
    await Promise.all([startWorker(), startWorker()]);
    await expect.poll(() => statusOf(id)).toBe('done');
    expect(await held()).toEqual({
      snapshots: SESSIONS,
      contracts: SESSIONS * CONTRACTS,
      measures: SESSIONS,
    });
    expect((await findImport(database, id))!.counts).toMatchObject({ added: SESSIONS });
  });

  it('work whose job has been lost is gone on with at a start, and what no program runs any longer is closed', async () => {
    for (const worker of workers) worker.kill('SIGKILL');
    const { imports, tasks } = tables;
    const old = { started: new Date(Date.now() - 120_000) };
    const file = await send('symbol,name,kind\nLOST,Lost,index\n');
    const rows = await send('symbol,date,open,high,low,close\nLOST,2031-01-06,1,1,1,1\n');
    const [command] = await database
      .insert(imports)
      .values({ ...old, file: 'command.csv', status: 'running' })
      .returning();
    const [written] = await database
      .insert(imports)
      .values({ ...old, file: 'written.csv', status: 'deriving' })
      .returning();
    const [task] = await database
      .insert(tasks)
      .values({ ...old, kind: 'rebuild', status: 'queued' })
      .returning();
    await database
      .update(imports)
      .set({ ...old, status: 'running' })
      .where(eq(imports.id, file));
    await database
      .update(imports)
      .set({ ...old, status: 'undoing' })
      .where(eq(imports.id, rows));
    await database.execute(sql`DELETE FROM pgboss.job`);
    await startWorker();
    await expect.poll(() => statusOf(file)).toBe('done');
    await expect.poll(() => statusOf(rows)).toBe('undone');
    await expect.poll(() => statusOf(written!.id)).toBe('done');
    const closed = (await findImport(database, command!.id))!;
    expect(closed).toMatchObject({ status: 'failed', detail: 'nothing was imported: it was interrupted' });
    const taskStatus = async () => (await findTask(database, task!.id))!.status;
    await expect.poll(taskStatus).toBe('done');
  });

  it('a job that cannot be done is given up, and says why', async () => {
    const { id } = await startTask(database, 'export', { what: 'nothing', format: 'csv' });
    await expect.poll(async () => (await findTask(database, id))!.status).toBe('failed');
    expect((await findTask(database, id))!.detail).not.toBe('');
  });

  it('what is under way when a transaction fails writes nothing behind its end', async () => {
    const { imports } = tables;
    let late: Promise<unknown> = Promise.resolve();
    const failed = inTransaction(database, async (session) => {
      const row = { file: 'late.csv', status: 'done' as const };
      late = session
        .insert(imports)
        .values(row)
        .then(() => session.insert(imports).values(row));
      late.catch(() => undefined);
      throw new Error('the work failed');
    });
    await expect(failed).rejects.toThrow('the work failed');
    await expect(late).rejects.toThrow();
    expect(await database.select().from(imports).where(eq(imports.file, 'late.csv'))).toEqual([]);
  });

  it('an import that gives up says of what is in that it is in', async () => {
    const { imports } = tables;
    const failed = async (status: 'running' | 'deriving' | 'undoing') => {
      const [row] = await database.insert(imports).values({ file: 'x.csv', status }).returning();
      return failImport(database, row!.id, new Error('why'));
    };
    expect(await failed('running')).toMatchObject({ status: 'failed', detail: 'nothing was imported: why' });
    expect(await failed('deriving')).toMatchObject({
      status: 'done',
      detail: expect.stringMatching(/^its rows are in/) as string,
    });
    expect(await failed('undoing')).toMatchObject({
      status: 'undone',
      detail: expect.stringMatching(/^it is taken back/) as string,
    });
  });
});
