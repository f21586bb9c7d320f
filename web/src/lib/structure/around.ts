import { dayOf, instantAfter, yearsBetween, type Calendar, type CashDividend } from '@umwelt/core';
import type { MarketEvent } from '$lib/data/api';
import { announcements, knownDividends } from '$lib/data/events';
import { shortDay } from '$lib/formats';

/** What is known to come in the lives of legs. */
export interface LegsAround {
  /** Announcements: their moment, and what they are in words. */
  announced: { at: number; words: string }[];
  /** The same in years from now, and cash dividends. */
  events: number[];
  dividends: CashDividend[];
}

/**
 * What is known to come before the last of some expiries.
 *
 * @param instant now
 * @param years to the expiries
 */
export function aroundLegs(
  events: readonly MarketEvent[],
  calendar: Calendar,
  instant: number,
  years: readonly number[],
): LegsAround {
  const expires = instantAfter(instant, Math.max(0, ...years));
  const announced = announcements(events, calendar)
    .filter(({ at }) => at > instant && at <= expires)
    .map(({ at, title }) => ({ at, words: `${title}, ${shortDay(dayOf(calendar, at))},` }));
  return {
    announced,
    events: announced.map(({ at }) => yearsBetween(instant, at)),
    dividends: knownDividends(events, { valued: instant, expires }, calendar),
  };
}
