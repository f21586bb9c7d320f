/**
 * Database: the schema, the connection, the partitions. May import drizzle and pg, nothing of ours.
 */
export * as tables from './schema';
export type { ImportState } from '../../api/imports/states';
export type { Conventions, RowFault } from './schema';
export {
  atOneMoment,
  inTransaction,
  migrateDatabase,
  openDatabase,
  type Database,
  type Queryable,
  type Session,
} from './client';
export { ChangeLog, type Change } from './changes';
export { dropEmptyPartitions, ensurePartitions, monthsOf } from './partitions';
export { copyRows, readColumns } from './copy';
export { jsonRows } from './json-rows';
