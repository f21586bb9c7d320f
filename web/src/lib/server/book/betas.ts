import { calendarById, togetherOf } from '@umwelt/core';
import type { Queryable } from '../db';
import { adjusted, barsKnownAt } from '../market/history';
import { listAdjustments, listBars } from '../market/queries';
import type { Underlying } from '../market/terms';
import type { BookWorth } from './worth';

/** So many sessions before the moment in view count. */
const SESSIONS = 252;

/** Returns by day, of bars without the steps of dividends and splits that were over at a moment. */
async function returnsOf(session: Queryable, underlying: Underlying, asof: number): Promise<Map<string, number>> {
  const { symbol } = underlying;
  const [bars, adjustments] = await Promise.all([listBars(session, symbol), listAdjustments(session, [symbol])]);
  const calendar = calendarById(underlying.calendar);
  const over = bars.slice(0, barsKnownAt(bars, calendar, asof));
  const known = adjusted(over, adjustments.get(symbol) ?? []).slice(-SESSIONS - 1);
  return new Map(known.slice(1).map(({ date, close }, i) => [date, Math.log(close / known[i]!.close)] as const));
}

/**
 * Betas of all underlyings of a book to another one: slopes of daily returns over the year before its moment. One that cannot be told
 * is 1, as for all that move alike.
 */
export async function betasTo(session: Queryable, worth: BookWorth, base: string): Promise<(symbol: string) => number> {
  const known = worth.facts.underlyings.get(base) ?? worth.markets.get(base)?.underlying;
  if (!known) return () => 1;
  const others = await returnsOf(session, known, worth.asof);
  const days = [...others.keys()];
  const betas = new Map<string, number>();
  for (const [symbol, underlying] of worth.facts.underlyings) {
    if (symbol === base) continue;
    const own = await returnsOf(session, underlying, worth.asof);
    const { slope } = togetherOf(
      days.map((day) => own.get(day) ?? NaN),
      days.map((day) => others.get(day)!),
    );
    betas.set(symbol, Number.isFinite(slope) ? slope : 1);
  }
  return (symbol) => betas.get(symbol) ?? 1;
}
