import { sql } from 'drizzle-orm';
import { inTransaction, type Database, type Queryable, type Session } from './client';

const PARTITIONED = ['slices', 'fits', 'measures'];
/** Whoever makes partitions holds this lock, so that two imports do not make the same one. */
const PARTITION_LOCK = 4892;
/** Whoever writes into partitions shares this lock until his transaction ends; whoever takes empty ones away holds it alone. */
const USE_LOCK = 4899;
const MONTHS_PER_DROP = 20;
const MOST_TRIES = 8;

const partitionOf = (table: string, month: string) => `${table}_${month.replace('-', '_')}`;

/** The months (`2031-03`) of some instants, each once. */
export function monthsOf(instants: Iterable<Date>): string[] {
  return [...new Set(Array.from(instants, (instant) => instant.toISOString().slice(0, 7)))];
}

function monthAfter(month: string): string {
  const [year, number] = month.split('-').map(Number) as [number, number];
  return new Date(Date.UTC(year, number, 1)).toISOString().slice(0, 7);
}

/**
 * Makes the monthly partitions that rows of these months go to, where they do not exist, and lets them stay until the
 * transaction of whoever writes has ended.
 *
 * In a transaction of its own, and attached rather than created as a partition: so nobody who reads has to wait, not
 * even while the import that asked for them runs on.
 *
 * @param session of whoever writes
 * @param months as `2031-03`
 */
export async function ensurePartitions(database: Database, session: Session, months: readonly string[]): Promise<void> {
  const wrong = months.find((month) => !/^\d{4}-\d\d$/.test(month));
  if (wrong !== undefined) throw new RangeError(`no such month: ${wrong}`);
  await session.execute(sql`SELECT pg_advisory_xact_lock_shared(${USE_LOCK})`);
  if ((await missingOf(database, months)).length === 0) return;
  await inTransaction(database, async (own) => {
    await own.execute(sql`SELECT pg_advisory_xact_lock(${PARTITION_LOCK})`);
    for (const { table, month } of await missingOf(own, months)) {
      const name = partitionOf(table, month);
      await own.execute(sql.raw(`CREATE TABLE "${name}" (LIKE "${table}" INCLUDING ALL)`));
      await own.execute(withoutStatistics(name));
      await own.execute(
        sql.raw(
          `ALTER TABLE "${table}" ATTACH PARTITION "${name}" ` +
            `FOR VALUES FROM ('${month}-01 00:00:00+00') TO ('${monthAfter(month)}-01 00:00:00+00')`,
        ),
      );
    }
  });
}

async function missingOf(database: Queryable, months: readonly string[]): Promise<{ table: string; month: string }[]> {
  const { rows } = await database.execute<{ table: string; month: string }>(sql`
    SELECT t AS table, m AS month FROM unnest(${sql.param([...PARTITIONED])}::text[]) AS t, unnest(${sql.param([...months])}::text[]) AS m
    WHERE to_regclass(t || '_' || replace(m, '-', '_')) IS NULL`);
  return rows;
}

/**
 * Takes away the partitions of months of which nothing is held, as an import that came to nothing leaves them. Nobody waits for
 * it for longer than half a second; where somebody writes for longer it leaves them for another time.
 */
export async function dropEmptyPartitions(database: Database): Promise<void> {
  const { rows } = await database.execute<{ name: string }>(sql`
    SELECT c.relname AS name FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
    WHERE i.inhparent = 'slices'::regclass ORDER BY 1`);
  const months = rows.map(({ name }) => name.slice('slices_'.length).replace('_', '-'));
  for (let from = 0; from < months.length; from += MONTHS_PER_DROP) {
    const some = months.slice(from, from + MONTHS_PER_DROP);
    for (let tries = 1; ; tries++) {
      try {
        await inTransaction(database, (session) => dropEmpty(session, some));
        break;
      } catch (error) {
        if (!isLockTimeout(error)) throw error;
        if (tries === MOST_TRIES) return;
      }
    }
  }
}

async function dropEmpty(session: Session, months: readonly string[]): Promise<void> {
  await session.execute(sql`SET LOCAL lock_timeout = '500ms'`);
  await session.execute(sql`SELECT pg_advisory_xact_lock(${USE_LOCK})`);
  // Another worker may have taken some of them away meanwhile.
  const missing = new Set((await missingOf(session, months)).map(({ month }) => month));
  for (const month of months) {
    if (missing.has(month)) continue;
    const names = PARTITIONED.map((table) => partitionOf(table, month));
    const held = names.map((name) => `EXISTS (SELECT 1 FROM "${name}")`).join(' OR ');
    const found = await session.execute<{ held: boolean }>(sql.raw(`SELECT ${held} AS held`));
    if (!found.rows[0]?.held)
      await session.execute(sql.raw(`DROP TABLE ${names.map((name) => `"${name}"`).join(', ')}`));
  }
}

const isLockTimeout = (error: unknown) =>
  error instanceof Error && (error.cause as { code?: string } | undefined)?.code === '55P03';

/** No statistics are kept of arrays: nobody searches by them, and reading them all takes most of an ANALYZE. */
function withoutStatistics(table: string) {
  return sql.raw(`DO $$
    DECLARE field name;
    BEGIN
      FOR field IN SELECT attname FROM pg_attribute WHERE attrelid = '${table}'::regclass AND attnum > 0
        AND atttypid = 'double precision[]'::regtype
      LOOP EXECUTE format('ALTER TABLE %I ALTER COLUMN %I SET STATISTICS 0', '${table}', field); END LOOP;
    END $$`);
}
