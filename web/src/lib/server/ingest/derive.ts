import { deriveSnapshot, METHOD_VERSION, type SnapshotFit } from '@umwelt/core';
import { and, asc, eq, gte, inArray, lt, or, sql, type SQL } from 'drizzle-orm';
import { copyRows, inTransaction, tables, type Database, type Queryable, type Session } from '../db';
import { fitRow, measureRow, sliceOfRow, type SnapshotKey } from '../market/rows';
import { TermsStore } from '../market/terms';
import type { FinishedSnapshot } from './chain';

const { fits, journal, measures, rates, slices, snapshots, underlyings } = tables;

type Keyed = typeof fits | typeof measures | typeof slices | typeof snapshots;

/** The rows of some snapshots. One array per underlying: a condition per snapshot takes longer to plan than to read. */
export function atKeys(table: Keyed, keys: readonly SnapshotKey[]): SQL | undefined {
  const bySymbol = new Map<string, string[]>();
  for (const { symbol, asof } of keys) {
    const moments = bySymbol.get(symbol);
    if (moments) moments.push(asof.toISOString());
    else bySymbol.set(symbol, [asof.toISOString()]);
  }
  return or(
    ...Array.from(bySymbol, ([symbol, moments]) =>
      and(eq(table.symbol, symbol), sql`${table.asof} = ANY(${sql.param(moments)}::timestamptz[])`),
    ),
  );
}

interface Derived {
  key: SnapshotKey;
  fit: SnapshotFit;
}

/** A snapshot with what is derived from it, ready to be written. */
export interface DerivedSnapshot extends FinishedSnapshot, Derived {}

/** Derives fits and measures of a snapshot whose terms have been loaded. Asks nothing of the database. */
export function deriveFinished(finished: FinishedSnapshot, terms: TermsStore): DerivedSnapshot {
  const { snapshot } = finished;
  const key = { symbol: snapshot.symbol, asof: new Date(snapshot.asof) };
  return { ...finished, key, fit: deriveSnapshot(snapshot, terms.terms(snapshot.symbol, snapshot.asof)) };
}

/** Writes what was derived; nothing of it may be there. */
export async function writeDerived(session: Session, items: readonly Derived[]): Promise<void> {
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

const SYMBOL_LOCK = 4890;

/** Whoever writes snapshots of an underlying holds its lock until the end of the transaction. */
export async function lockSymbol(session: Queryable, symbol: string): Promise<void> {
  await session.execute(sql`SELECT pg_advisory_xact_lock(${SYMBOL_LOCK}, hashtext(${symbol}))`);
}

/** Whether to go on, asked between batches. */
export type Progress = (done: number, total: number) => Promise<void> | void;

const SNAPSHOTS_PER_BATCH = 24;

/**
 * Derives fits and measures anew from the stored slices. Each batch is a transaction of its own: what is read
 * meanwhile is a snapshot's old measures or its new ones, and a batch that was interrupted is done again.
 *
 * @param which condition on snapshots; all when not given
 * @param onProgress told after each batch; it may throw to stop there
 * @returns how many snapshots were derived
 */
export async function rebuildDerived(database: Database, which?: SQL, onProgress?: Progress): Promise<number> {
  const keys = await database
    .select({ symbol: snapshots.symbol, asof: snapshots.asof })
    .from(snapshots)
    .where(which)
    .orderBy(asc(snapshots.symbol), asc(snapshots.asof));
  for (let from = 0, to = 0; from < keys.length; from = to) {
    const { symbol } = keys[from]!;
    while (to < keys.length && to - from < SNAPSHOTS_PER_BATCH && keys[to]!.symbol === symbol) to++;
    await inTransaction(database, (session) => rebuildBatch(session, symbol, keys.slice(from, to)));
    await onProgress?.(to, keys.length);
  }
  return keys.length;
}

async function rebuildBatch(session: Session, symbol: string, keys: readonly SnapshotKey[]): Promise<void> {
  await lockSymbol(session, symbol);
  const terms = new TermsStore(session);
  await terms.load(symbol);
  const heads = await session.select().from(snapshots).where(atKeys(snapshots, keys));
  const rows = await session.select().from(slices).where(atKeys(slices, keys));
  const derived = heads.map(({ asof, price }) => {
    const own = rows.filter((row) => row.asof.getTime() === asof.getTime());
    const snapshot = { symbol, asof: asof.getTime(), price: price ?? NaN, slices: own.map(sliceOfRow) };
    return { key: { symbol, asof }, fit: deriveSnapshot(snapshot, terms.terms(symbol, snapshot.asof)) };
  });
  await session.delete(fits).where(atKeys(fits, keys));
  await session.delete(measures).where(atKeys(measures, keys));
  await writeDerived(session, derived);
}

/** Snapshots that an older method measured. */
export function ofOlderMethod(): SQL {
  return sql`EXISTS (SELECT 1 FROM measures m WHERE m.symbol = ${snapshots.symbol} AND m.asof = ${snapshots.asof}
    AND m.method < ${METHOD_VERSION})`;
}

/** Columns of an underlying that its fits hang on. */
const TERMS = ['kind', 'currency', 'exercise', 'calendar'];

/**
 * The snapshots whose fits hang on records that an import has changed: on rates from the day of the curve to that of
 * the next, on dividends those before the ex-date, on an underlying all.
 *
 * @returns null when there are none
 */
export async function hangingOn(database: Queryable, importId: number): Promise<SQL | null> {
  const changes = await database
    .select({ table: journal.table, key: journal.key, before: journal.before })
    .from(journal)
    .where(and(eq(journal.importId, importId), inArray(journal.table, ['rates', 'dividends', 'underlyings'])));
  const conditions: (SQL | undefined)[] = [];
  const latest = new Map<string, string>();
  const days = new Map<string, string[]>();
  for (const { table, key, before } of changes) {
    if (table === 'dividends') {
      if ((latest.get(key.symbol!) ?? '') < key.ex_date!) latest.set(key.symbol!, key.ex_date!);
    } else if (table === 'rates') days.set(key.currency!, [...(days.get(key.currency!) ?? []), key.date!]);
    else if (before !== null) {
      // Of an import that is taken back the journal alone tells what was different, so all is derived.
      const [now] = await database.select().from(underlyings).where(eq(underlyings.symbol, key.symbol!));
      const isSame = now && TERMS.every((name) => before[name] === now[name as keyof typeof now]);
      if (!isSame) conditions.push(eq(snapshots.symbol, key.symbol!));
    }
  }
  for (const [symbol, day] of latest) {
    conditions.push(and(eq(snapshots.symbol, symbol), lt(snapshots.asof, dayAfter(day))));
  }
  for (const [currency, changed] of days) conditions.push(await underCurves(database, currency, changed.sort()));
  return conditions.length > 0 ? or(...conditions)! : null;
}

const dayAfter = (day: string) => new Date(Date.parse(`${day}T00:00:00Z`) + 2 * 86_400_000);

async function underCurves(database: Queryable, currency: string, days: readonly string[]): Promise<SQL | undefined> {
  const first = days[0]!;
  const last = days.at(-1)!;
  const [around] = await database
    .select({
      before: sql<string | null>`max(${rates.date}) FILTER (WHERE ${rates.date} < ${first})`,
      after: sql<string | null>`min(${rates.date}) FILTER (WHERE ${rates.date} > ${last})`,
    })
    .from(rates)
    .where(eq(rates.currency, currency));
  const inCurrency = inArray(
    snapshots.symbol,
    database.select({ symbol: underlyings.symbol }).from(underlyings).where(eq(underlyings.currency, currency)),
  );
  return and(
    inCurrency,
    // Without an earlier curve the first one stands for all days before it.
    around?.before ? gte(snapshots.asof, new Date(Date.parse(`${first}T00:00:00Z`) - 86_400_000)) : undefined,
    around?.after ? lt(snapshots.asof, dayAfter(around.after)) : undefined,
  );
}
