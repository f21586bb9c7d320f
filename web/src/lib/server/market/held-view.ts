import { STORED_MEASURES } from '../../columns/measures';
import { dayOf, historicalVol, namedVol, rankOf, type BarColumns, type Calendar } from '@umwelt/core';
import { DAY_MS, dayNumber } from './days';
import type { Underlying } from './terms';

/** An announcement, in order of time. */
export interface Announcement {
  start: number;
  title: string;
}

/** Measures of an underlying by moment. */
export interface Moments {
  /** Instants, ascending. */
  at: Float64Array;
  /** Positions of the last moment of each session, and its day since 1970. */
  ends: Int32Array;
  days: Int32Array;
  columns: Map<string, Float64Array>;
}

/** Bars of an underlying without the steps of dividends and splits, with the vols that were computed of them. */
export interface HeldBars extends BarColumns {
  /** Days since 1970. */
  days: Int32Array;
  /** Closes as they were traded. */
  raw: Float64Array;
  /** When the session of each was over. */
  closes: Float64Array;
  vols: Map<string, Float64Array>;
}

/** What is held of an underlying. */
export interface Held {
  underlying: Underlying;
  calendar: Calendar;
  moments: Moments | null;
  bars: HeldBars | null;
  /** Of the last moment of each session, how many bars are over; null until it is needed. */
  over: Int32Array | null;
}

/** What is known of the days ahead. */
export interface Dated {
  /** Announcements that concern an underlying, in order of time. */
  announcementsOf(symbol: string): readonly Announcement[];
  /** Days of its dividends since 1970, ascending. */
  exDatesOf(symbol: string): readonly number[];
  splitsOf(symbol: string): readonly Split[];
}

/** A split: its day since 1970, and new shares for an old one. */
export interface Split {
  day: number;
  shares: number;
}

/** New shares for an old one of a day, on another one after it. */
function sharesSince(splits: readonly Split[], since: number, until: number): number {
  return splits.reduce((all, { day, shares }) => (day > since && day <= until ? all * shares : all), 1);
}

/** How many of some ascending values are at or under another. */
function countTo(values: ArrayLike<number>, value: number): number {
  let low = 0;
  let high = values.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (values[middle]! <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** How many bars are over at the last moment of each session. */
function overAt(closes: Float64Array, { at, ends }: Moments): Int32Array {
  let bar = 0;
  return Int32Array.from(ends, (end) => {
    while (bar < closes.length && closes[bar]! <= at[end]!) bar++;
    return bar;
  });
}

/** Values of some days, both ascending; NaN for a day that has none. */
function alongDays(days: ArrayLike<number>, held: Int32Array, end: number, valueAt: (i: number) => number) {
  const out = new Float64Array(days.length).fill(NaN);
  let at = end - 1;
  for (let i = days.length - 1; i >= 0; i--) {
    while (at >= 0 && held[at]! > days[i]!) at--;
    if (at >= 0 && held[at] === days[i]) out[i] = valueAt(at);
  }
  return out;
}

/** Numbers that a view remembers at most: 128 MB of them. */
const MOST_REMEMBERED = 16e6;

/** Whether underlyings are still listed at a moment: what was delivered or delisted on a day before has no quotes any more. */
function listedAt(rows: readonly Held[], moment: number): boolean[] {
  const latest = rows.reduce((last, { moments }) => Math.max(last, moments?.at.at(-1) ?? -Infinity), -Infinity);
  const instant = Math.min(moment, latest);
  return rows.map(
    ({ underlying: { expires }, calendar }) =>
      expires === null || !Number.isFinite(instant) || dayOf(calendar, instant) <= expires,
  );
}

/** Measures that are money of a share. */
const MONEY = new Set(STORED_MEASURES.filter(({ unit }) => 'price' in unit).map(({ name }) => name));

/** What is held as it was at a moment: of each underlying up to its last moment at or before that. */
export class HeldView {
  readonly underlyings: readonly Underlying[];
  /** Position of the last moment of each underlying, −1 without any, and how many sessions ended before its own. */
  private readonly now: Int32Array;
  private readonly before: Int32Array;
  private readonly known = new Map<string, Float64Array>();
  private size = 0;
  private readonly listed: readonly boolean[];

  /**
   * @param rows underlyings
   * @param moment instant
   */
  constructor(
    private readonly rows: readonly Held[],
    moment: number,
    private readonly dated: Dated,
  ) {
    this.listed = listedAt(rows, moment);
    this.underlyings = rows.map(({ underlying }) => underlying);
    this.now = Int32Array.from(rows, ({ moments }) => (moments ? countTo(moments.at, moment) - 1 : -1));
    this.before = Int32Array.from(rows, ({ moments }, i) =>
      moments && this.now[i]! >= 0 ? countTo(moments.ends, this.now[i]! - 1) : 0,
    );
  }

  /** The moment of an underlying; NaN where none is held. */
  instant(row: number): number {
    return this.rows[row]!.moments?.at[this.now[row]!] ?? NaN;
  }

  /** Whether an underlying is still listed at the moment: of one that is not, what is known is of the past. */
  isListed(row: number): boolean {
    return this.listed[row]!;
  }

  /** The day of the first expiry that is used, in days since 1970; NaN where there is none or it was not asked for. */
  frontDay(row: number): number {
    return this.rows[row]!.moments?.columns.get('frontday')?.[this.now[row]!] ?? NaN;
  }

  /** The next announcement that concerns an underlying, after its moment. */
  nextAnnouncement(row: number): Announcement | null {
    return this.announcementAfter(this.rows[row]!.underlying.symbol, this.instant(row));
  }

  private announcementAfter(symbol: string, instant: number): Announcement | null {
    const all = this.dated.announcementsOf(symbol);
    for (const one of all) if (one.start > instant) return one;
    return null;
  }

  /** What is computed of this view, remembered under a name of its own as long as the view is. */
  remember(key: string, work: () => Float64Array): Float64Array {
    const known = this.known.get(key);
    if (known) return known;
    const values = work();
    this.size += values.length;
    if (this.size > MOST_REMEMBERED) {
      this.known.clear();
      this.size = values.length;
    }
    this.known.set(key, values);
    return values;
  }

  /** Values of a measure of all underlyings over the last sessions, in rows; NaN for what there is not. */
  readonly series = (name: string, sessions: number): Float64Array =>
    this.remember(`${name} ${sessions}`, () => {
      const out = new Float64Array(this.rows.length * sessions).fill(NaN);
      const vol = namedVol(name);
      if (vol) this.fillVol(out, sessions, name, vol);
      else if (WORKED_OUT[name]) this.fillWorkedOut(out, sessions, WORKED_OUT[name]);
      else this.fillStored(out, sessions, name);
      return out;
    });

  /** The value of a measure at the moment; NaN where it is not known. */
  value(name: string, row: number): number {
    return this.series(name, 1)[row]!;
  }

  /** Rank of the value now over the last sessions, 0 to 1; NaN where it has none. */
  rank(name: string, row: number, sessions: number): number {
    return rankOf(this.series(name, sessions), sessions, sessions * (row + 1))?.rank ?? NaN;
  }

  private fillStored(out: Float64Array, sessions: number, name: string): void {
    for (let row = 0; row < this.rows.length; row++) {
      const { moments } = this.rows[row]!;
      const column = moments?.columns.get(name);
      const now = this.now[row]!;
      if (!moments || !column || now < 0) continue;
      const last = (row + 1) * sessions - 1;
      out[last] = column[now]!;
      const before = this.before[row]!;
      const { ends } = moments;
      const most = Math.min(sessions - 1, before);
      if (most === 0) continue;
      const first = ends[before - most]!;
      // With a moment a session they lie one after the other.
      if (ends[before - 1]! - first === most - 1) out.set(column.subarray(first, first + most), last - most);
      else for (let back = most; back > 0; back--) out[last - back] = column[ends[before - back]!]!;
      if (MONEY.has(name)) this.takeSplits(out.subarray(last - most, last), row);
    }
  }

  /** Brings money of the last sessions before that of the moment into shares of the moment. */
  private takeSplits(values: Float64Array, row: number): void {
    const { underlying, calendar, moments } = this.rows[row]!;
    const splits = this.dated.splitsOf(underlying.symbol);
    if (splits.length === 0) return;
    const today = dayNumber(calendar, this.instant(row));
    const first = this.before[row]! - values.length;
    for (let i = 0; i < values.length; i++) values[i]! /= sharesSince(splits, moments!.days[first + i]!, today);
  }

  private fillWorkedOut(out: Float64Array, sessions: number, work: WorkedOut): void {
    for (let row = 0; row < this.rows.length; row++) {
      const held = this.rows[row]!;
      const now = this.now[row]!;
      if (!held.moments || now < 0) continue;
      const last = (row + 1) * sessions - 1;
      const before = this.before[row]!;
      for (let back = Math.min(sessions - 1, before); back >= 0; back--) {
        const position = back === 0 ? now : held.moments.ends[before - back]!;
        const day = back === 0 ? dayNumber(held.calendar, held.moments.at[now]!) : held.moments.days[before - back]!;
        out[last - back] = work(held, held.moments, position, day, this.dated);
      }
    }
  }

  /** How many bars of each underlying are over at its moment, once it is needed. */
  private overNow: Int32Array | null = null;

  private barCount(row: number): number {
    this.overNow ??= Int32Array.from(this.rows, ({ bars, moments }, i) =>
      bars && moments && this.now[i]! >= 0 ? countTo(bars.closes, moments.at[this.now[i]!]!) : 0,
    );
    return this.overNow[row]!;
  }

  private fillVol(
    out: Float64Array,
    sessions: number,
    name: string,
    { estimator, window }: NonNullable<ReturnType<typeof namedVol>>,
  ): void {
    for (let row = 0; row < this.rows.length; row++) {
      const held = this.rows[row]!;
      const { moments, bars } = held;
      if (!moments || !bars || this.now[row]! < 0) continue;
      let values = bars.vols.get(name);
      if (!values) bars.vols.set(name, (values = historicalVol(bars, estimator, window)));
      const last = (row + 1) * sessions - 1;
      const before = this.before[row]!;
      let bar = this.barCount(row) - 1;
      if (bar >= 0) out[last] = values[bar]!;
      if (sessions === 1) continue;
      const over = (held.over ??= overAt(bars.closes, moments));
      for (let back = 1; back < sessions; back++) {
        // Before the first session that is held, bar by bar.
        bar = back <= before ? over[before - back]! - 1 : bar - 1;
        if (bar < 0) break;
        out[last - back] = values[bar]!;
      }
    }
  }

  /** The last bars that are over at the moment of an underlying, without the steps of dividends and splits. */
  bars(row: number, most: number): BarColumns {
    const { bars } = this.rows[row]!;
    const end = this.barCount(row);
    const part = (field: keyof BarColumns) =>
      bars?.[field].subarray(Math.max(0, end - most), end) ?? new Float64Array();
    return { open: part('open'), high: part('high'), low: part('low'), close: part('close') };
  }

  /** The days of the last bars that are over, in days since 1970. */
  lastDays(row: number, most: number): Int32Array {
    const end = this.barCount(row);
    return this.rows[row]!.bars?.days.slice(Math.max(0, end - most), end) ?? new Int32Array();
  }

  /** Closes of some days without the steps of dividends and splits; NaN where there is no bar, or it is not over. */
  closesOn(row: number, days: ArrayLike<number>): Float64Array {
    const { bars } = this.rows[row]!;
    if (!bars) return new Float64Array(days.length).fill(NaN);
    return alongDays(days, bars.days, this.barCount(row), (i) => bars.close[i]!);
  }

  /** A measure at the last moments of some days; NaN where there is none. */
  measureOn(name: string, row: number, days: ArrayLike<number>): Float64Array {
    const { moments } = this.rows[row]!;
    const column = moments?.columns.get(name);
    if (!moments || !column) return new Float64Array(days.length).fill(NaN);
    return alongDays(days, moments.days, countTo(moments.ends, this.now[row]!), (i) => column[moments.ends[i]!]!);
  }
}

/** A measure that is computed of what is held, at a position of the moments and on its day since 1970. */
type WorkedOut = (held: Held, moments: Moments, position: number, day: number, dated: Dated) => number;

const WORKED_OUT: Readonly<Record<string, WorkedOut>> = {
  front: (_, moments, position, day) => (moments.columns.get('frontday')?.[position] ?? NaN) - day,
  event: ({ underlying }, moments, position, _, dated) => {
    const instant = moments.at[position]!;
    for (const { start } of dated.announcementsOf(underlying.symbol))
      if (start > instant) return (start - instant) / DAY_MS;
    return NaN;
  },
  exdate: ({ underlying }, _, __, day, dated) =>
    (dated.exDatesOf(underlying.symbol).find((ex) => ex > day) ?? NaN) - day,
  /** The close of the session before, in shares of today. */
  before: ({ underlying, bars }, _, __, day, dated) => {
    const bar = bars ? countTo(bars.days, day - 1) - 1 : -1;
    if (!bars || bar < 0) return NaN;
    return bars.raw[bar]! / sharesSince(dated.splitsOf(underlying.symbol), bars.days[bar]!, day);
  },
};
