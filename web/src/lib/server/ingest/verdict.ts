import { expiryName, REASONS } from '@umwelt/core';
import { and, asc, eq, gt, lt } from 'drizzle-orm';
import { inTransaction, tables, type Database, type Session } from '../db';
import { ConflictError } from '../errors';
import { rebuildBatch } from './derive';
import { lockSymbol } from './locks';

const { fits, snapshots, verdicts } = tables;
const BY_HAND = REASONS.indexOf('by-hand');

/** A contract of a snapshot, or with strike 0 and a blank side a whole expiry. */
export type VerdictKey = Omit<typeof verdicts.$inferSelect, 'verdict' | 'isLasting'>;

/**
 * Sets a contract or an expiry aside, or takes it into use, and derives its snapshot anew: both or none.
 *
 * @param verdict null takes back what was said before, of this moment and of earlier ones to last
 * @param isLasting whether it holds for all later moments too
 * @param wasAside whether it was set aside by hand when whoever says this looked at it
 * @returns the moment from which others have to be derived anew; null where there are none
 * @throws ConflictError where that is otherwise by now
 */
export async function setVerdict(
  database: Database,
  key: VerdictKey,
  verdict: 'use' | 'aside' | null,
  isLasting: boolean,
  wasAside?: boolean,
): Promise<Date | null> {
  return inTransaction(database, async (session) => {
    await lockSymbol(session, key.symbol);
    if (wasAside !== undefined) {
      const isNow = await isAsideByHand(session, key);
      if (isNow !== wasAside) throw new ConflictError(`whether ${nameOf(key)} is set aside`, { isAside: isNow });
    }
    const ofContract = and(
      eq(verdicts.symbol, key.symbol),
      eq(verdicts.expiry, key.expiry),
      eq(verdicts.settlement, key.settlement),
      eq(verdicts.strike, key.strike),
      eq(verdicts.side, key.side),
    );
    const now = await session
      .delete(verdicts)
      .where(and(ofContract, eq(verdicts.asof, key.asof)))
      .returning({ isLasting: verdicts.isLasting });
    const before = verdict
      ? []
      : await session
          .delete(verdicts)
          .where(and(ofContract, lt(verdicts.asof, key.asof), eq(verdicts.isLasting, true)))
          .returning({ asof: verdicts.asof });
    if (verdict) await session.insert(verdicts).values({ ...key, verdict, isLasting });
    await rebuildBatch(session, key.symbol, [key]);
    const [first] = before.map(({ asof }) => asof).sort((a, b) => a.getTime() - b.getTime());
    if (first) return first;
    if (!isLasting && !now.some((one) => one.isLasting)) return null;
    const [later] = await session
      .select({ asof: snapshots.asof })
      .from(snapshots)
      .where(and(eq(snapshots.symbol, key.symbol), gt(snapshots.asof, key.asof)))
      .orderBy(asc(snapshots.asof))
      .limit(1);
    return later?.asof ?? null;
  });
}

function nameOf(key: VerdictKey): string {
  const whole = `${key.symbol} ${expiryName(key)}`;
  return key.side === '' ? whole : `${whole} ${key.strike} ${key.side}`;
}

/** Whether the snapshot shows it as set aside by hand. */
async function isAsideByHand(session: Session, { symbol, asof, expiry, settlement, strike, side }: VerdictKey) {
  const [fit] = await session
    .select({ aside: fits.aside, expiryAside: fits.expiryAside })
    .from(fits)
    .where(and(eq(fits.symbol, symbol), eq(fits.asof, asof), eq(fits.expiry, expiry), eq(fits.settlement, settlement)));
  if (!fit) return false;
  if (side === '') return fit.expiryAside === 'by-hand';
  return fit.aside.some((one) => one.strike === strike && one.side === side && one.reason === BY_HAND);
}
