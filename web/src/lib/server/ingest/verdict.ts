import { and, eq } from 'drizzle-orm';
import { inTransaction, tables, type Database } from '../db';
import { rebuildBatch } from './derive';
import { lockSymbol } from './locks';

const { verdicts } = tables;

/** A contract of a snapshot, or with strike 0 and a blank side a whole expiry. */
export type VerdictKey = Omit<typeof verdicts.$inferSelect, 'verdict'>;

/**
 * Sets a contract or an expiry aside, or takes it into use, and derives its snapshot anew: both or none.
 *
 * @param verdict null takes back what was said before
 */
export async function setVerdict(database: Database, key: VerdictKey, verdict: 'use' | 'aside' | null): Promise<void> {
  await inTransaction(database, async (session) => {
    await lockSymbol(session, key.symbol);
    await session
      .delete(verdicts)
      .where(
        and(
          eq(verdicts.symbol, key.symbol),
          eq(verdicts.asof, key.asof),
          eq(verdicts.expiry, key.expiry),
          eq(verdicts.settlement, key.settlement),
          eq(verdicts.strike, key.strike),
          eq(verdicts.side, key.side),
        ),
      );
    if (verdict) await session.insert(verdicts).values({ ...key, verdict });
    await rebuildBatch(session, key.symbol, [key]);
  });
}
