import {
  ADJUSTED_KINDS,
  cashDividends,
  eventStudies,
  instantOf,
  type Calendar,
  type CashDividend,
  type EventStudy,
  type StudyMoment,
} from '@umwelt/core';
import type { MarketEvent } from './api';
import type { Summary } from './snapshot';

/** An event with its moment: that of the open of its day where the day is all that is known. */
export interface TimedEvent {
  title: string;
  kind: string;
  at: number;
}

/** Events with their moments, which take too long to find to be found at every step. */
export function timedEvents(events: readonly MarketEvent[], calendar: Calendar): TimedEvent[] {
  return events.map(({ date, start, title, kind }) => ({
    title,
    kind,
    at: start ? Date.parse(start) : instantOf(calendar, date, calendar.open),
  }));
}

/** Events that say something; dividends do not. */
export function announcements(events: readonly MarketEvent[], calendar: Calendar): TimedEvent[] {
  return timedEvents(events, calendar).filter(({ kind }) => !kind.startsWith('dividend'));
}

/** Whether an event takes something from the price that contracts are not adjusted for. */
const isPaid = (kind: string) =>
  kind.startsWith('dividend') && !ADJUSTED_KINDS.some((adjusted) => kind === `dividend ${adjusted}`);

/** Cash dividends that are known for the time from a moment to an expiry. */
export function knownDividends(
  events: readonly MarketEvent[],
  { valued, expires }: { valued: number; expires: number },
  calendar: Calendar,
): CashDividend[] {
  const paid = events.flatMap(({ kind, date, amount }) =>
    isPaid(kind) && amount !== null ? [{ exDate: date, amount }] : [],
  );
  return cashDividends(paid, calendar, valued, expires);
}

/** An announcement of the past, and what it did. */
export interface Announced extends EventStudy {
  title: string;
  kind: string;
  /** The vol around it: hours from it, and per cent. */
  path: { hours: number[]; vols: number[] };
}

/** Sessions before and after in which moments are looked for. */
const REACH_MS = 4 * 86_400_000;
const HOUR_MS = 3_600_000;

/**
 * Announcements before a moment, the latest first; dividends are none.
 *
 * @param days of the implied vol that is studied: 7 or 30
 */
export function announcedBefore(
  events: readonly MarketEvent[],
  snapshots: readonly Summary[],
  calendar: Calendar,
  instant: number,
  days: 7 | 30,
): Announced[] {
  const past = announcements(events, calendar).filter(({ at }) => at < instant);
  return past
    .flatMap(({ title, kind, at }) => {
      const moments = snapshots.flatMap((one): StudyMoment[] => {
        const time = Date.parse(one.asof);
        if (time > instant || Math.abs(time - at) > REACH_MS) return [];
        // A straddle that expires before the announcement expects nothing of it.
        const reaches = one.frontExpiry !== null && Date.parse(`${one.frontExpiry}T23:59:59Z`) > at;
        const expectedMove = reaches ? (one.frontStraddleMove ?? NaN) : NaN;
        return [
          { instant: time, price: one.price ?? NaN, vol: (days === 7 ? one.iv7 : one.iv30) ?? NaN, expectedMove },
        ];
      });
      const held = moments.filter(({ vol }) => Number.isFinite(vol));
      const path = {
        hours: held.map((one) => (one.instant - at) / HOUR_MS),
        vols: held.map(({ vol }) => 100 * vol),
      };
      return eventStudies(moments, [at], REACH_MS).map((study) => ({ ...study, title, kind, path }));
    })
    .toSorted((a, b) => b.instant - a.instant);
}
