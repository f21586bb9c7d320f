import { sql } from 'drizzle-orm';
import { inTransaction, type Database } from './client';

const PARTITIONED = ['slices', 'fits', 'measures'];
/** Whoever makes partitions holds this lock, so that two imports do not make the same one. */
const PARTITION_LOCK = 4892;
/** Months that are known to have theirs. */
const KNOWN = new WeakMap<Database, Set<string>>();

/** The months (`2031-03`) of some instants, each once. */
export function monthsOf(instants: Iterable<Date>): string[] {
  return [...new Set(Array.from(instants, (instant) => instant.toISOString().slice(0, 7)))];
}

function monthAfter(month: string): string {
  const [year, number] = month.split('-').map(Number) as [number, number];
  return new Date(Date.UTC(year, number, 1)).toISOString().slice(0, 7);
}

/**
 * Makes the monthly partitions that rows of these months go to, where they do not exist.
 *
 * In a transaction of its own, and attached rather than created as a partition: so nobody who reads has to wait, not
 * even while the import that asked for them runs on.
 *
 * @param months as `2031-03`
 */
export async function ensurePartitions(database: Database, months: readonly string[]): Promise<void> {
  const known = KNOWN.get(database) ?? new Set();
  KNOWN.set(database, known);
  const missing = months.filter((month) => !known.has(month));
  if (missing.length === 0) return;
  await inTransaction(database, async (session) => {
    await session.execute(sql`SELECT pg_advisory_xact_lock(${PARTITION_LOCK})`);
    for (const month of missing) {
      if (!/^\d{4}-\d\d$/.test(month)) throw new RangeError(`no such month: ${month}`);
      for (const table of PARTITIONED) {
        const name = `${table}_${month.replace('-', '_')}`;
        const { rows } = await session.execute<{ found: string | null }>(sql`SELECT to_regclass(${name}) AS found`);
        if (rows[0]?.found) continue;
        await session.execute(sql.raw(`CREATE TABLE "${name}" (LIKE "${table}" INCLUDING ALL)`));
        await session.execute(withoutStatistics(name));
        await session.execute(
          sql.raw(
            `ALTER TABLE "${table}" ATTACH PARTITION "${name}" ` +
              `FOR VALUES FROM ('${month}-01 00:00:00+00') TO ('${monthAfter(month)}-01 00:00:00+00')`,
          ),
        );
      }
    }
  });
  for (const month of missing) known.add(month);
}

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
