import type { Calendar } from '@umwelt/core';
import { timedEvents } from '$lib/data/events';
import type { MarketEvent } from '$lib/state';

const MS_PER_YEAR = 365 * 86_400_000;

/** Announcements that are still to come at a moment, in years from it; dividends carry no variance of their own. */
export function announcements(events: readonly MarketEvent[], calendar: Calendar): (instant: number) => number[] {
  const held = timedEvents(events, calendar).filter(({ kind }) => !kind.startsWith('dividend'));
  return (instant) => held.map(({ at }) => (at - instant) / MS_PER_YEAR).filter((years) => years > 0);
}
