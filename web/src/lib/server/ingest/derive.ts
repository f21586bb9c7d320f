import {
  dayOf,
  deriveSnapshot,
  instantOf,
  METHOD_VERSION,
  MILLISECONDS_PER_DAY,
  type Calendar,
  type PastExpiry,
  type PastSession,
  type Snapshot,
  type SnapshotFit,
} from '@umwelt/core';
import { and, asc, desc, eq, gte, inArray, lt, or, sql, type SQL } from 'drizzle-orm';
import { copyRows, inTransaction, tables, type Database, type Queryable, type Session } from '../db';
import { fitOfRow, fitRow, measureRow, sliceOfRow, type SnapshotKey } from '../market/rows';
import { TermsStore } from '../market/terms';
import { checkRoom } from '../room';
import type { FinishedSnapshot } from './chain';
import { lockSymbol } from './locks';

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

/**
 * Derives snapshots in order of time, each with what is known of the session before: its last snapshot, and what was derived
 * from that. One underlying at a time, or several beside each other.
 */
export class SessionsBefore {
  private readonly latest = new Map<string, { day: string; now: PastSession; before: PastSession | null }>();

  constructor(
    private readonly session: Queryable,
    private readonly terms: TermsStore,
  ) {}

  /** Whether anything of an underlying has been taken or read. */
  isKnown(symbol: string): boolean {
    return this.latest.has(symbol);
  }

  /** Reads what is held of an underlying from before the session of a moment. */
  async load(symbol: string, asof: number): Promise<void> {
    const start = sessionStart(this.terms.calendar(symbol), asof);
    const [head] = await this.session
      .select()
      .from(snapshots)
      .where(and(eq(snapshots.symbol, symbol), lt(snapshots.asof, new Date(start))))
      .orderBy(desc(snapshots.asof))
      .limit(1);
    if (!head) return;
    const [past] = await pastSessions(this.session, symbol, [head]);
    this.note(past!);
  }

  /** The session that has been taken or read last. */
  last(symbol: string): PastSession | null {
    return this.latest.get(symbol)?.now ?? null;
  }

  /** Derives fits and measures of a snapshot whose terms have been loaded. Asks nothing of the database. */
  derive(finished: FinishedSnapshot): DerivedSnapshot {
    const { snapshot } = finished;
    const { symbol, asof } = snapshot;
    const known = this.latest.get(symbol);
    const day = this.dayOf(snapshot);
    const before = known ? (known.day < day ? known.now : known.day === day ? known.before : null) : null;
    const exclusions = this.terms.exclusions(symbol, asof);
    const fit = deriveSnapshot(snapshot, this.terms.terms(symbol, asof), { before, exclusions });
    this.latest.set(symbol, { day, now: { snapshot, expiries: fit.expiries }, before });
    return { ...finished, key: { symbol, asof: new Date(asof) }, fit };
  }

  private note(past: PastSession): void {
    this.latest.set(past.snapshot.symbol, { day: this.dayOf(past.snapshot), now: past, before: null });
  }

  private dayOf({ symbol, asof }: Snapshot): string {
    return dayOf(this.terms.calendar(symbol), asof);
  }
}

/** Snapshots with what was derived from them, as they are stored. */
async function pastSessions(
  session: Queryable,
  symbol: string,
  heads: readonly (typeof snapshots.$inferSelect)[],
): Promise<PastSession[]> {
  if (heads.length === 0) return [];
  const quotes = await session.select().from(slices).where(atKeys(slices, heads));
  const derived = await session.select().from(fits).where(atKeys(fits, heads));
  return heads.map(({ asof, price }) => ({
    snapshot: snapshotOf(symbol, asof, price, quotes),
    expiries: derived.filter((row) => row.asof.getTime() === asof.getTime()).map(fitOfRow),
  }));
}

function sessionStart(calendar: Calendar, asof: number): number {
  return instantOf(calendar, dayOf(calendar, asof), '00:00');
}

function snapshotOf(
  symbol: string,
  asof: Date,
  price: number | null,
  rows: readonly (typeof slices.$inferSelect)[],
): Snapshot {
  const own = rows.filter((row) => row.asof.getTime() === asof.getTime());
  return { symbol, asof: asof.getTime(), price: price ?? NaN, slices: own.map(sliceOfRow) };
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

/** Whether to go on, asked between batches. */
export type Progress = (done: number, total: number) => Promise<void> | void;

const SNAPSHOTS_PER_BATCH = 24;

/**
 * Derives fits and measures again from the stored slices. Each batch is a transaction of its own: what is read
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
  let terms: TermsStore | null = null;
  for (let from = 0, to = 0; from < keys.length; from = to) {
    const { symbol } = keys[from]!;
    while (to < keys.length && to - from < SNAPSHOTS_PER_BATCH && keys[to]!.symbol === symbol) to++;
    // Read once per underlying: terms that change meanwhile have everything derived again that depends on them.
    if (!terms?.isKnown(symbol)) terms = new TermsStore(database);
    const known = terms;
    const later = new Set(keys.slice(to).flatMap((key) => (key.symbol === symbol ? [key.asof.getTime()] : [])));
    await inTransaction(database, (session) =>
      rebuildBatch(session, symbol, keys.slice(from, to), known, (asof) => later.has(asof.getTime())),
    );
    await onProgress?.(to, keys.length);
    await checkRoom();
  }
  return keys.length;
}

/**
 * Derives some snapshots of one underlying again, in the transaction of the caller, and those of later sessions that come out
 * otherwise because of it: an expiry that was broken stays so, a curve without a shape takes that of the session before.
 *
 * @param keys in order of time
 * @param isLater tells of a snapshot that the caller derives again himself, after these
 */
export async function rebuildBatch(
  session: Session,
  symbol: string,
  keys: readonly SnapshotKey[],
  terms = new TermsStore(session),
  isLater: (asof: Date) => boolean = () => false,
): Promise<void> {
  await lockSymbol(session, symbol);
  await terms.load(symbol);
  let changed = await deriveKeys(session, symbol, keys, terms);
  while (changed.length > 0) {
    const next = (await keysAfter(session, symbol, terms.calendar(symbol), changed)).filter(
      (asof) => !isLater(asof) && !keys.some((key) => key.asof.getTime() === asof.getTime()),
    );
    if (next.length === 0) return;
    const following = next.map((asof) => ({ symbol, asof }));
    changed = await deriveKeys(session, symbol, following, terms);
  }
}

/** Derives snapshots again and writes them. @returns those that the next session remembers otherwise than before */
async function deriveKeys(
  session: Session,
  symbol: string,
  keys: readonly SnapshotKey[],
  terms: TermsStore,
): Promise<SnapshotKey[]> {
  const before = await keysBefore(session, symbol, terms.calendar(symbol), keys);
  const needed = [...keys, ...[...before.values()].map((asof) => ({ symbol, asof }))];
  const heads = await session.select().from(snapshots).where(atKeys(snapshots, needed));
  const held = await pastSessions(session, symbol, heads);
  /** By moment; of those derived here, as they are now. */
  const known = new Map(held.map((one) => [one.snapshot.asof, one]));
  const changed: SnapshotKey[] = [];
  const derived = keys.flatMap((key): Derived[] => {
    const asof = key.asof.getTime();
    const now = known.get(asof);
    if (!now) return [];
    const { snapshot } = now;
    const context = {
      before: known.get(before.get(asof)?.getTime() ?? NaN),
      exclusions: terms.exclusions(symbol, asof),
    };
    const fit = deriveSnapshot(snapshot, terms.terms(symbol, asof), context);
    known.set(asof, { snapshot, expiries: fit.expiries });
    if (remembered(now) !== remembered(fit)) changed.push(key);
    return [{ key, fit }];
  });
  await session.delete(fits).where(atKeys(fits, keys));
  await session.delete(measures).where(atKeys(measures, keys));
  await writeDerived(session, derived);
  return changed;
}

/** What of a snapshot's expiries the next session goes by, as a text to compare. */
function remembered({ expiries }: { expiries: readonly PastExpiry[] }): string {
  const lines = expiries.map(({ expiry, settlement, forward, forwardUncertainty, curve, shape, expiryAside }) =>
    JSON.stringify([expiry, settlement, forward, forwardUncertainty, curve?.parameters, shape, expiryAside]),
  );
  return lines.sort().join();
}

/** The snapshots of the sessions that follow those of some others. */
async function keysAfter(
  session: Session,
  symbol: string,
  calendar: Calendar,
  keys: readonly SnapshotKey[],
): Promise<Date[]> {
  const found = new Map<number, Date>();
  const days = new Set(keys.map(({ asof }) => dayOf(calendar, asof.getTime())));
  for (const day of days) {
    const end = new Date(instantOf(calendar, day, '00:00') + MILLISECONDS_PER_DAY);
    const [first] = await session
      .select({ asof: snapshots.asof })
      .from(snapshots)
      .where(and(eq(snapshots.symbol, symbol), gte(snapshots.asof, end)))
      .orderBy(asc(snapshots.asof))
      .limit(1);
    if (!first) continue;
    const rows = await keysOfSession(session, symbol, sessionStart(calendar, first.asof.getTime()));
    for (const { asof } of rows) found.set(asof.getTime(), asof);
  }
  return [...found.values()].sort((a, b) => a.getTime() - b.getTime());
}

/**
 * The snapshots that were held already of the sessions right after those that an import stored: what they were derived with as
 * the session before was another, or none.
 */
export async function followingImport(database: Queryable, importId: number): Promise<SnapshotKey[]> {
  const { rows } = await database.execute<{ symbol: string; last: Date; first: Date }>(sql`
    SELECT stored.symbol, max(stored.asof) AS last, following.asof AS first
    FROM snapshots stored CROSS JOIN LATERAL (
      SELECT s.asof, s.import_id FROM snapshots s
      WHERE s.symbol = stored.symbol AND s.asof > stored.asof ORDER BY s.asof LIMIT 1) following
    WHERE stored.import_id = ${importId} AND following.import_id <> ${importId}
    GROUP BY stored.symbol, following.asof`);
  const terms = new TermsStore(database);
  const keys: SnapshotKey[] = [];
  for (const { symbol, last, first } of rows) {
    await terms.load(symbol);
    const calendar = terms.calendar(symbol);
    const start = sessionStart(calendar, new Date(first).getTime());
    if (sessionStart(calendar, new Date(last).getTime()) === start) continue;
    keys.push(...(await keysOfSession(database, symbol, start)));
  }
  return keys;
}

async function keysOfSession(database: Queryable, symbol: string, start: number): Promise<SnapshotKey[]> {
  const end = new Date(start + MILLISECONDS_PER_DAY);
  return database
    .select({ symbol: snapshots.symbol, asof: snapshots.asof })
    .from(snapshots)
    .where(and(eq(snapshots.symbol, symbol), gte(snapshots.asof, new Date(start)), lt(snapshots.asof, end)));
}

/** For each of some snapshots the last one that is held of an earlier session, by the moment of the snapshot. */
async function keysBefore(
  session: Session,
  symbol: string,
  calendar: Calendar,
  keys: readonly SnapshotKey[],
): Promise<Map<number, Date>> {
  const starts = keys.map(({ asof }) => sessionStart(calendar, asof.getTime()));
  const { rows } = await session.execute<{ at: number; before: Date | null }>(sql`
    SELECT k.at::float8 AS at, (SELECT max(s.asof) FROM snapshots s WHERE s.symbol = ${symbol} AND s.asof < k.start) AS before
    FROM unnest(${sql.param(keys.map(({ asof }) => asof.getTime()))}::float8[],
      ${sql.param(starts.map((start) => new Date(start).toISOString()))}::timestamptz[]) AS k (at, start)`);
  return new Map(rows.flatMap(({ at, before }) => (before === null ? [] : [[at, new Date(before)] as const])));
}

/** Snapshots that an older method measured. */
export function ofOlderMethod(): SQL {
  return sql`EXISTS (SELECT 1 FROM measures m WHERE m.symbol = ${snapshots.symbol} AND m.asof = ${snapshots.asof}
    AND m.method < ${METHOD_VERSION})`;
}

/** Columns of an underlying that its fits depend on. */
const TERMS = ['kind', 'currency', 'exercise', 'calendar'];

/**
 * The snapshots whose fits depend on what an import has changed: on rates from the day of the curve to that of the next, on
 * dividends those before the ex-date, on an underlying all, on snapshots those of the session after.
 *
 * @param options `isTakenBack`: the records are as they were before the import, so what differed cannot be seen any more
 * @returns null when there are none
 */
export async function hangingOn(
  database: Queryable,
  importId: number,
  { isTakenBack = false } = {},
): Promise<SQL | null> {
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
    else if (isTakenBack) conditions.push(eq(snapshots.symbol, key.symbol!));
    else if (before !== null) {
      const [now] = await database.select().from(underlyings).where(eq(underlyings.symbol, key.symbol!));
      const isSame = now && TERMS.every((name) => before[name] === now[name as keyof typeof now]);
      if (!isSame) conditions.push(eq(snapshots.symbol, key.symbol!));
    }
  }
  for (const [symbol, day] of latest) {
    conditions.push(and(eq(snapshots.symbol, symbol), lt(snapshots.asof, dayAfter(day))));
  }
  for (const [currency, changed] of days) conditions.push(await underCurves(database, currency, changed.sort()));
  if (!isTakenBack) {
    const following = await followingImport(database, importId);
    if (following.length > 0) conditions.push(atKeys(snapshots, following));
  }
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
