import { dayOf, instantOf, nextSession, sessionClose } from '@umwelt/core';
import { LAST_QUARTER, QUARTER_MS, quarterInstant } from './path';
import { CALENDAR, CLOCK } from './world';

/** The last moment of the world, at which the feed begins. */
export const FEED_START = quarterInstant(CLOCK.lastDay, LAST_QUARTER);

/** A session by its instants. */
export interface SessionHours {
  day: string;
  open: number;
  close: number;
  /** Quarters of an hour: fewer on a half day. */
  quarters: number;
}

/** The hours of the session of a day. */
export function hoursOf(day: string): SessionHours {
  const open = instantOf(CALENDAR, day, CALENDAR.open);
  const close = sessionClose(CALENDAR, day);
  return { day, open, close, quarters: Math.round((close - open) / QUARTER_MS) };
}

/** The hours of the session in which a moment of the feed lies. */
export function hoursAt(moment: number): SessionHours {
  return hoursOf(dayOf(CALENDAR, moment));
}

/**
 * The moment after so much time of the market: while it is closed no time passes, and the next session opens.
 *
 * @param moment milliseconds, within a session
 * @param passed milliseconds
 */
export function advance(moment: number, passed: number): number {
  let hours = hoursAt(moment);
  let at = moment;
  for (let left = passed; ;) {
    if (at + left <= hours.close) return at + left;
    left -= hours.close - at;
    hours = hoursOf(nextSession(CALENDAR, hours.day));
    at = hours.open;
  }
}

/** A moment at which the feed is stored: every quarter of an hour a snapshot, at the close the bar of the session. */
export interface FeedPoint {
  moment: number;
  hours: SessionHours;
  isClose: boolean;
}

/** The points after one moment, up to and with another. */
export function feedPoints(after: number, until: number): FeedPoint[] {
  const points: FeedPoint[] = [];
  for (let hours = hoursAt(after); hours.open <= until; hours = hoursOf(nextSession(CALENDAR, hours.day))) {
    for (let quarter = 0; quarter <= hours.quarters; quarter++) {
      const moment = hours.open + quarter * QUARTER_MS;
      if (moment > after && moment <= until) points.push({ moment, hours, isClose: quarter === hours.quarters });
    }
  }
  return points;
}
