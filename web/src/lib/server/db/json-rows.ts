import { getTableColumns, getTableName, sql, type SQL } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';

/**
 * Some rows as a set that a query can read from, given as one JSON parameter: the query builder would make a
 * parameter of every value.
 *
 * @param rows as the schema types them
 */
export function jsonRows<T extends PgTable>(table: T, rows: readonly Partial<T['$inferInsert']>[]): SQL {
  const columns = Object.entries(getTableColumns(table));
  const objects = rows.map((row) =>
    Object.fromEntries(columns.map(([key, column]) => [column.name, (row as Record<string, unknown>)[key] ?? null])),
  );
  return sql`json_populate_recordset(NULL::${sql.identifier(getTableName(table))}, ${JSON.stringify(objects)}::json)`;
}
