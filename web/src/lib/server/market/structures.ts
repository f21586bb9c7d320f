import {
  expiryAt,
  missingLeg,
  orNull,
  placeLegs,
  priceLegsOnCurve,
  writtenOn,
  type ExpiryId,
  type NamedLeg,
  type PlacedLeg,
  type PricedStructure,
} from '@umwelt/core';
import { and, asc, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import { atOneMoment, tables, type Database, type Queryable } from '../db';
import { ConflictError } from '../errors';
import { findUnderlying, loadLatest, type StoredSnapshot } from './queries';
import { fittedSlices } from './rows';
import type { Underlying } from './terms';

const { structures } = tables;
type StructureRow = typeof structures.$inferSelect;

/** What people choose of a structure that is kept. */
export type StructureGiven = Pick<StructureRow, 'symbol' | 'quantity' | 'note'> & {
  legs: readonly Omit<NamedLeg, 'symbol'>[];
};

/** What a structure is worth at a moment, for one unit, or why that is not known. */
export type StructureNow = { asof: string; price: number; multiplier: number } & (
  ({ missing: null } & PricedStructure) | { missing: string }
);

function structureNow(
  underlying: Underlying,
  stored: StoredSnapshot,
  given: StructureGiven['legs'],
): { now: StructureNow; placed: readonly PlacedLeg[] } {
  const listed = { symbol: stored.snapshot.symbol, slices: fittedSlices(stored) };
  const legs = given.map((leg) => ({ ...leg, symbol: listed.symbol }));
  const at = {
    asof: new Date(stored.snapshot.asof).toISOString(),
    price: stored.snapshot.price,
    multiplier: underlying.multiplier,
  };
  const placed = placeLegs(listed, legs);
  if (!placed) return { now: { ...at, missing: missingWords(listed, missingLeg(listed, legs)!) }, placed: [] };
  const priced = priceLegsOnCurve(listed, placed, writtenOn(stored.snapshot, underlying));
  return { now: { ...at, missing: null, ...priced }, placed };
}

function missingWords({ slices }: { slices: readonly ExpiryId[] }, leg: NamedLeg): string {
  const { expiry, settlement, strike } = leg;
  const name = settlement === 'am' ? `${expiry} am` : expiry;
  if (expiryAt(slices, leg) < 0) return `${name} is not listed at this moment`;
  return `${name} has no strike ${strike} at this moment`;
}

/** Values of structures of several underlyings at a moment, each snapshot read once. */
class Market {
  private readonly known = new Map<string, Promise<{ underlying: Underlying; stored: StoredSnapshot } | null>>();

  constructor(
    private readonly database: Database,
    private readonly moment: Date | undefined,
  ) {}

  private load(symbol: string) {
    const found = this.known.get(symbol) ?? this.read(symbol);
    this.known.set(symbol, found);
    return found;
  }

  private async read(symbol: string) {
    return atOneMoment(this.database, async (session) => {
      const underlying = await findUnderlying(session, symbol);
      const stored = underlying && (await loadLatest(session, symbol, this.moment));
      return stored ? { underlying, stored } : null;
    });
  }

  async value(symbol: string, legs: StructureGiven['legs']) {
    const found = await this.load(symbol);
    return found && structureNow(found.underlying, found.stored, legs);
  }
}

/** Structures that are kept, in the order in which they were, with what they are worth at a moment on the curve. */
export async function listStructures(database: Database, moment?: Date) {
  const rows = await database.select().from(structures).where(isNull(structures.dropped)).orderBy(asc(structures.id));
  const market = new Market(database, moment);
  return Promise.all(
    rows.map(async ({ asof, created, changed, dropped: _, ...row }) => ({
      ...row,
      asof: asof.toISOString(),
      created: created.toISOString(),
      changed: changed.toISOString(),
      now: (await market.value(row.symbol, row.legs))?.now ?? null,
    })),
  );
}

/**
 * Keeps a structure with what it is worth at a moment.
 *
 * @returns a sentence where it cannot be priced; nothing is kept then
 */
export async function keepStructure(database: Database, given: StructureGiven, moment?: Date): Promise<string | null> {
  const valued = await new Market(database, moment).value(given.symbol, given.legs);
  if (!valued) return `no snapshot of ${given.symbol} is held`;
  const { now, placed } = valued;
  if (now.missing !== null) return now.missing;
  // How an expiry settles is kept, said or not.
  const legs = placed.map(({ expiry, settlement, strike, side, quantity }) => ({
    ...{ expiry, settlement, strike, side, quantity },
  }));
  const { value, mid } = now;
  await database
    .insert(structures)
    .values({ ...given, legs, asof: new Date(now.asof), value: orNull(value), mid: orNull(mid) });
  return null;
}

/**
 * Changes how many of a structure there are, or what is noted of it; false where there is none.
 *
 * @param seen the version that whoever changes it has seen
 * @throws ConflictError where it is another by now
 */
export async function changeStructure(
  database: Queryable,
  id: number,
  seen: number,
  change: Partial<Pick<StructureRow, 'quantity' | 'note'>>,
): Promise<boolean> {
  const which = and(eq(structures.id, id), isNull(structures.dropped));
  const rows = await database
    .update(structures)
    .set({ ...change, version: sql`${structures.version} + 1`, changed: new Date() })
    .where(and(which, eq(structures.version, seen)))
    .returning({ id: structures.id });
  if (rows.length > 0) return true;
  const [now] = await database.select().from(structures).where(which);
  if (!now) return false;
  const { quantity, note, version, changed } = now;
  throw new ConflictError('the structure', { id, quantity, note, version, changed: changed.toISOString() });
}

/** Brings a structure that was deleted back as it was; false where none was. */
export async function restoreStructure(database: Queryable, id: number): Promise<boolean> {
  const back = await database
    .update(structures)
    .set({ dropped: null })
    .where(and(eq(structures.id, id), isNotNull(structures.dropped)))
    .returning({ id: structures.id });
  return back.length > 0;
}

/** Deletes a structure; false where there is none. */
export async function dropStructure(database: Queryable, id: number): Promise<boolean> {
  const gone = await database
    .update(structures)
    .set({ dropped: new Date() })
    .where(and(eq(structures.id, id), isNull(structures.dropped)))
    .returning({ id: structures.id });
  return gone.length > 0;
}
