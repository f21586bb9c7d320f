import { eventStudies, type Calendar, type EventStudy, type StudyMoment } from '@umwelt/core';
import { timedEvents } from './term';
import { figures, type Sentence } from '$lib/formats';
import type { MarketEvent } from '$lib/data/api';
import { numberColumns, type DataTable } from '$lib/tables';
import type { Summary } from '$lib/data';

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
  const past = timedEvents(events, calendar).filter(({ kind, at }) => !kind.startsWith('dividend') && at < instant);
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

/** The kinds of announcements, by name. */
export function kindsOf(rows: readonly Pick<Announced, 'kind'>[]): string[] {
  return [...new Set(rows.map(({ kind }) => kind))].sort();
}

/** Announcements as a file has them. */
export function announcedTable(rows: readonly Announced[]): DataTable {
  const share = (value: number) => figures.percent(value, 2);
  return {
    columns: [
      { name: 'time', type: 'instant' },
      { name: 'title', type: 'text' },
      { name: 'kind', type: 'text' },
      ...numberColumns(['vol_before', 'vol_after'], (value) => figures.vol(value, 2)),
      ...numberColumns(['change'], (value) => figures.volChange(value, 2)),
      ...numberColumns(['expected', 'move'], share),
      ...numberColumns(['ratio'], (value) => figures.fixed(value, 2)),
      ...numberColumns(['hours_to_half'], (value) => figures.fixed(value, 2)),
    ],
    rows: rows.map((row) => [
      ...[new Date(row.instant).toISOString(), row.title, row.kind, row.before.vol, row.after.vol],
      ...[row.change, row.expected, row.move, row.ratio, row.halfFall],
    ]),
  };
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value / values.length, 0);

/** What announcements did on average against what was expected. */
export function announcedSentence(rows: readonly Announced[], days: 7 | 30): Sentence {
  if (rows.length === 0)
    return { lead: 'No announcement of the past.', rest: 'None is held that has moments before and after it.' };
  const changes = rows.map(({ change }) => change);
  const ratios = rows.map(({ ratio }) => ratio).filter(Number.isFinite);
  const beyond = ratios.filter((ratio) => ratio > 1).length;
  const fall = mean(changes);
  const half = rows.map(({ halfFall }) => halfFall).filter(Number.isFinite);
  const moves =
    ratios.length > 0
      ? ` The price moved ${figures.fixed(mean(ratios), 2)} times what the straddle expected, beyond it ${figures.count(beyond)} of ${figures.counted(ratios.length, 'time')}.`
      : '';
  const speed = half.length > 0 ? ` Half of the fall was done ${figures.fixed(mean(half), 1)} hours after.` : '';
  return {
    lead: `The ${days}-day vol ${fall < 0 ? 'fell' : 'rose'} by ${figures.vol(Math.abs(fall))} points on average of ${figures.counted(rows.length, 'announcement')}.`,
    rest: `${moves}${speed}`.trim(),
  };
}
