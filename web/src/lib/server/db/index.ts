/**
 * Database: the schema, the connection, the partitions. May import drizzle and pg, nothing of ours.
 */
export * as tables from './schema';
export type { RowFault } from './schema';
export { migrateDatabase, openDatabase, type Database, type Queryable } from './client';
export { ensurePartitions, monthsOf } from './partitions';
export { insertRows } from './insert';
