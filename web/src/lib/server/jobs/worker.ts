import { sql } from 'drizzle-orm';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import type PgBoss from 'pg-boss';
import { openDatabase, type Database } from '../db';
import { messageOf } from '../errors';
import { keepFeed } from '../feed';
import { isForRoom, untilRoom } from '../room';
import { giveUp, HANDLERS, sayWaiting } from './handlers';
import { resumeLost } from './lost';
import { CHANNEL, FEED_CALL, JOB_NAMES, openWorkerQueue, type JobName } from './queue';

export interface Worker {
  stop: () => Promise<void>;
}

const POLL_SECONDS = 2;
const SUPERVISE_MS = 2000;
/** Between its being fetched and its lock a job belongs to nobody that can be seen. */
const GRACE_SECONDS = 3;
/** A worker holds a lock for each job that it runs, on a connection that ends with it. */
const JOB_LOCK = 4894;
const TIDY_CRON = '17 * * * *';

type Job = PgBoss.JobWithMetadata<Record<string, unknown>>;

/**
 * Works on the jobs of a database until it is stopped, and looks after its feed. Any number of workers may do so, in this process or on other
 * machines. A job whose worker is gone, killed or cut off, is taken up by another within some seconds: its lock is free.
 */
export async function startWorker(url: string): Promise<Worker> {
  const database = openDatabase(url);
  const boss = await openWorkerQueue(url);
  const running = new Set<string>();
  const workers = new Map<JobName, string>();
  const keeper = keepFeed(database);
  const line = new Line(url, (name) => {
    if (name === FEED_CALL) keeper.wake();
    const id = workers.get(name as JobName);
    if (id) boss.notifyWorker(id);
  });
  await line.open();
  for (const name of JOB_NAMES) {
    const handler = HANDLERS[name];
    const options = { includeMetadata: true as const, batchSize: 1, pollingIntervalSeconds: POLL_SECONDS };
    const id = await boss.work<Record<string, unknown>>(name, options, async ([job]) => {
      if (!job) return;
      running.add(job.id);
      try {
        await line.query('SELECT pg_advisory_lock($1, hashtext($2))', [JOB_LOCK, job.id]);
        await whileThereIsRoom(database, job.data, () => handler(database, job.data as never));
      } catch (error) {
        if (job.retryCount >= job.retryLimit) await giveUp(database, job.data, messageOf(error));
        throw error;
      } finally {
        running.delete(job.id);
        // Another may have come in meanwhile.
        boss.notifyWorker(id);
        await line.query('SELECT pg_advisory_unlock($1, hashtext($2))', [JOB_LOCK, job.id]).catch(() => undefined);
      }
    });
    workers.set(name, id);
  }
  await resumeLost(database);
  await boss.schedule('tidy', TIDY_CRON);
  const supervisor = setInterval(() => {
    void superviseJobs(database, boss, line, running).catch(() => undefined);
  }, SUPERVISE_MS);
  return {
    async stop() {
      clearInterval(supervisor);
      keeper.stop();
      // What runs is given up: its transaction is rolled back, and it begins again elsewhere or later.
      await boss.stop({ graceful: false, close: true }).catch(() => undefined);
      await line.close();
      await Promise.race([database.$client.end(), new Promise((resolve) => setTimeout(resolve, 1000))]);
    },
  };
}

/** So long after the disk was full whatever fails may still do so for that: the database has to come back first. */
const REVIVAL_MS = 90_000;
const FULL_MS = 5000;
const CHECKPOINT_EVERY = 10;

/**
 * Does a job, and when the disk is full waits until it is not, and does it again from its beginning.
 *
 * @throws what else it throws
 */
async function whileThereIsRoom(database: Database, data: Record<string, unknown>, work: () => Promise<void>) {
  let full = -Infinity;
  for (;;) {
    let looks = 0;
    await untilRoom(async (words) => {
      full = performance.now();
      await sayWaiting(database, data, words);
      // What the log keeps since the last one may go.
      if (looks++ % CHECKPOINT_EVERY === 0) await database.execute(sql`CHECKPOINT`);
    });
    try {
      await work();
      return;
    } catch (error) {
      const isFull = await isForRoom(error);
      if (!isFull && performance.now() - full > REVIVAL_MS) throw error;
      if (isFull) full = performance.now();
      await sleep(isFull ? FULL_MS : SUPERVISE_MS);
    }
  }
}

/** Returns jobs to the queue whose worker is gone. */
async function superviseJobs(database: Database, boss: PgBoss, line: Line, running: ReadonlySet<string>) {
  const { rows } = await database.$client.query<Pick<Job, 'id' | 'name' | 'data'> & { isLast: boolean }>(
    `SELECT id, name, data, retry_count >= retry_limit AS "isLast" FROM pgboss.job
      WHERE state = 'active' AND name = ANY($1) AND started_on < now() - make_interval(secs => $2)`,
    [JOB_NAMES, GRACE_SECONDS],
  );
  for (const { id, name, data, isLast } of rows) {
    if (running.has(id)) continue;
    const key = [JOB_LOCK, id];
    const tried = await line.query('SELECT pg_try_advisory_lock($1, hashtext($2)) AS is_free', key);
    if (!tried.rows[0]?.is_free) continue;
    await boss.fail(name, id, { message: 'its worker is gone' });
    await line.query('SELECT pg_advisory_unlock($1, hashtext($2))', key);
    if (isLast) await giveUp(database, data, 'its worker was gone again and again');
  }
}

/** One connection that hears of new jobs and holds the locks of those that run; it is opened again when it breaks. */
class Line {
  private client: pg.Client | null = null;
  private last: Promise<unknown> = Promise.resolve();
  private isClosed = false;

  constructor(
    private readonly url: string,
    private readonly onJob: (name: string) => void,
  ) {}

  async open(): Promise<void> {
    const client = new pg.Client({ connectionString: this.url, application_name: 'umwelt worker' });
    client.on('error', () => undefined);
    client.on('end', () => {
      this.client = null;
      if (!this.isClosed) setTimeout(() => void this.open().catch(() => undefined), SUPERVISE_MS);
    });
    client.on('notification', ({ payload }) => this.onJob(payload ?? ''));
    try {
      await client.connect();
      await client.query(`LISTEN ${CHANNEL}`);
      this.client = client;
    } catch (error) {
      await client.end().catch(() => undefined);
      throw error;
    }
  }

  /** One after the other, as a connection takes them. */
  query(text: string, values: unknown[]): Promise<pg.QueryResult> {
    const answer = this.last.then(() => {
      if (!this.client) throw new Error('the database is not reached');
      return this.client.query(text, values);
    });
    this.last = answer.catch(() => undefined);
    return answer;
  }

  async close(): Promise<void> {
    this.isClosed = true;
    await this.client?.end().catch(() => undefined);
  }
}
