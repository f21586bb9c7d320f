import { advance, FEED_START } from '@umwelt/demo';
import { and, eq, sql } from 'drizzle-orm';
import { inTransaction, tables, type Database, type Queryable } from '../db';
import { demoSymbols } from '../demo-held';
import { StateError } from '../errors';
import { createImport, FEED } from '../ingest';

const { feed } = tables;

/** The simulated feed as it stands now. Moments are milliseconds of the market. */
export interface FeedState {
  status: 'running' | 'stopped';
  /** Seconds of the market per second. */
  speed: number;
  moment: number;
  storedTo: number;
  /** Null as long as it has not been started: then nothing of it is held. */
  importId: number | null;
  /** Whether a worker looks after it; without one the market stands still. */
  isKept: boolean;
}

/** A feed without a worker runs on for at most this long: after that it resumes where it stopped. */
const LONGEST_LEAD_MS = 10_000;
const ID = 1;

const UNTOUCHED: FeedState = {
  status: 'stopped',
  speed: 1,
  moment: FEED_START,
  storedTo: FEED_START,
  importId: null,
  isKept: true,
};

/** The row with how long ago its moment was stated, by the clock of the database alone. */
async function readRow(database: Queryable) {
  const elapsed = sql<number>`extract(epoch FROM clock_timestamp() - ${feed.stated})::float8 * 1000`;
  const [row] = await database
    .select({
      status: feed.status,
      speed: feed.speed,
      moment: feed.moment,
      stated: sql<string>`${feed.stated}::text`,
      storedTo: feed.storedTo,
      importId: feed.importId,
      elapsed,
    })
    .from(feed)
    .where(eq(feed.id, ID));
  return row;
}

type FeedRow = NonNullable<Awaited<ReturnType<typeof readRow>>>;

function momentOf({ status, speed, moment, elapsed }: FeedRow): number {
  if (status === 'stopped') return moment.getTime();
  return advance(moment.getTime(), Math.max(0, Math.min(elapsed, LONGEST_LEAD_MS)) * speed);
}

/** The feed as it stands. */
export async function readFeed(database: Queryable): Promise<FeedState> {
  const row = await readRow(database);
  if (!row) return UNTOUCHED;
  const { status, speed, storedTo, importId, elapsed } = row;
  return {
    status,
    speed,
    moment: momentOf(row),
    storedTo: storedTo.getTime(),
    importId,
    isKept: status === 'stopped' || elapsed <= LONGEST_LEAD_MS,
  };
}

/**
 * Lets the feed go on from where it stands, or changes its speed.
 *
 * @throws StateError where nothing of the demo is held that could go on
 */
export async function startFeed(database: Database, speed: number): Promise<void> {
  await inTransaction(database, async (session) => {
    await session.execute(sql`LOCK TABLE feed IN SHARE ROW EXCLUSIVE MODE`);
    const row = await readRow(session);
    if (row) {
      const moment = new Date(momentOf(row));
      await session.update(feed).set({ status: 'running', speed, moment, stated: sql`clock_timestamp()` });
      return;
    }
    if ((await demoSymbols(session)).size === 0) {
      throw new StateError('the feed goes on with the demo market, of which nothing is held yet');
    }
    const record = await createImport(session, { name: 'simulated feed', size: 0 }, {}, 'done');
    await session
      .update(tables.imports)
      .set({ what: FEED, finished: new Date() })
      .where(eq(tables.imports.id, record.id));
    const start = new Date(FEED_START);
    await session.insert(feed).values({
      id: ID,
      status: 'running',
      speed,
      moment: start,
      stated: sql`clock_timestamp()`,
      storedTo: start,
      importId: record.id,
    });
  });
}

/** Lets the market stand still where it is. */
export async function stopFeed(database: Database): Promise<void> {
  await inTransaction(database, async (session) => {
    await session.execute(sql`LOCK TABLE feed IN SHARE ROW EXCLUSIVE MODE`);
    const row = await readRow(session);
    if (row?.status === 'running') {
      await session.update(feed).set({ status: 'stopped', moment: new Date(momentOf(row)) });
    }
  });
}

/**
 * States where a running feed has come to: what a worker does again and again.
 *
 * @returns that moment; null where it does not run, or was changed meanwhile
 */
export async function stateFeed(database: Database): Promise<number | null> {
  const row = await readRow(database);
  if (row?.status !== 'running') return null;
  const moment = momentOf(row);
  const stated = await database
    .update(feed)
    .set({ moment: new Date(moment), stated: sql`clock_timestamp()` })
    .where(and(eq(feed.id, ID), eq(feed.status, 'running'), sql`${feed.stated} = ${row.stated}::timestamptz`))
    .returning({ id: feed.id });
  return stated.length > 0 ? moment : null;
}
