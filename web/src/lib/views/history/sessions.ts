import {
  averageMove,
  dayOf,
  ESTIMATOR_CODES,
  historicalVol,
  rankOf,
  sessionClose,
  zScoreOf,
  type Calendar,
  type Estimator,
  type Rank,
} from '@umwelt/core';
import type { HistoryRow, KnownBars, MarketEvent } from '$lib/state';
import { splitsAfter, valueOf } from '$lib/data/measures';
import type { Summary } from '$lib/data';
import { type ImpliedName, type Lower, type Span } from './params';

/** What is known of an underlying session by session at a moment. */
export interface Sessions {
  dates: string[];
  /** Of the last moment in view of each session; null where none is held. */
  asofs: (string | null)[];
  /** In shares of the moment; of a session that is not over, the price at the moment. */
  close: Float64Array;
  /** Of the underlying; NaN where it is not known. */
  volume: Float64Array;
  /** Of all options. */
  optionVolume: Float64Array;
  /** Of the bars on one footing: the position of the last one that was over at the session's own moment; −1 for none. */
  known: Int32Array;
  /** And of the one that is over by now; −1 for none. */
  own: Int32Array;
  summaries: (Summary | null)[];
}

/**
 * Sessions up to a moment, of which nothing later is known.
 *
 * @param snapshots of all moments that are held
 * @param now measures of the moment in view, which may be of a feed
 * @param events splits among them bring prices into shares of the moment
 */
export function sessionsOf(
  rows: readonly HistoryRow[],
  bars: KnownBars,
  snapshots: readonly Summary[],
  calendar: Calendar,
  now: Summary,
  events: readonly MarketEvent[] = [],
): Sessions {
  const instant = Date.parse(now.asof);
  const byAsof = new Map(snapshots.map((one) => [Date.parse(one.asof), one]));
  const day = dayOf(calendar, instant);
  const splits = splitsAfter(events, day);
  const today = rows.findIndex(({ date }) => date === day);
  const held = rows.flatMap((row, i) => {
    const end = sessionClose(calendar, row.date);
    const isOver = row.close !== null && end <= instant;
    const measured = row.asof !== null && Date.parse(row.asof) <= instant;
    if (!isOver && !measured && i !== today) return [];
    const summary = i === today ? now : measured ? (byAsof.get(Date.parse(row.asof!)) ?? null) : null;
    // The last moment of a session usually lies before its close: its own bar is not over then.
    const isKnown = row.close === null || (summary !== null && Date.parse(summary.asof) >= end);
    return [{ row, i, isOver, isKnown, summary }];
  });
  return {
    dates: held.map(({ row }) => row.date),
    asofs: held.map(({ summary }) => summary?.asof ?? null),
    close: Float64Array.from(
      held,
      ({ row, isOver, summary }) => (isOver ? valueOf(row, 'close') : (summary?.price ?? NaN)) / splits(row.date),
    ),
    volume: Float64Array.from(held, ({ row, isOver }) => (isOver ? valueOf(row, 'volume') : NaN)),
    optionVolume: Float64Array.from(held, ({ summary }) => summary?.volume ?? NaN),
    known: Int32Array.from(held, ({ i, isKnown }) => bars.at[i]! - (isKnown ? 0 : 1)),
    own: Int32Array.from(held, ({ i, isOver }) => (isOver ? bars.at[i]! : -1)),
    summaries: held.map(({ summary }) => summary),
  };
}

/** How an implied vol is called. */
export const IMPLIED_LABELS: Record<ImpliedName, string> = {
  iv7: '7 days',
  iv30: '30 days',
  iv60: '60 days',
  iv90: '90 days',
  iv180: '180 days',
  iv360: '360 days',
  index: 'variance index',
  put25: '25-delta put',
  call25: '25-delta call',
  put10: '10-delta put',
  call10: '10-delta call',
};

/** Wings at thirty days: by how much the middle of both lies over iv30, and by which share of the reversal they part. */
const WINGS = {
  put25: { butterfly: 'butterfly25', reversal: 'riskReversal25', side: -0.5 },
  call25: { butterfly: 'butterfly25', reversal: 'riskReversal25', side: 0.5 },
  put10: { butterfly: 'butterfly10', reversal: 'riskReversal10', side: -0.5 },
  call10: { butterfly: 'butterfly10', reversal: 'riskReversal10', side: 0.5 },
} as const;

const isWing = (name: ImpliedName): name is keyof typeof WINGS => name in WINGS;

/** An implied vol by session, a decimal. */
export function impliedOf({ summaries }: Sessions, name: ImpliedName): Float64Array {
  return Float64Array.from(summaries, (summary) => {
    if (!summary) return NaN;
    if (name === 'index') return (summary.varianceIndex ?? NaN) / 100;
    if (!isWing(name)) return summary[name] ?? NaN;
    const { butterfly, reversal, side } = WINGS[name];
    return (summary.iv30 ?? NaN) + (summary[butterfly] ?? NaN) + side * (summary[reversal] ?? NaN);
  });
}

/** One standard error of an implied vol by session, as the quotes let it be known; null where none is held. */
export function impliedErrorOf({ summaries }: Sessions, name: ImpliedName): Float64Array | null {
  return name === 'iv30' ? Float64Array.from(summaries, (summary) => summary?.iv30Uncertainty ?? NaN) : null;
}

/** A historical vol by session. */
export interface Historical {
  name: string;
  /** With the bar of the session itself. */
  own: Float64Array;
  /** What was known at the session's moment. */
  known: Float64Array;
}

/** A historical vol of a window by session, its name as that of a series. */
export function historicalOf(sessions: Sessions, bars: KnownBars, estimator: Estimator, window: number): Historical {
  const name = `hv${window}.${ESTIMATOR_CODES[estimator]}`;
  if (window < 2) {
    const none = new Float64Array(sessions.dates.length).fill(NaN);
    return { name, own: none, known: none };
  }
  const vols = historicalVol(bars, estimator, window);
  const at = (positions: Int32Array) => Float64Array.from(positions, (bar) => vols[bar] ?? NaN);
  return { name, own: at(sessions.own), known: at(sessions.known) };
}

export const LOWER_LABELS: Record<Lower, { name: string; unit: string; title: string }> = {
  gap: { name: 'gap', unit: 'points', title: 'implied less the historical vol that was known' },
  ratio: { name: 'ratio', unit: '', title: 'implied over the historical vol that was known' },
  rr25: { name: 'RR 25', unit: 'points', title: '25-delta call less put at 30 days' },
  bf25: { name: 'BF 25', unit: 'points', title: '25-delta wings over the middle at 30 days' },
  slope: { name: 'term slope', unit: 'points', title: '90-day less 30-day vol' },
  move: { name: 'move', unit: '%', title: 'expected move of the first expiry by its straddle' },
};

/** What stands below by session: points, per cent or a ratio as they are read. */
export function lowerOf(sessions: Sessions, lower: Lower, implied: Float64Array, known: Float64Array): Float64Array {
  return Float64Array.from(sessions.summaries, (summary, i) => {
    if (!summary) return NaN;
    switch (lower) {
      case 'gap':
        return 100 * (implied[i]! - known[i]!);
      case 'ratio':
        return implied[i]! / known[i]!;
      case 'rr25':
        return 100 * (summary.riskReversal25 ?? NaN);
      case 'bf25':
        return 100 * (summary.butterfly25 ?? NaN);
      case 'slope':
        return 100 * (summary.termSlope ?? NaN);
      case 'move':
        return (100 * (summary.frontStraddleMove ?? NaN)) / (summary.price ?? NaN);
    }
  });
}

/** Where the last value of a series stands in its lookback. */
export interface Standing extends Rank {
  name: string;
  now: number;
  z: number;
  /** Days of the low and the high. */
  lowDate: string;
  highDate: string;
  /** Whether fewer sessions are held than were asked for. */
  isShort: boolean;
}

/**
 * Where a series stands.
 *
 * @param lookback sessions, 0 for all
 * @returns null where the last session has no value
 */
export function standingOf(
  name: string,
  dates: readonly string[],
  values: Float64Array,
  lookback: number,
): Standing | null {
  const length = lookback === 0 ? values.length : lookback;
  const rank = rankOf(values, length);
  if (!rank) return null;
  return {
    ...rank,
    name,
    now: values[values.length - 1]!,
    z: zScoreOf(values, length),
    lowDate: dates[rank.lowIndex]!,
    highDate: dates[rank.highIndex]!,
    isShort: lookback !== 0 && rank.sessions < lookback,
  };
}

/** Average absolute move of the last sessions that are over, a share; NaN where too few are held. */
export function averageMoveOf({ own }: Sessions, { close }: KnownBars, window: number): number {
  const last = own.findLast((bar) => bar >= 0) ?? -1;
  return averageMove(close, window)[last] ?? NaN;
}

/** The first session that a span shows, or that lies on a day or after it. */
export function firstOf({ summaries, dates }: Sessions, span: Span, since: string | null = null): number {
  if (since !== null) {
    const first = dates.findIndex((date) => date >= since);
    return first < 0 ? Math.max(0, dates.length - 1) : first;
  }
  if (span === 'bars') return 0;
  const held = summaries.findIndex((one) => one !== null);
  if (span === 'held') return Math.max(0, held - 3);
  return Math.max(0, dates.length - { '3m': 63, '6m': 126, '1y': 252 }[span]);
}
