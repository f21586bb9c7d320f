import {
  Deliveries,
  expiryAt,
  orNull,
  placeLeg,
  priceLegsOnCurve,
  writtenOn,
  type Delivery,
  type ExpiryId,
  type ListedSlice,
  type NamedLeg,
  type PlacedLeg,
  type PricedStructure,
} from '@umwelt/core';
import { and, asc, eq, inArray, isNotNull, isNull, max, sql } from 'drizzle-orm';
import { atOneMoment, tables, type Database, type Queryable } from '../db';
import { ConflictError } from '../errors';
import { findUnderlying, loadLatest, type StoredSnapshot } from './queries';
import { fittedSlices } from './rows';
import type { Underlying } from './terms';

const { structures } = tables;
type StructureRow = typeof structures.$inferSelect;

/** What people choose of a structure that is kept. */
export type StructureGiven = Pick<StructureRow, 'symbol' | 'held' | 'quantity' | 'name' | 'tags' | 'note'> & {
  legs: readonly GivenLeg[];
};

/** A leg of the underlying, or of another delivery of its root. */
export type GivenLeg = Omit<NamedLeg, 'symbol'> & { symbol?: string | undefined };

/** What a structure is worth at a moment, for one unit, or why that is not known. */
export type StructureNow = { asof: string; price: number; multiplier: number } & (
  | ({ missing: null } & PricedStructure)
  | { missing: string }
);

/** The market of an underlying with those of its other deliveries that legs name. */
interface Markets {
  underlying: Underlying;
  stored: StoredSnapshot;
  others: ReadonlyMap<string, StoredSnapshot>;
}

/** Where legs are listed, each on its delivery; or the first that is not. */
function placedOn(
  symbol: string,
  slicesOf: ReadonlyMap<string, readonly ListedSlice[]>,
  given: readonly GivenLeg[],
): PlacedLeg[] | { missing: string } {
  const placed: PlacedLeg[] = [];
  for (const one of given) {
    const leg = { ...one, symbol: one.symbol ?? symbol };
    const slices = slicesOf.get(leg.symbol);
    if (!slices) return { missing: `no snapshot of ${leg.symbol}, of one root with ${symbol}, is held at this moment` };
    const found = placeLeg({ symbol: leg.symbol, slices }, leg);
    if (!found) return { missing: missingWords({ slices }, leg) };
    placed.push(found);
  }
  return placed;
}

function structureNow(
  markets: Markets,
  { legs, held }: Pick<StructureGiven, 'legs' | 'held'>,
): { now: StructureNow; placed: readonly PlacedLeg[] } {
  const { underlying, stored, others } = markets;
  const { symbol, price } = stored.snapshot;
  const at = { asof: new Date(stored.snapshot.asof).toISOString(), price, multiplier: underlying.multiplier };
  const own = fittedSlices(stored);
  const deliveries = Array.from(others, ([name, other]): Delivery => {
    return { symbol: name, ratio: other.snapshot.price / price, slices: fittedSlices(other) };
  });
  const slicesOf = new Map([[symbol, own], ...deliveries.map((one) => [one.symbol, one.slices] as const)]);
  const placed = placedOn(symbol, slicesOf, legs);
  if ('missing' in placed) return { now: { ...at, missing: placed.missing }, placed: [] };
  const market = new Deliveries(own, deliveries);
  const listed = { symbol, slices: market.slices };
  const among = placed.map((leg) => market.leg(leg));
  const priced = priceLegsOnCurve(listed, among, writtenOn(stored.snapshot, underlying));
  const beside = withHeld(priced, held / underlying.multiplier, at.price);
  return { now: { ...at, missing: null, ...beside }, placed };
}

/** With so many units of the underlying, which is traded at its price and has a delta of one. */
function withHeld(priced: PricedStructure, units: number, price: number): PricedStructure {
  if (units === 0) return priced;
  const more = units * price;
  const { value, worst, mid, best, delta } = priced;
  return {
    ...priced,
    value: value + more,
    worst: worst + more,
    mid: mid + more,
    best: best + more,
    delta: delta + units,
  };
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

  async value({ symbol, ...given }: Pick<StructureGiven, 'symbol' | 'legs' | 'held'>) {
    const found = await this.load(symbol);
    if (!found) return null;
    const others = new Map<string, StoredSnapshot>();
    for (const { symbol: name = symbol } of given.legs) {
      if (name === symbol || found.underlying.root === null) continue;
      const other = await this.load(name);
      if (other?.underlying.root === found.underlying.root) others.set(name, other.stored);
    }
    return structureNow({ ...found, others }, given);
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
      now: (await market.value(row))?.now ?? null,
    })),
  );
}

/**
 * Keeps structures with what they are worth at a moment, all of them or none.
 *
 * @returns which of them cannot be priced, and a sentence why; nothing is kept then
 */
export async function keepStructures(
  database: Database,
  given: readonly StructureGiven[],
  moment?: Date,
): Promise<{ at: number; words: string } | null> {
  const market = new Market(database, moment);
  const rows: (typeof structures.$inferInsert)[] = [];
  for (const [at, one] of given.entries()) {
    const valued = await market.value(one);
    if (!valued) return { at, words: `no snapshot of ${one.symbol} is held` };
    const { now, placed } = valued;
    if (now.missing !== null) return { at, words: now.missing };
    // How an expiry settles is kept, said or not.
    const legs = placed.map(({ symbol, expiry, settlement, strike, side, quantity }) => ({
      ...(symbol !== one.symbol && { symbol }),
      ...{ expiry, settlement, strike, side, quantity },
    }));
    const { value, mid } = now;
    rows.push({ ...one, legs, asof: new Date(now.asof), value: orNull(value), mid: orNull(mid) });
  }
  if (rows.length > 0) await database.insert(structures).values(rows);
  return null;
}

/**
 * Changes how many of a structure there are, what it is called, its tags, or what is noted of it; false where there is none.
 *
 * @param seen the version that whoever changes it has seen
 * @throws ConflictError where it is another by now
 */
export async function changeStructure(
  database: Queryable,
  id: number,
  seen: number,
  change: Partial<Pick<StructureRow, 'quantity' | 'name' | 'tags' | 'note'>>,
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
  const { quantity, name, tags, note, version, changed } = now;
  throw new ConflictError('the structure', { id, quantity, name, tags, note, version, changed: changed.toISOString() });
}

/** What tells that kept structures, or the market that they are on, are others than they were. */
export async function structuresMark(database: Database): Promise<string> {
  const isKept = isNull(structures.dropped);
  const [sums] = await database
    .select({
      count: sql`count(*)`,
      ids: sql`coalesce(sum(${structures.id}), 0)`,
      versions: sql`coalesce(sum(${structures.version}), 0)`,
    })
    .from(structures)
    .where(isKept);
  const kept = database.selectDistinct({ symbol: structures.symbol }).from(structures).where(isKept);
  const { symbol, asof } = tables.snapshots;
  const newest = await database
    .select({ symbol, asof: max(asof) })
    .from(tables.snapshots)
    .where(inArray(symbol, kept))
    .groupBy(symbol)
    .orderBy(symbol);
  return JSON.stringify([sums, newest]);
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
