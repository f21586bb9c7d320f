import { spawn, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Database } from '../../web/src/lib/server/db';
import { findImport, receiveImport } from '../../web/src/lib/server/jobs';
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
    await expect.poll(() => statusOf(names), { timeout: 20_000 }).toBe('done');
    const id = await send(longChain('WORK', SESSIONS));
    await expect.poll(() => statusOf(id), { timeout: 20_000, interval: 10 }).toBe('running');
    first.kill('SIGKILL');
    await new Promise((resolve) => first.once('exit', resolve));
    expect(await statusOf(id)).toBe('running');
    expect(await held()).toEqual({ snapshots: 0, contracts: 0, measures: 0 });

    // Two at once: one of them takes it up, the other leaves it alone.
    await Promise.all([startWorker(), startWorker()]);
    await expect.poll(() => statusOf(id), { timeout: 60_000 }).toBe('done');
    expect(await held()).toEqual({
      snapshots: SESSIONS,
      contracts: SESSIONS * CONTRACTS,
      measures: SESSIONS,
    });
    expect((await findImport(database, id))!.counts).toMatchObject({ added: SESSIONS });
  });
});
