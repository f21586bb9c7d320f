import { namedExpiry } from '@umwelt/core';
import { Feed, feedPoints, type FeedPoint, type Print } from '@umwelt/demo';
import { eq, sql } from 'drizzle-orm';
import { inTransaction, tables, type Database, type Session } from '../db';
import { demoSymbols } from '../demo-held';
import {
  lockFeed,
  lockSymbol,
  numbered,
  RECORD_KINDS,
  SessionsBefore,
  storeSnapshots,
  writeRecords,
  type DerivedSnapshot,
  type WriteCounts,
} from '../ingest';
import { TermsStore } from '../market/terms';
import { feedSnapshot } from './snapshot';

const { feed, imports } = tables;

/**
 * Stores what the feed has brought up to a moment: at every quarter of an hour a snapshot of each underlying with what
 * is derived from it and the trades since, at the open the rates of the day, at the close its bars. Each of these
 * points is stored whole or not at all, and once, whoever tries.
 *
 * @param isWanted asked before each point
 * @returns how many points were stored
 */
export async function storeFeed(
  database: Database,
  market: Feed,
  until: number,
  isWanted: () => boolean = () => true,
): Promise<number> {
  for (let stored = 0; ; stored++) {
    if (!isWanted() || !(await storeNext(database, market, until))) return stored;
  }
}

function storeNext(database: Database, market: Feed, until: number): Promise<boolean> {
  return inTransaction(database, async (session) => {
    await lockFeed(session);
    const [held] = await session.select().from(feed);
    const point = held && feedPoints(held.storedTo.getTime(), until)[0];
    if (!point) return false;
    const { importId, storedTo } = held;
    const symbols = [...(await demoSymbols(session))].filter((symbol) => market.isQuoted(symbol, point.moment)).sort();
    const counts = await storePoint({ database, session }, market, point, storedTo.getTime(), symbols, importId);
    await count(session, importId, counts);
    await session.update(feed).set({ storedTo: new Date(point.moment) });
    return true;
  });
}

async function storePoint(
  target: { database: Database; session: Session },
  market: Feed,
  { moment, hours, isClose }: FeedPoint,
  after: number,
  symbols: readonly string[],
  importId: number,
): Promise<WriteCounts[]> {
  const { session } = target;
  const counts: WriteCounts[] = [];
  const write = async (name: 'rates' | 'bars' | 'prints', rows: readonly Record<string, unknown>[]) => {
    if (rows.length > 0) counts.push(await writeRecords(session, RECORD_KINDS[name], rows, importId));
  };
  if (moment === hours.open) await write('rates', market.rates(hours.day));
  const terms = new TermsStore(session);
  const before = new SessionsBefore(session, terms);
  const snapshots: DerivedSnapshot[] = [];
  const prints: Record<string, unknown>[] = [];
  for (const symbol of symbols) {
    await lockSymbol(session, symbol);
    prints.push(...market.prints(symbol, after, moment).map((print) => printRow(symbol, print)));
    if (isClose) continue;
    await terms.load(symbol);
    await before.load(symbol, moment);
    const finished = feedSnapshot(market, symbol, moment);
    snapshots.push(before.derive(finished));
  }
  if (snapshots.length > 0) counts.push(await storeSnapshots(target, snapshots, importId));
  await write('prints', numbered(RECORD_KINDS.prints, prints));
  if (isClose)
    await write(
      'bars',
      symbols.map((symbol) => ({ ...market.bar(symbol, hours.day) })),
    );
  return counts;
}

function printRow(symbol: string, { time, side, expiry, ...print }: Print) {
  return { symbol, time: new Date(time), side: side === 'C' ? 'call' : 'put', ...namedExpiry(expiry)!, ...print };
}

/** Lets the import of the feed say what has come in. */
async function count(session: Session, importId: number, all: readonly WriteCounts[]): Promise<void> {
  const added = all.reduce((sum, counts) => sum + counts.added, 0);
  const changed = all.reduce((sum, counts) => sum + counts.changed, 0);
  const number = (name: string) => sql`coalesce((${imports.counts} ->> ${name})::int, 0)`;
  await session
    .update(imports)
    .set({
      rows: sql`${imports.rows} + ${added + changed}`,
      counts: sql`jsonb_build_object('added', ${number('added')} + ${added}::int, 'changed', ${number('changed')} + ${changed}::int)`,
      finished: new Date(),
    })
    .where(eq(imports.id, importId));
}
