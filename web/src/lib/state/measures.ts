import { lastOfSessions, rankOf, sessionClose, type Calendar, type Rank } from '@umwelt/core';
import type { HistoryRow } from './api';
import type { Summary } from '$lib/workers/snapshot';

/** Position of the latest moment at or before another; −1 when all are later. A null moment is the latest. */
export function momentIndex(snapshots: readonly Pick<Summary, 'asof'>[], asof: string | null): number {
  if (asof === null) return snapshots.length - 1;
  const wanted = Date.parse(asof);
  let found = -1;
  for (let i = 0; i < snapshots.length && Date.parse(snapshots[i]!.asof) <= wanted; i++) found = i;
  return found;
}

/** Rank of iv30 at a moment among the last moments of the sessions up to it. */
export function ivRankAt(calendar: Calendar, snapshots: readonly Summary[], index: number): Rank | null {
  const sessions = lastOfSessions(calendar, snapshots.slice(0, index + 1), (row) => Date.parse(row.asof));
  return rankOf(sessions.map((row) => row.iv30 ?? NaN));
}

/** The last row whose bar is over at a moment; −1 before the first. */
export function lastBarIndex(calendar: Calendar, history: readonly HistoryRow[], instant: number): number {
  for (let i = history.length - 1; i >= 0; i--) {
    const row = history[i]!;
    if (row.close !== null && sessionClose(calendar, row.date) <= instant) return i;
  }
  return -1;
}

/** A number of a row; NaN where it has none. */
export function valueOf(row: HistoryRow | undefined, name: string): number {
  const value = row?.[name];
  return typeof value === 'number' ? value : NaN;
}

/** Positions of the last moment of each session. */
export function sessionStops(calendar: Calendar, snapshots: readonly { asof: string }[]): number[] {
  return lastOfSessions(calendar, [...snapshots.keys()], (i) => Date.parse(snapshots[i]!.asof));
}

/**
 * Some stops on from a position, which may lie between two of them; the first or the last where there are fewer.
 *
 * @returns −1 where there are none
 */
export function stepAlong(stops: readonly number[], index: number, steps: number): number {
  if (stops.length === 0) return -1;
  const before = stops.findLastIndex((stop) => stop <= index);
  const isBetween = stops[before] !== index;
  // Back from between two stops, the one before is one step away.
  const to = before + steps + (isBetween && steps < 0 ? 1 : 0);
  return stops[Math.max(0, Math.min(stops.length - 1, to))]!;
}

/** The variance index of a snapshot as a decimal; NaN where it has none. */
export function indexVolOf({ measures }: { measures: Pick<Summary, 'varianceIndex'> }): number {
  return (measures.varianceIndex ?? NaN) / 100;
}
