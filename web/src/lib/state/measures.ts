import { dayOf, lastOfSessions, rankOf, sessionClose, yangZhangVol, type Calendar, type Rank } from '@umwelt/core';
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

/**
 * Rank of iv30 at a moment among the last moments of the sessions before it.
 *
 * @param stops positions of the last moments of the sessions
 */
export function ivRankAt(
  snapshots: readonly Pick<Summary, 'iv30'>[],
  stops: readonly number[],
  index: number,
): Rank | null {
  const before = stops.slice(0, stops.findLastIndex((stop) => stop < index) + 1);
  return rankOf([...before, index].map((at) => snapshots[at]?.iv30 ?? NaN));
}

/** The last row whose bar is over at a moment; −1 before the first. */
export function lastBarIndex(calendar: Calendar, history: readonly HistoryRow[], instant: number): number {
  // Days ascend: the bar of the day of the moment, or of one before, is found without asking when all the others closed.
  const day = dayOf(calendar, instant);
  let low = 0;
  let high = history.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (history[middle]!.date <= day) low = middle + 1;
    else high = middle;
  }
  for (let i = low - 1; i >= 0; i--) {
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

/** Yang–Zhang vol over the last bars of a history, a decimal; NaN where too few are held. */
export function realizedOver(history: readonly HistoryRow[], lastBar: number, sessions: number): number {
  if (sessions < 2 || lastBar < sessions) return NaN;
  const bars = history.slice(lastBar - sessions, lastBar + 1);
  const column = (name: string) => Float64Array.from(bars, (bar) => valueOf(bar, name));
  const columns = { open: column('open'), high: column('high'), low: column('low'), close: column('close') };
  return yangZhangVol(columns, sessions)[sessions]!;
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
