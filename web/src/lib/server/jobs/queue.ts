import PgBoss from 'pg-boss';
import type { Database } from '../db';

/** The kinds of jobs. A job names a row, which says what is to be done and how far it is. */
export interface Jobs {
  /** Checks, imports or takes back, as the state of the import says. */
  import: { importId: number };
  /** Derives again what depends on an import. */
  measures: { importId: number };
  rebuild: { taskId: number };
  demo: { taskId: number };
  /** Writes a file that is fetched when it is there. */
  export: { taskId: number };
  /** Removes files that nobody needs any longer. */
  tidy: Record<string, never>;
}
export type JobName = keyof Jobs;
export const JOB_NAMES = ['import', 'measures', 'rebuild', 'demo', 'export', 'tidy'] as const satisfies JobName[];

/** The name by which workers hear that the feed has been started or stopped. */
export const FEED_CALL = 'feed';

/** Lets the workers look at the feed at once. */
export async function wakeFeed(database: Database): Promise<void> {
  await database.$client.query(`NOTIFY ${CHANNEL}, '${FEED_CALL}'`);
}

/** On this channel of the database workers hear at once of a job; without it they find it when they look. */
export const CHANNEL = 'umwelt_jobs';

const RETRIES = 5;
/** The queue gives up on a job after this; one whose worker is gone is seen within seconds (worker.ts). */
const EXPIRES_AFTER_HOURS = 20;

const ERRORS = (error: Error) => console.error(`job queue: ${error.message}`);

/** Opens the queue for a worker, and makes its tables where they are missing. */
export async function openWorkerQueue(url: string): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: url, max: 4, application_name: 'umwelt worker' });
  boss.on('error', ERRORS);
  await boss.start();
  for (const name of JOB_NAMES) await boss.createQueue(name);
  return boss;
}

/** Puts a job into the queue, in the transaction of the caller where it has one. */
export async function send<Name extends JobName>(
  database: Pick<Database, '$client'> | { $client: { query: Database['$client']['query'] } },
  name: Name,
  data: Jobs[Name],
): Promise<void> {
  const boss = new PgBoss({
    db: { executeSql: (text, values) => database.$client.query(text, values) as Promise<{ rows: unknown[] }> },
    supervise: false,
    schedule: false,
    migrate: false,
  });
  await boss.send(name, data, {
    retryLimit: RETRIES,
    retryDelay: 1,
    expireInHours: EXPIRES_AFTER_HOURS,
  });
  await database.$client.query(`NOTIFY ${CHANNEL}, '${name}'`);
}
