import { valueSlice, writtenOn, type ExpiryFit } from '@umwelt/core';
import { and, between, desc, eq, gte, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { findAsof, loadValued, type StoredSnapshot } from './queries';
import type { Underlying } from './terms';

const { prints, snapshots } = tables;

/** Which prints are wanted. */
export interface TapeQuery {
  from: Date;
  to: Date;
  /** The smallest size. */
  size: number;
  legs: 'all' | 'single' | 'several';
  most: number;
}

/** Theory of prints, each by the curve of the last moment that is held at its time. */
async function withTheory(
  database: Queryable,
  underlying: Underlying,
  rows: readonly (typeof prints.$inferSelect)[],
  moments: readonly Date[],
) {
  const bySnapshot = new Map<number, (typeof rows)[number][]>();
  for (const row of rows) {
    const asof = moments.findLast((moment) => moment <= row.time)?.getTime() ?? NaN;
    const group = bySnapshot.get(asof);
    if (group) group.push(row);
    else bySnapshot.set(asof, [row]);
  }
  const theory = new Map<(typeof rows)[number], { theory: number; bid: number; ask: number; theoryAt: Date }>();
  for (const [asof, group] of bySnapshot) {
    const stored = Number.isNaN(asof) ? null : await loadValued(database, underlying.symbol, new Date(asof));
    if (!stored) continue;
    for (const row of group) {
      const found = valueOf(underlying, stored, row);
      if (found) theory.set(row, { ...found, theoryAt: new Date(asof) });
    }
  }
  return rows.map((row) => ({ row, at: theory.get(row) ?? null }));
}

const VALUES = new WeakMap<StoredSnapshot, Map<string, Float64Array>>();

/** Values of a side of an expiry on its curve, kept as long as the snapshot is. */
function sideTheory(underlying: Underlying, stored: StoredSnapshot, fit: ExpiryFit, at: number, side: 'call' | 'put') {
  const kept = VALUES.get(stored) ?? new Map<string, Float64Array>();
  VALUES.set(stored, kept);
  const key = `${at} ${side}`;
  const found = kept.get(key);
  if (found) return found;
  const { strike } = stored.snapshot.slices[at]!;
  const nothing = new Float64Array(strike.length).fill(NaN);
  const choice = { basis: 'curve', realizedVol: NaN, indexVol: NaN } as const;
  const { theory } = valueSlice(
    strike,
    fit,
    writtenOn(stored.snapshot, underlying),
    choice,
    { own: nothing, mid: nothing },
    side === 'call' ? 1 : -1,
  );
  kept.set(key, theory);
  return theory;
}

function valueOf(underlying: Underlying, stored: StoredSnapshot, row: typeof prints.$inferSelect) {
  const { slices } = stored.snapshot;
  const at = slices.findIndex((slice) => slice.expiry === row.expiry && slice.strike.includes(row.strike));
  const slice = slices[at];
  const fit = slice && stored.fits.find((one) => one.expiry === slice.expiry && one.settlement === slice.settlement);
  if (!slice || !fit || row.side === null) return null;
  const i = slice.strike.indexOf(row.strike);
  const quotes = row.side === 'call' ? slice.call : slice.put;
  return { theory: sideTheory(underlying, stored, fit, at, row.side)[i]!, bid: quotes.bid[i]!, ask: quotes.ask[i]! };
}

/** Prints of an underlying, the latest first, each against the curve of its time; how many more there are. */
export async function listTape(database: Queryable, underlying: Underlying, query: TapeQuery) {
  const { from, to, size, legs, most } = query;
  const { symbol } = underlying;
  const wanted = and(
    eq(prints.symbol, symbol),
    between(prints.time, from, to),
    gte(prints.size, size),
    legs === 'all' ? undefined : legs === 'single' ? eq(prints.group, '') : sql`${prints.group} <> ''`,
  );
  const [rows, [counted], first, held] = await Promise.all([
    database.select().from(prints).where(wanted).orderBy(desc(prints.time), desc(prints.id)).limit(most),
    database
      .select({ count: sql<number>`count(*)::int` })
      .from(prints)
      .where(wanted),
    // A print may come before the first moment of the span.
    findAsof(database, symbol, from),
    database
      .select({ asof: snapshots.asof })
      .from(snapshots)
      .where(and(eq(snapshots.symbol, symbol), between(snapshots.asof, from, to)))
      .orderBy(snapshots.asof),
  ]);
  const moments = [...(first ? [first] : []), ...held.map(({ asof }) => asof)];
  const valued = await withTheory(database, underlying, rows, moments);
  return {
    count: counted?.count ?? 0,
    prints: valued.map(({ row, at }) => ({
      time: row.time.toISOString(),
      expiry: row.expiry,
      strike: row.strike,
      side: row.side,
      price: row.price,
      size: row.size,
      group: row.group || null,
      theory: at?.theory ?? null,
      bid: at?.bid ?? null,
      ask: at?.ask ?? null,
      theoryAt: at?.theoryAt.toISOString() ?? null,
    })),
  };
}

/** When the last print of an underlying came; null without any. */
export async function latestPrint(database: Queryable, symbol: string): Promise<Date | null> {
  const [row] = await database
    .select({ time: prints.time })
    .from(prints)
    .where(eq(prints.symbol, symbol))
    .orderBy(desc(prints.time))
    .limit(1);
  return row?.time ?? null;
}
