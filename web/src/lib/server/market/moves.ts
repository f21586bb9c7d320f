import { calendarById, dayOf, lastOfSessions, maxPain, type NamedExpiry } from '@umwelt/core';
import { and, asc, between, eq, inArray } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { listAsofs } from './queries';
import type { Underlying } from './terms';

const { fits, measures, slices } = tables;

/** The last moments of the sessions between two, both included; with one the last at or before the other. */
async function sessionEnds(
  database: Queryable,
  { symbol, calendar }: Underlying,
  from: Date,
  to: Date,
): Promise<Date[]> {
  const held = await listAsofs(database, symbol, from, to);
  return lastOfSessions(calendarById(calendar), held, (asof) => asof.getTime());
}

/**
 * Expected moves of every expiry as they were known at the end of sessions, in order of time and of expiry; of one moment
 * where both ends are the same.
 */
export async function listExpectedMoves(database: Queryable, underlying: Underlying, from: Date, to: Date) {
  const { symbol } = underlying;
  const moments = await sessionEnds(database, underlying, from, to);
  const [first, last] = [moments[0], moments.at(-1)];
  if (!first || !last) return [];
  const calendar = calendarById(underlying.calendar);
  const rows = await database
    .select({
      asof: fits.asof,
      price: measures.price,
      expiry: fits.expiry,
      settlement: fits.settlement,
      days: fits.days,
      sessions: fits.sessions,
      forward: fits.forward,
      atmVol: fits.atmVol,
      straddle: fits.straddleMove,
      deviation: fits.deviationMove,
      isAside: fits.expiryAside,
    })
    .from(fits)
    .innerJoin(measures, and(eq(measures.symbol, fits.symbol), eq(measures.asof, fits.asof)))
    .where(and(eq(fits.symbol, symbol), between(fits.asof, first, last), inArray(fits.asof, moments)))
    .orderBy(asc(fits.asof), asc(fits.years), asc(fits.settlement));
  return rows.map(({ asof, isAside, ...row }) => ({
    asof: asof.toISOString(),
    day: dayOf(calendar, asof.getTime()),
    ...row,
    isAside: isAside !== null,
  }));
}

/**
 * Where the open contracts of an expiry were worth least at the end of each session, and the contracts by strike at the last.
 *
 * @param from first and last moment
 */
export async function listOpenContracts(
  database: Queryable,
  underlying: Underlying,
  { expiry, settlement }: NamedExpiry,
  from: Date,
  to: Date,
) {
  const { symbol } = underlying;
  const moments = await sessionEnds(database, underlying, from, to);
  const [first, last] = [moments[0], moments.at(-1)];
  if (!first || !last) return null;
  const calendar = calendarById(underlying.calendar);
  const rows = await database
    .select({
      asof: slices.asof,
      settlement: slices.settlement,
      price: measures.price,
      strike: slices.strike,
      call: slices.callOpenInterest,
      put: slices.putOpenInterest,
    })
    .from(slices)
    .innerJoin(measures, and(eq(measures.symbol, slices.symbol), eq(measures.asof, slices.asof)))
    .where(
      and(
        eq(slices.symbol, symbol),
        eq(slices.expiry, expiry),
        between(slices.asof, first, last),
        inArray(slices.asof, moments),
        settlement ? eq(slices.settlement, settlement) : undefined,
      ),
    )
    .orderBy(asc(slices.asof), asc(slices.settlement));
  // Of a day that is settled twice, one: pm, unless the other is asked for.
  const settled = rows.some((row) => row.settlement === 'pm') ? 'pm' : 'am';
  const one = rows.filter((row) => row.settlement === settled);
  const latest = one.at(-1);
  if (!latest) return null;
  const sum = (values: Float64Array) => values.reduce((total, value) => total + (value || 0), 0);
  const openOf = ({ strike, call, put }: typeof latest) =>
    Array.from(strike, (level, i) => ({
      strike: level,
      callOpenInterest: call[i]! || 0,
      putOpenInterest: put[i]! || 0,
    }));
  return {
    expiry,
    settlement: latest.settlement,
    asof: latest.asof.toISOString(),
    strikes: openOf(latest),
    path: one.map((row) => ({
      asof: row.asof.toISOString(),
      day: dayOf(calendar, row.asof.getTime()),
      price: row.price,
      strike: maxPain(openOf(row)).strike,
      callOpenInterest: sum(row.call),
      putOpenInterest: sum(row.put),
    })),
  };
}
