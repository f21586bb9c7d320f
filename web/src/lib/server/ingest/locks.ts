import { sql } from 'drizzle-orm';
import type { Queryable } from '../db';

const SYMBOL_LOCK = 4890;
const FEED_LOCK = 4896;

/** Whoever writes snapshots of an underlying holds its lock until the end of the transaction. */
export async function lockSymbol(session: Queryable, symbol: string): Promise<void> {
  await session.execute(sql`SELECT pg_advisory_xact_lock(${SYMBOL_LOCK}, hashtext(${symbol}))`);
}

const IMPORT_LOCK = 4897;

/** Whoever runs an import holds its lock until the end of the transaction. */
export async function lockImport(session: Queryable, id: number): Promise<void> {
  await session.execute(sql`SELECT pg_advisory_xact_lock(${IMPORT_LOCK}, ${id})`);
}

/** Whether somebody is running an import. */
export async function isImportRunning(session: Queryable, id: number): Promise<boolean> {
  const { rows } = await session.execute<{ is_free: boolean }>(
    sql`SELECT pg_try_advisory_xact_lock(${IMPORT_LOCK}, ${id}) AS is_free`,
  );
  return !rows[0]!.is_free;
}

/** Whoever stores what the feed has brought, or takes it back, holds this lock until the end of the transaction. */
export async function lockFeed(session: Queryable): Promise<void> {
  await session.execute(sql`SELECT pg_advisory_xact_lock(${FEED_LOCK})`);
}
