import { expiryName, REASONS } from '@umwelt/core';
import { and, asc, eq, gt, lt } from 'drizzle-orm';
import { inTransaction, tables, type Database, type Session } from '../db';
import { ConflictError } from '../errors';
import { rebuildBatch } from './derive';
import { lockSymbol } from './locks';

const { fits, snapshots, exclusions } = tables;
const BY_HAND = REASONS.indexOf('by-hand');

/** A contract of a snapshot, or with strike 0 and a blank side a whole expiry. */
export type ExclusionKey = Omit<typeof exclusions.$inferSelect, 'decision' | 'isLasting'>;

/**
 * Sets a contract or an expiry aside, or takes it into use, and derives its snapshot again: both or none.
 *
 * @param decision null takes back what was said before, of this moment and of earlier ones to last
 * @param isLasting whether it holds for all later moments too
 * @param wasAside whether it was set aside by hand when whoever says this looked at it
 * @returns the moment from which others have to be derived again; null where there are none
 * @throws ConflictError where that is otherwise by now
 */
export async function setExclusion(
  database: Database,
  key: ExclusionKey,
  decision: 'use' | 'aside' | null,
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
      eq(exclusions.symbol, key.symbol),
      eq(exclusions.expiry, key.expiry),
      eq(exclusions.settlement, key.settlement),
      eq(exclusions.strike, key.strike),
      eq(exclusions.side, key.side),
    );
    const now = await session
      .delete(exclusions)
      .where(and(ofContract, eq(exclusions.asof, key.asof)))
      .returning({ isLasting: exclusions.isLasting });
    const before = decision
      ? []
      : await session
          .delete(exclusions)
          .where(and(ofContract, lt(exclusions.asof, key.asof), eq(exclusions.isLasting, true)))
          .returning({ asof: exclusions.asof });
    if (decision) await session.insert(exclusions).values({ ...key, decision, isLasting });
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

function nameOf(key: ExclusionKey): string {
  const whole = `${key.symbol} ${expiryName(key)}`;
  return key.side === '' ? whole : `${whole} ${key.strike} ${key.side}`;
}

/** Whether the snapshot shows it as set aside by hand. */
async function isAsideByHand(session: Session, { symbol, asof, expiry, settlement, strike, side }: ExclusionKey) {
  const [fit] = await session
    .select({ aside: fits.aside, expiryAside: fits.expiryAside })
    .from(fits)
    .where(and(eq(fits.symbol, symbol), eq(fits.asof, asof), eq(fits.expiry, expiry), eq(fits.settlement, settlement)));
  if (!fit) return false;
  if (side === '') return fit.expiryAside === 'by-hand';
  return fit.aside.some((one) => one.strike === strike && one.side === side && one.reason === BY_HAND);
}
