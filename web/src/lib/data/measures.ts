import {
  adjustedBars,
  barsNeeded,
  dayOf,
  historicalVol,
  lastOfSessions,
  rankOf,
  sessionClose,
  type Adjustment,
  type BarColumns,
  type Calendar,
  type Estimator,
  type Rank,
} from '@umwelt/core';
import type { HistoryRow, MarketEvent } from './api';
import type { Summary } from './snapshot';

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
  // Days ascend, so the bar is found by its day, without computing every other close.
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

/** New shares for an old one between a day and that of the moment in view: prices before are divided by it. */
export function splitsAfter(events: readonly MarketEvent[], until: string): (day: string) => number {
  const splits = events.flatMap(({ date, kind, amount }) =>
    kind === 'dividend split' && amount !== null && amount > 0 && date <= until ? [{ date, amount }] : [],
  );
  return (day) => splits.reduce((factor, { date, amount }) => (date > day ? factor * amount : factor), 1);
}

/** The bars of a history on the footing of the last one, without the steps of dividends and splits. */
export interface KnownBars extends BarColumns {
  dates: string[];
  /** Of each row of the history: the position of its bar, or of the last one before it; −1 before the first. */
  at: Int32Array;
}

const BAR_FIELDS = ['open', 'high', 'low', 'close'] as const;

/** Bars of a history; days without one are passed over. */
export function barsOf(history: readonly HistoryRow[], events: readonly MarketEvent[]): KnownBars {
  const rows = history.filter((row) => row.close !== null);
  const column = (name: string) => Float64Array.from(rows, (row) => valueOf(row, name));
  const [open, high, low, close] = BAR_FIELDS.map(column) as [Float64Array, Float64Array, Float64Array, Float64Array];
  const dates = rows.map(({ date }) => date);
  const steps = events.flatMap(({ date, kind, amount }): Adjustment[] =>
    amount === null ? [] : [{ exDate: date, amount, kind: kind === 'dividend split' ? 'split' : 'cash' }],
  );
  let bar = -1;
  const at = Int32Array.from(history, (row) => (row.close === null ? bar : ++bar));
  return { ...adjustedBars({ open, high, low, close }, dates, steps), dates, at };
}

/** Bars up to one of them, itself included. */
export function barsTo({ open, high, low, close }: BarColumns, last: number, first = 0): BarColumns {
  const part = (values: Float64Array) => values.subarray(first, last + 1);
  return { open: part(open), high: part(high), low: part(low), close: part(close) };
}

/**
 * Historical vol over the last bars of a history, a decimal; NaN where too few are held.
 *
 * @param row of the history
 */
export function realizedOver(
  bars: KnownBars,
  row: number,
  sessions: number,
  estimator: Estimator = 'yang-zhang',
): number {
  const last = bars.at[row] ?? -1;
  if (sessions < 2) return NaN;
  const first = last + 1 - barsNeeded(estimator, sessions);
  return first < 0 ? NaN : historicalVol(barsTo(bars, last, first), estimator, sessions).at(-1)!;
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
  // Stepping back from between two stops, the earlier stop is one step away.
  const to = before + steps + (isBetween && steps < 0 ? 1 : 0);
  return stops[Math.max(0, Math.min(stops.length - 1, to))]!;
}

/** The variance index of a snapshot as a decimal; NaN where it has none. */
export function indexVolOf({ measures }: { measures: Pick<Summary, 'varianceIndex'> }): number {
  return (measures.varianceIndex ?? NaN) / 100;
}
