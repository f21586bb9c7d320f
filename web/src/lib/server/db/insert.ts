import { getTableColumns, getTableName, sql } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import type { Queryable } from './client';

/** A value as JSON. An array of doubles goes as the text of a PostgreSQL array, since JSON has no NaN. */
function literal(value: unknown): string {
  if (typeof value === 'number') return Number.isFinite(value) ? String(value) : 'null';
  if (value === null || value === undefined) return 'null';
  if (value instanceof Float64Array) return `"{${value.join(',')}}"`;
  return JSON.stringify(value);
}

/**
 * Inserts many rows as one JSON parameter. The query builder makes a parameter of every value, which took
 * longer than computing the values; so did JSON.stringify of an object per row.
 *
 * @param rows as the schema types them; arrays of doubles may hold NaN
 */
export async function insertRows<T extends PgTable>(
  database: Queryable,
  table: T,
  rows: readonly T['$inferInsert'][],
): Promise<void> {
  if (rows.length === 0) return;
  const columns = Object.entries(getTableColumns(table)).map(([name, column]) => ({ name, key: `"${column.name}":` }));
  const text = rows.map((row) => {
    const values = row as Record<string, unknown>;
    return `{${columns.map(({ name, key }) => key + literal(values[name])).join(',')}}`;
  });
  const name = sql.identifier(getTableName(table));
  await database.execute(
    sql`INSERT INTO ${name} SELECT * FROM json_populate_recordset(NULL::${name}, ${`[${text.join(',')}]`}::json)`,
  );
}
