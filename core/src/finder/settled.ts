import type { ExpiryId } from '../contracts';

/** Prices of a session as they were traded. */
export interface TradedDay {
  readonly date: string;
  readonly open: number;
  readonly close: number;
}

/**
 * What expiries that were listed on a day settled at since: the close of their own day, of a morning series the open. Across a split
 * contracts are others, and nothing is told.
 *
 * @param days as traded, without the adjustments that returns are taken with
 * @param splits ex-dates
 * @param from the day on which they were listed
 * @returns NaN where that is not known
 */
export function settledSince(
  days: readonly TradedDay[],
  splits: readonly string[],
  from: string,
): (expiry: ExpiryId) => number {
  const byDay = new Map(days.map((day) => [day.date, day]));
  return ({ expiry, settlement }) => {
    const day = byDay.get(expiry);
    if (!day || splits.some((exDate) => exDate > from && exDate <= expiry)) return NaN;
    return settlement === 'am' ? day.open : day.close;
  };
}
