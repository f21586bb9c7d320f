import { getTableName, sql } from 'drizzle-orm';
import { copyRows, ensurePartitions, monthsOf, tables, type Database, type Session } from '../db';
import { sliceRow, type SnapshotKey } from '../market/rows';
import { atKeys, writeDerived, type DerivedSnapshot } from './derive';
import type { WriteCounts } from './records';

const { fits, measures, slices, snapshots } = tables;

/**
 * Stores whole snapshots and what was derived from them. One that is held with the same quotes is left as it
 * is; one that differs replaces what was held.
 *
 * @param all snapshots, each once
 */
export async function storeSnapshots(
  { database, session }: { database: Database; session: Session },
  all: readonly DerivedSnapshot[],
  importId: number,
): Promise<WriteCounts> {
  const keys = all.map((item) => item.key);
  const held = await session
    .select({ symbol: snapshots.symbol, asof: snapshots.asof, digest: snapshots.digest })
    .from(snapshots)
    .where(atKeys(snapshots, keys));
  const digestAt = new Map(held.map((row) => [`${row.symbol} ${row.asof.getTime()}`, row.digest]));
  const heldDigest = ({ symbol, asof }: SnapshotKey) => digestAt.get(`${symbol} ${asof.getTime()}`);
  const different = all.filter((item) => heldDigest(item.key) !== item.digest);
  const replaced = different.filter((item) => heldDigest(item.key) !== undefined);
  const counts = {
    added: different.length - replaced.length,
    changed: replaced.length,
    unchanged: all.length - different.length,
  };
  if (different.length === 0) return counts;
  if (replaced.length > 0) {
    const replacedKeys = replaced.map((item) => item.key);
    await noteReplaced(session, replacedKeys, importId);
    for (const table of [slices, fits, measures, snapshots]) {
      await session.delete(table).where(atKeys(table, replacedKeys));
    }
  }
  await ensurePartitions(database, session, monthsOf(different.map((item) => item.key.asof)));
  await copyRows(
    session,
    snapshots,
    different.map(({ key, snapshot, contracts, digest }) => ({
      ...key,
      price: Number.isFinite(snapshot.price) ? snapshot.price : null,
      contracts,
      digest,
      importId,
    })),
  );
  await copyRows(
    session,
    slices,
    different.flatMap(({ key, snapshot }) => snapshot.slices.map((slice) => sliceRow(key, slice))),
  );
  await writeDerived(session, different);
  return counts;
}

/** Keeps what a snapshot was before another import replaces it. */
async function noteReplaced(session: Session, keys: readonly SnapshotKey[], importId: number): Promise<void> {
  await session.execute(sql`
    INSERT INTO journal (import_id, table_name, key, before)
    SELECT ${importId}, 'snapshots', jsonb_build_object('symbol', symbol, 'asof', asof), to_jsonb(snapshots)
    FROM snapshots WHERE ${atKeys(snapshots, keys)}`);
  // What was derived comes back with it: taken back, it is whole at once.
  await session.execute(sql`
    INSERT INTO journal (import_id, table_name, key, before)
    SELECT ${importId}, 'measures', jsonb_build_object('symbol', symbol, 'asof', asof), to_jsonb(measures)
    FROM measures WHERE ${atKeys(measures, keys)}`);
  for (const table of [slices, fits]) {
    await session.execute(sql`
      INSERT INTO journal (import_id, table_name, key, before)
      SELECT ${importId}, ${getTableName(table)}, jsonb_build_object('symbol', symbol, 'asof', asof, 'expiry', expiry,
        'settlement', settlement), to_jsonb(${table})
      FROM ${table} WHERE ${atKeys(table, keys)}`);
  }
}
