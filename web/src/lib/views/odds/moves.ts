import type { z } from 'zod';
import {
  expectedSteps,
  expiryRecords,
  countInside,
  type Calendar,
  type ExpectedStep,
  type ExpiryRecord,
  type InsideCount,
  type MoveMeasure,
  type MoveMoment,
  type PriceAt,
  type StepKind,
} from '@umwelt/core';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import type { HistoryRow } from '$lib/state';

export type KnownMoveRow = z.infer<typeof schemas.KnownMove>;

/** What was expected at the end of every session that is held, up to a moment. */
export async function loadMoves(symbol: string, from: string, asof: string): Promise<KnownMoveRow[]> {
  return (await call('GET /underlyings/{symbol}/expected-moves', { path: { symbol }, query: { from, asof } })).moves;
}

export type IntradayBar = z.infer<typeof schemas.IntradayBarsResponse>['bars'][number];

/** Bars of a quarter of an hour of the session of a moment, up to it. */
export async function loadInside(symbol: string, asof: string): Promise<IntradayBar[]> {
  return (await call('GET /underlyings/{symbol}/intraday-bars', { path: { symbol }, query: { asof } })).bars;
}

/** Bars between the prices of moments, each from the price before to its own. */
export function barsBetween(moments: readonly { asof: string; price: number }[]): IntradayBar[] {
  return moments.slice(1).map(({ price: close }, i) => {
    const { asof: time, price: open } = moments[i]!;
    return { time, open, high: Math.max(open, close), low: Math.min(open, close), close, volume: null };
  });
}

/** Moments with their moves, on the footing of the shares of the moment in view; expiries that are set aside expect nothing. */
export function momentsOf(rows: readonly KnownMoveRow[], splits: (day: string) => number): MoveMoment[] {
  const moments: { day: string; price: number; expiries: MoveMoment['expiries'][number][] }[] = [];
  for (const row of rows) {
    const factor = splits(row.day);
    let moment = moments.at(-1);
    if (moment?.day !== row.day) {
      moment = { day: row.day, price: (row.price ?? NaN) / factor, expiries: [] };
      moments.push(moment);
    }
    if (row.isAside) continue;
    const { expiry, settlement, sessions } = row;
    moment.expiries.push({
      ...{ expiry, settlement, sessions },
      straddle: (row.straddle ?? NaN) / factor,
      deviation: (row.deviation ?? NaN) / factor,
    });
  }
  return moments;
}

/** Opens and closes by day, on the same footing. */
export function pricesOf(history: readonly HistoryRow[], splits: (day: string) => number): PriceAt {
  const byDay = new Map(history.map((row) => [row.date, row]));
  return (day, end) => {
    const value = byDay.get(day)?.[end === 'am' ? 'open' : 'close'];
    return typeof value === 'number' ? value / splits(day) : NaN;
  };
}

/** What became of expected moves. */
export interface MoveHistory {
  steps: ExpectedStep[];
  count: InsideCount;
  records: ExpiryRecord[];
  /** Of the records: how many there are and how often they stayed inside, by sessions that were left. */
  bySessions: { label: string; count: number; inside: number }[];
}

const SPANS = [
  { label: '1 to 5', most: 5 },
  { label: '6 to 10', most: 10 },
  { label: '11 to 21', most: 21 },
  { label: '22 to 63', most: 63 },
  { label: 'more', most: Infinity },
] as const;

/** Follows expected moves of the past to what became of them. */
export function moveHistory(
  calendar: Calendar,
  moments: readonly MoveMoment[],
  kind: StepKind,
  measure: MoveMeasure,
  priceAt: PriceAt,
  now: { day: string; price: number },
): MoveHistory {
  const steps = expectedSteps(calendar, moments, kind, measure, priceAt, now);
  const records = expiryRecords(moments, measure, priceAt, now.day);
  const bySessions = SPANS.map(({ label, most }, i) => {
    const least = SPANS[i - 1]?.most ?? 0;
    const those = records.filter(({ sessions }) => sessions > least && sessions <= most);
    return { label, count: those.length, inside: those.filter(({ times }) => Math.abs(times) <= 1).length };
  });
  return { steps, count: countInside(steps, measure), records, bySessions };
}
