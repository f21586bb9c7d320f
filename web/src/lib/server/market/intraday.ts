import { calendarById, dayOf, instantOf } from '@umwelt/core';
import { and, eq, gte, lt, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import type { Underlying } from './terms';

const { intradayBars } = tables;

/** What bars inside a session are put together to. */
export const BAR_MINUTES = 15;

/**
 * Bars of a quarter of an hour of the session of a moment, up to it, whatever finer ones are held; a bar is named by its
 * beginning. None where the session has none.
 */
export async function listIntradayBars(database: Queryable, { symbol, calendar }: Underlying, to: Date) {
  const day = dayOf(calendarById(calendar), to.getTime());
  const from = new Date(instantOf(calendarById(calendar), day, '00:00'));
  const { time, open, high, low, close, volume } = intradayBars;
  const quarter = sql<Date>`date_bin(${`${BAR_MINUTES} minutes`}, ${time}, ${from.toISOString()}::timestamptz)`;
  const rows = await database
    .select({
      time: quarter.mapWith(time),
      open: sql<number>`(array_agg(${open} ORDER BY ${time}))[1]`,
      high: sql<number>`max(${high})`,
      low: sql<number>`min(${low})`,
      close: sql<number>`(array_agg(${close} ORDER BY ${time} DESC))[1]`,
      volume: sql<number | null>`sum(${volume})`,
    })
    .from(intradayBars)
    .where(and(eq(intradayBars.symbol, symbol), gte(time, from), lt(time, to)))
    .groupBy(sql`1`)
    .orderBy(sql`1`);
  return { day, bars: rows.map((row) => ({ ...row, time: row.time.toISOString() })) };
}
