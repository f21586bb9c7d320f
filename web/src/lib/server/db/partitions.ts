import { sql } from 'drizzle-orm';
import type { Queryable } from './client';

const PARTITIONED = ['slices', 'fits', 'measures'];

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
 * @param months as `2031-03`
 */
export async function ensurePartitions(database: Queryable, months: readonly string[]): Promise<void> {
  for (const month of months) {
    if (!/^\d{4}-\d\d$/.test(month)) throw new RangeError(`no such month: ${month}`);
    for (const table of PARTITIONED) {
      const name = `${table}_${month.replace('-', '_')}`;
      await database.execute(
        sql.raw(
          `CREATE TABLE IF NOT EXISTS "${name}" PARTITION OF "${table}" ` +
            `FOR VALUES FROM ('${month}-01 00:00:00+00') TO ('${monthAfter(month)}-01 00:00:00+00')`,
        ),
      );
    }
  }
}
