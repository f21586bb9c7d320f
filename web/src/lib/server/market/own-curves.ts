import { PAST_NUMBERS, pickFields, type CurveKind } from '@umwelt/core';
import { and, asc, between, eq, inArray, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';

const { fits, slices } = tables;

/** What is kept of an expiry at a moment beside its quotes. */
export type CurveRow = Omit<Awaited<ReturnType<typeof listOwnCurves>>[number], 'curveKind'> & {
  curveKind: CurveKind | null;
  /** Symbol and expiry of a curve that is not its own. */
  borrowedFrom?: string;
};

/** The strikes of a slice around the forward, with one more below for a strike at the forward itself. */
function strikesAround(steps: number) {
  if (steps === 0) return sql<number[] | null>`null`;
  const under = sql`width_bucket(${fits.forward}, ${slices.strike})`;
  return sql<number[] | null>`${slices.strike}[${under} - ${steps}::int : ${under} + ${steps}::int]`;
}

/** The curves of an underlying's expiries at some moments, each its own, in order of time and of expiry. */
export function listOwnCurves(database: Queryable, symbol: string, moments: readonly Date[], strikes = 0) {
  const [first, last] = [moments[0], moments.at(-1)];
  if (!first || !last) return Promise.resolve([]);
  return (
    database
      .select({
        asof: fits.asof,
        expiry: fits.expiry,
        settlement: fits.settlement,
        years: fits.years,
        days: fits.days,
        sessions: fits.sessions,
        rate: fits.rate,
        curveKind: fits.curveKind,
        curve: fits.curve,
        ...pickFields(fits, PAST_NUMBERS),
        contracts: fits.contracts,
        usable: fits.usable,
        expiryAside: fits.expiryAside,
        lowest: sql<number | null>`${slices.strike}[1]`,
        highest: sql<number | null>`${slices.strike}[cardinality(${slices.strike})]`,
        near: strikesAround(strikes),
      })
      .from(fits)
      .innerJoin(
        slices,
        and(
          eq(slices.symbol, fits.symbol),
          eq(slices.asof, fits.asof),
          eq(slices.expiry, fits.expiry),
          eq(slices.settlement, fits.settlement),
        ),
      )
      // The span tells which months have to be looked at.
      .where(
        and(
          eq(fits.symbol, symbol),
          between(fits.asof, first, last),
          inArray(fits.asof, [...moments]),
          between(slices.asof, first, last),
        ),
      )
      .orderBy(asc(fits.asof), asc(fits.years), asc(fits.settlement))
  );
}
