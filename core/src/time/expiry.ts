import type { Settlement } from '../contracts';
import { instantOf, isSession, previousSession, sessionClose, type Calendar } from './calendar';

export type ExpiryClass = 'weekly' | 'monthly' | 'quarterly';

/**
 * The instant at which an expiry settles.
 *
 * @param day expiry date in the zone of the exchange
 * @param settlement at the open (`am`) or the close (`pm`)
 */
export function expiryInstant(calendar: Calendar, day: string, settlement: Settlement): number {
  return settlement === 'am' ? instantOf(calendar, day, calendar.open) : sessionClose(calendar, day);
}

/**
 * The monthly expiry of a month: the third expiry weekday, or the session before it when that is a holiday.
 *
 * @param month as `2031-03`
 */
export function monthlyExpiry(calendar: Calendar, month: string): string {
  const firstWeekday = new Date(`${month}-01T00:00:00Z`).getUTCDay() || 7;
  const third = 15 + ((calendar.expiryWeekday - firstWeekday + 7) % 7);
  const day = `${month}-${String(third).padStart(2, '0')}`;
  return isSession(calendar, day) ? day : previousSession(calendar, day);
}

/**
 * Whether an expiry is a weekly, a monthly (third expiry weekday of the month, or the session before it
 * when that is a holiday) or a quarterly (the monthly of March, June, September and December).
 */
export function expiryClass(calendar: Calendar, day: string): ExpiryClass {
  if (day !== monthlyExpiry(calendar, day.slice(0, 7))) return 'weekly';
  return Number(day.slice(5, 7)) % 3 === 0 ? 'quarterly' : 'monthly';
}
