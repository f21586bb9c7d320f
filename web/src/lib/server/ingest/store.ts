import { deriveSnapshot, type SnapshotFit } from '@umwelt/core';
import { and, asc, eq, inArray, or, sql, type SQL } from 'drizzle-orm';
import { copyRows, ensurePartitions, monthsOf, tables, type Database, type Queryable, type Session } from '../db';
import { fitRow, measureRow, sliceOfRow, sliceRow, type SnapshotKey } from '../market/rows';
import { TermsStore } from '../market/terms';
import type { FinishedSnapshot } from './chain';
import type { WriteCounts } from './records';

const { fits, measures, slices, snapshots } = tables;

type Keyed = typeof fits | typeof measures | typeof slices | typeof snapshots;

function atKeys(table: Keyed, keys: readonly SnapshotKey[]): SQL | undefined {
  return or(...keys.map((key) => and(eq(table.symbol, key.symbol), eq(table.asof, key.asof))));
}

interface Derived {
  key: SnapshotKey;
  fit: SnapshotFit;
}

async function writeDerived(session: Session, items: readonly Derived[]) {
  await copyRows(
    session,
    measures,
    items.map(({ key, fit }) => measureRow(key, fit.measures)),
  );
  await copyRows(
    session,
    fits,
    items.flatMap(({ key, fit }) => fit.expiries.map((expiry) => fitRow(key, expiry))),
  );
}

/** A snapshot with what is derived from it, ready to be written. */
export interface DerivedSnapshot extends FinishedSnapshot, Derived {}

/** Derives fits and measures of a snapshot whose terms have been loaded. Asks nothing of the database. */
export function deriveFinished(finished: FinishedSnapshot, terms: TermsStore): DerivedSnapshot {
  const { snapshot } = finished;
  const key = { symbol: snapshot.symbol, asof: new Date(snapshot.asof) };
  return { ...finished, key, fit: deriveSnapshot(snapshot, terms.terms(snapshot.symbol, snapshot.asof)) };
}

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
  await ensurePartitions(database, monthsOf(different.map((item) => item.key.asof)));
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
  const at = (table: Keyed) => atKeys(table, keys);
  await session.execute(sql`
    INSERT INTO journal (import_id, table_name, key, before)
    SELECT ${importId}, 'snapshots', jsonb_build_object('symbol', symbol, 'asof', asof), to_jsonb(snapshots)
    FROM snapshots WHERE ${at(snapshots)}`);
  await session.execute(sql`
    INSERT INTO journal (import_id, table_name, key, before)
    SELECT ${importId}, 'slices', jsonb_build_object('symbol', symbol, 'asof', asof, 'expiry', expiry,
      'settlement', settlement), to_jsonb(slices)
    FROM slices WHERE ${at(slices)}`);
}

const SYMBOL_LOCK = 4890;

/** Whoever writes snapshots of an underlying holds its lock until the end of the transaction. */
export async function lockSymbol(session: Queryable, symbol: string): Promise<void> {
  await session.execute(sql`SELECT pg_advisory_xact_lock(${SYMBOL_LOCK}, hashtext(${symbol}))`);
}

/**
 * Derives fits and measures anew from the stored slices, after rates, dividends or the terms of an
 * underlying have changed, or after a method has.
 *
 * @param symbols whose snapshots; all when not given
 * @returns how many snapshots were derived
 */
export async function rebuildDerived(
  session: Session,
  symbols?: readonly string[],
  onProgress: (done: number, total: number) => void = () => undefined,
): Promise<number> {
  const terms = new TermsStore(session);
  const chosen = symbols ? inArray(snapshots.symbol, [...symbols]) : undefined;
  const keys = await session
    .select({ symbol: snapshots.symbol, asof: snapshots.asof, price: snapshots.price })
    .from(snapshots)
    .where(chosen)
    .orderBy(asc(snapshots.symbol), asc(snapshots.asof));
  for (const symbol of new Set(keys.map((key) => key.symbol))) await lockSymbol(session, symbol);
  const BATCH = 16;
  for (let at = 0; at < keys.length; at += BATCH) {
    const batch = keys.slice(at, at + BATCH);
    const rows = await session.select().from(slices).where(atKeys(slices, batch));
    await session.delete(fits).where(atKeys(fits, batch));
    await session.delete(measures).where(atKeys(measures, batch));
    const derived = [];
    for (const { symbol, asof, price } of batch) {
      const own = rows.filter((row) => row.symbol === symbol && row.asof.getTime() === asof.getTime());
      const snapshot = { symbol, asof: asof.getTime(), price: price ?? NaN, slices: own.map(sliceOfRow) };
      await terms.load(symbol);
      derived.push({ key: { symbol, asof }, fit: deriveSnapshot(snapshot, terms.terms(symbol, snapshot.asof)) });
    }
    await writeDerived(session, derived);
    onProgress(Math.min(at + BATCH, keys.length), keys.length);
  }
  return keys.length;
}
