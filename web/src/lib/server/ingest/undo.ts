import { and, desc, eq, getTableColumns, getTableName, gt, or, sql } from 'drizzle-orm';
import { inTransaction, tables, type Database, type Session } from '../db';
import { causeOf, StateError } from '../errors';
import { followingImport, hangingOn, rebuildDerived, type Progress } from './derive';
import { unbookImport } from './fills';
import { lockFeed, lockSymbol } from './locks';
import type { ImportRecord } from './import';
import { INTRADAY_BARS, RECORD_KINDS } from './records';

const { feed, imports, journal, prints, snapshots } = tables;

/** What the import of the feed says that it is: taken back, the feed begins again. */
export const FEED = 'feed';

/** Why an import cannot be undone. */
export class UndoError extends StateError {}

/** The tables that the journal speaks of, in the order in which they are put back: their keys, and their other columns. */
const TABLES = [...Object.values(RECORD_KINDS), INTRADAY_BARS]
  .filter(({ isAppended }) => !isAppended)
  .map(({ table, key }) => {
    const columns = Object.entries(getTableColumns(table));
    const named = (isKey: boolean) =>
      columns.filter(([name]) => key.includes(name) === isKey).map(([, { name }]) => name);
    return { name: getTableName(table), keys: named(true), others: named(false) };
  })
  // Whatever names an underlying goes before it.
  .sort((a, b) => Number(a.name === 'underlyings') - Number(b.name === 'underlyings'));

/**
 * Puts everything back as it was before an import: what it added goes, what it changed is restored. All of it or, where
 * a later import has changed the same again, nothing.
 *
 * @param andThen done in the same transaction: the job that goes on with it
 * @returns the record, `undoing`: fits that depend on restored quotes, rates, dividends or terms are still to be derived
 * @throws UndoError naming the import that has to be undone first, or what depends on what was added
 */
export async function undoImport(
  database: Database,
  record: ImportRecord,
  andThen: (session: Session) => Promise<void>,
): Promise<ImportRecord> {
  return inTransaction(database, async (session) => {
    // A year of an underlying takes longer than anybody who only looks may.
    await session.execute(sql`SET LOCAL statement_timeout = 0`);
    if (record.what === FEED) {
      await lockFeed(session);
      await session.delete(feed).where(eq(feed.importId, record.id));
    }
    const [held] = await session.select().from(imports).where(eq(imports.id, record.id)).for('update');
    if (held?.status !== 'done')
      throw new UndoError(`only an import that is done can be undone; this one is ${held?.status}`);
    const symbols = await session.execute<{ symbol: string }>(sql`
      SELECT DISTINCT symbol FROM snapshots WHERE import_id = ${record.id} ORDER BY symbol`);
    for (const { symbol } of symbols.rows) await lockSymbol(session, symbol);
    await refuseIfChangedSince(session, record.id);
    await noteFollowing(session, record.id);
    // Snapshots that the import stored, replaced ones among them; what those were comes back from the journal.
    for (const table of ['slices', 'fits', 'measures']) {
      await session.execute(sql`
        DELETE FROM ${sql.identifier(table)} t USING snapshots s
        WHERE s.import_id = ${record.id} AND t.symbol = s.symbol AND t.asof = s.asof`);
    }
    await session.delete(snapshots).where(eq(snapshots.importId, record.id));
    await session.delete(prints).where(eq(prints.importId, record.id));
    await unbookImport(session, record.id);
    for (const table of ['slices', 'fits', 'measures', 'snapshots']) await restore(session, record.id, table);
    for (const table of TABLES) await putBack(session, record.id, table);
    const [undone] = await session
      .update(imports)
      .set({ status: 'undoing' })
      .where(eq(imports.id, record.id))
      .returning();
    await andThen(session);
    return undone!;
  });
}

/** Notes the snapshots that are derived again when those of an import are gone, as long as it can be seen which these are. */
async function noteFollowing(session: Session, id: number): Promise<void> {
  const following = await followingImport(session, id);
  if (following.length === 0) return;
  await session.insert(journal).values(
    following.map(({ symbol, asof }) => ({
      ...{ importId: id, table: 'snapshots', before: null },
      key: { symbol, asof: asof.toISOString() },
    })),
  );
}

async function refuseIfChangedSince(session: Session, id: number): Promise<void> {
  const [later] = await session
    .select({ id: imports.id, file: imports.file })
    .from(journal)
    .innerJoin(imports, eq(imports.id, journal.importId))
    .where(
      and(
        gt(journal.importId, id),
        eq(imports.status, 'done'),
        sql`(EXISTS (SELECT 1 FROM journal own WHERE own.import_id = ${id} AND own.table_name = ${journal.table}
              AND md5(own.key::text) = md5(${journal.key}::text) AND own.key = ${journal.key})
          OR (${journal.table} = 'snapshots' AND (${journal.before} ->> 'import_id')::int = ${id}))`,
      ),
    )
    .orderBy(desc(imports.id))
    .limit(1);
  if (later) throw new UndoError(`import ${later.id} (${later.file}) has changed the same since: undo it first`);
}

/** Records that were added go, those that were changed are what they were; what depends on these stays. */
async function putBack(session: Session, id: number, { name: table, keys, others }: (typeof TABLES)[number]) {
  const name = sql.identifier(table);
  const column = (from: string, key: string) => sql`${sql.identifier(from)}.${sql.identifier(key)}`;
  const same = sql.join(
    keys.map((key) => sql`${column('t', key)} = ${column('noted', key)}`),
    sql` AND `,
  );
  const ofImport = sql`j.import_id = ${id} AND j.table_name = ${table}`;
  try {
    await session.execute(sql`
      DELETE FROM ${name} t USING journal j, jsonb_populate_record(NULL::${name}, j.key) noted
      WHERE ${ofImport} AND j.before IS NULL AND ${same}`);
  } catch (error) {
    if ((causeOf(error) as { code?: string }).code !== FOREIGN_KEY) throw error;
    throw new UndoError('an underlying that this import added has data of other imports: undo those first');
  }
  if (others.length === 0) return;
  const set = sql.join(
    others.map((key) => sql`${sql.identifier(key)} = ${column('noted', key)}`),
    sql`, `,
  );
  await session.execute(sql`
    UPDATE ${name} t SET ${set} FROM journal j, jsonb_populate_record(NULL::${name}, j.before) noted
    WHERE ${ofImport} AND j.before IS NOT NULL AND ${same}`);
}

/** Snapshots and their slices that were replaced come back; what replaced them is gone already. */
async function restore(session: Session, id: number, table: string): Promise<void> {
  const name = sql.identifier(table);
  await session.execute(sql`
    INSERT INTO ${name} SELECT made.* FROM journal j, jsonb_populate_record(NULL::${name}, j.before) AS made
    WHERE j.import_id = ${id} AND j.table_name = ${table} AND j.before IS NOT NULL`);
}

const FOREIGN_KEY = '23503';

/** The last step of taking an import back: derives again what depends on it. Interrupted, it is done again. */
export async function deriveUndone(
  database: Database,
  record: ImportRecord,
  onProgress?: Progress,
): Promise<ImportRecord> {
  const noted = sql`EXISTS (SELECT 1 FROM journal j WHERE j.import_id = ${record.id} AND j.table_name = 'snapshots'
    AND j.key ->> 'symbol' = ${snapshots.symbol} AND (j.key ->> 'asof')::timestamptz = ${snapshots.asof})`;
  await rebuildDerived(
    database,
    or(noted, (await hangingOn(database, record.id, { isTakenBack: true })) ?? undefined),
    onProgress,
  );
  await database.delete(journal).where(eq(journal.importId, record.id));
  const [undone] = await database
    .update(imports)
    .set({ status: 'undone', finished: new Date() })
    .where(eq(imports.id, record.id))
    .returning();
  return undone!;
}
