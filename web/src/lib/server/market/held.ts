import {
  adjustedBars,
  calendarById,
  dayOf,
  historicalVol,
  lastOfSessions,
  namedVol,
  rankOf,
  sessionClose,
  type Adjustment,
  type BarColumns,
  type Calendar,
} from '@umwelt/core';
import { asc, sql } from 'drizzle-orm';
import pg from 'pg';
import { STORED_MEASURES } from '../../screen/measures';
import { atOneMoment, readColumns, tables, type Database, type Session } from '../db';
import { listAdjustments, listUnderlyings } from './queries';
import type { Underlying } from './terms';

const DAY_MS = 86_400_000;
const FIELDS = ['open', 'high', 'low', 'close'] as const;
const isoDay = (day: number) => new Date(day * DAY_MS).toISOString().slice(0, 10);

/** An announcement, in order of time. */
interface Announcement {
  start: number;
  title: string;
}

/** Measures of an underlying by moment. */
interface Moments {
  /** Instants, ascending. */
  at: Float64Array;
  /** Positions of the last moment of each session. */
  ends: Int32Array;
  /** Days of the sessions since 1970, once they were needed. */
  days?: Int32Array;
  columns: Map<string, Float64Array>;
}

/** Bars of an underlying without the steps of dividends and splits, with the vols that were worked out of them. */
interface HeldBars extends BarColumns {
  /** Days since 1970. */
  days: Int32Array;
  /** As they were traded. */
  raw: Float64Array;
  volume: Float64Array;
  /** When the session of each was over. */
  closes: Float64Array;
  splits: readonly Adjustment[];
  vols: Map<string, Float64Array>;
}

interface Held {
  underlying: Underlying;
  calendar: Calendar;
  moments: Moments | null;
  bars: HeldBars | null;
}

/** What is kept in memory at most, in bytes; what was not asked for the longest goes first. */
const MOST_BYTES = Number(process.env.UMWELT_HELD_BYTES ?? 768e6);

/** Measures that are worked out of what is held rather than read. */
const WORKED_OUT = ['before', 'front', 'event', 'exdate'];

/**
 * Measures and bars of all underlyings as columns in memory, so that formulas over thousands of them need no reading. What has
 * changed in the database since is read anew before every answer: its triggers tell what.
 */
export class HeldColumns {
  private readonly held = new Map<string, Held>();
  private order: Held[] = [];
  private announcements: { all: Announcement[]; own: Map<string, Announcement[]> } | null = null;
  private exDates: Map<string, number[]> | null = null;
  /** Columns of the store that every loaded underlying has, and when each was asked for last. */
  private readonly loaded = new Map<string, number>();
  /** The same of vols. */
  private readonly vols = new Map<string, number>();
  private clock = 0;
  /** Nothing before this day is held; raised back when something needs it. */
  private from: string | null = null;
  /** When the underlying ended that ended first; NaN until it is looked for. */
  private earliestLast = NaN;
  /** Transactions before this one have been taken note of, and the changes of later ones that have been. */
  private mark: string | null = null;
  private seen = new Set<number>();
  private last: Promise<unknown> = Promise.resolve();

  constructor(private readonly database: Database) {}

  /**
   * Brings what some names need up to date, and lets it be read: at once, before anything else is waited for.
   *
   * @param names of measures
   * @param sessions how many of them may be read back from the moment
   * @param options `moment`: the latest unless given; `isWanted`: which underlyings are read, all unless given
   */
  async read(
    names: Iterable<string>,
    sessions: number,
    { moment, isWanted }: { moment?: Date | undefined; isWanted?: ((one: Underlying) => boolean) | undefined } = {},
  ): Promise<HeldView> {
    const wanted = [...names];
    const work = this.last
      .then(() => this.refresh(wanted, sessions, moment))
      .catch((error: unknown) => {
        // What was read by halves is no use.
        this.reset();
        throw error;
      });
    this.last = work.catch(() => undefined);
    await work;
    const rows = isWanted ? this.order.filter(({ underlying }) => isWanted(underlying)) : this.order;
    return new HeldView(rows, moment?.getTime() ?? Infinity, {
      announcementsOf: (symbol) => this.announcements?.own.get(symbol) ?? this.announcements?.all ?? [],
      exDatesOf: (symbol) => this.exDates?.get(symbol) ?? [],
    });
  }

  private refresh(names: readonly string[], sessions: number, moment: Date | undefined): Promise<void> {
    // All of it as it was at one moment, so that columns of one underlying are of the same length.
    return atOneMoment(this.database, async (session) => {
      await this.takeNote(session);
      if (this.order.length === 0) await this.loadUnderlyings(session);
      const stored = new Set(names.filter((name) => STORED_MEASURES.some((one) => one.name === name)));
      const vols = names.filter((name) => namedVol(name));
      if (names.includes('front')) stored.add('frontday');
      const longest = Math.max(0, ...vols.map((name) => namedVol(name)!.window));
      await this.reachBack(session, sessions + longest, moment);
      await this.loadMoments(session, stored);
      if (vols.length > 0 || names.includes('before')) await this.loadBars(session, vols);
      if (names.includes('event')) await this.loadAnnouncements(session);
      if (names.includes('exdate')) await this.loadExDates(session);
    });
  }

  private reset(): void {
    this.held.clear();
    this.order = [];
    this.loaded.clear();
    this.vols.clear();
    this.announcements = this.exDates = this.from = this.mark = null;
    this.earliestLast = NaN;
    this.seen.clear();
  }

  /** Forgets what has changed since the last look. */
  private async takeNote(session: Session): Promise<void> {
    const { rows } = await session.execute<{
      mark: string;
      changes: [id: string, what: string, symbol: string][] | null;
    }>(sql`
      SELECT pg_snapshot_xmin(pg_current_snapshot())::text AS mark,
        (SELECT json_agg(json_build_array(id::text, what, symbol)) FROM changes
          WHERE transaction >= ${this.mark ?? '0'}::xid8 AND ${this.mark !== null}) AS changes`);
    const [{ mark, changes }] = rows as [(typeof rows)[number]];
    const now = new Set<number>();
    for (const [id, what, symbol] of changes ?? []) {
      now.add(Number(id));
      if (!this.seen.has(Number(id))) this.forget(what, symbol);
    }
    this.seen = now;
    this.mark = mark;
  }

  private forget(what: string, symbol: string): void {
    const held = this.held.get(symbol);
    if (what === 'underlyings') this.order = [];
    if (what === 'events') this.announcements = null;
    if (what === 'dividends') this.exDates = null;
    if (what === 'measures') this.earliestLast = NaN;
    if (held && what === 'measures') held.moments = null;
    if (held && (what === 'bars' || what === 'dividends')) held.bars = null;
  }

  private async loadUnderlyings(session: Session): Promise<void> {
    const all = await listUnderlyings(session);
    this.order = all.map((underlying) => {
      const known = this.held.get(underlying.symbol);
      const calendar = calendarById(underlying.calendar);
      // In another calendar sessions end elsewhere.
      if (known && known.underlying.calendar === underlying.calendar) return { ...known, underlying };
      return { underlying, calendar, moments: null, bars: null };
    });
    this.held.clear();
    for (const one of this.order) this.held.set(one.underlying.symbol, one);
  }

  /** Lets what is held begin early enough for so many sessions before a moment. */
  private async reachBack(session: Session, sessions: number, moment: Date | undefined): Promise<void> {
    // Weekends, and a month of holidays a year; whole years, so that it seldom changes.
    const days = Math.ceil(sessions * 1.6) + 15;
    if (Number.isNaN(this.earliestLast)) {
      const symbols = this.order.map(({ underlying }) => underlying.symbol);
      const { rows } = await session.execute<{ last: Date | null }>(sql`
        SELECT min(last) AS last FROM unnest(${sql.param(symbols)}::text[]) AS s (symbol)
        CROSS JOIN LATERAL (SELECT max(asof) AS last FROM snapshots WHERE snapshots.symbol = s.symbol) AS l`);
      this.earliestLast = rows[0]?.last ? new Date(rows[0].last).getTime() : Date.now();
    }
    const until = Math.min(this.earliestLast, moment?.getTime() ?? Infinity);
    const year = new Date(until - days * DAY_MS).getUTCFullYear();
    const from = `${String(year).padStart(4, '0')}-01-01`;
    if (this.from !== null && this.from <= from) return;
    this.from = from;
    for (const one of this.order) {
      one.moments = null;
      one.bars = null;
    }
  }

  private numbered(symbols: readonly string[]): string {
    return `unnest(ARRAY[${symbols.map((symbol) => pg.escapeLiteral(symbol)).join()}]::text[]) WITH ORDINALITY AS s (symbol, n)`;
  }

  private async loadMoments(session: Session, names: ReadonlySet<string>): Promise<void> {
    for (const name of names) if (!this.loaded.has(name)) this.loaded.set(name, 0);
    const missing = [...names].filter((name) => this.loaded.get(name) === 0);
    for (const name of names) this.loaded.set(name, ++this.clock);
    this.makeRoom(names);
    const stale = this.order.filter(({ moments }) => moments === null);
    const others = this.order.filter(({ moments }) => moments !== null);
    if (stale.length > 0) await this.readMoments(session, stale, [...this.loaded.keys()]);
    if (missing.length > 0 && others.length > 0) await this.readMoments(session, others, missing);
  }

  private async readMoments(session: Session, which: readonly Held[], names: readonly string[]): Promise<void> {
    const expressions = names.map((name) => {
      if (name === 'frontday') return `(m.front_expiry - DATE '1970-01-01')::float8`;
      const { column, per = 1 } = STORED_MEASURES.find((one) => one.name === name)!;
      return `m.${pg.escapeIdentifier(tables.measures[column].name)}::float8 / ${per}`;
    });
    const [owner, seconds, ...columns] = await readColumns(
      session,
      `SELECT s.n::float8, extract(epoch FROM m.asof)::float8, ${[...expressions, '0::float8'].join()}
        FROM measures m JOIN ${this.numbered(which.map(({ underlying }) => underlying.symbol))} USING (symbol)
        WHERE m.asof >= ${pg.escapeLiteral(this.from!)}`,
      3 + names.length,
    );
    const groups = grouped(which.length, owner!, seconds!);
    which.forEach((one, i) => {
      const rows = groups[i]!;
      one.moments ??= momentsOf(
        one.calendar,
        Float64Array.from(rows, (row) => Math.round(1000 * seconds![row]!)),
      );
      names.forEach((name, c) =>
        one.moments!.columns.set(
          name,
          Float64Array.from(rows, (row) => columns[c]![row]!),
        ),
      );
    });
  }

  private async loadBars(session: Session, vols: readonly string[]): Promise<void> {
    for (const name of vols) this.vols.set(name, ++this.clock);
    const stale = this.order.filter(({ bars }) => bars === null);
    if (stale.length === 0) return;
    const symbols = stale.map(({ underlying }) => underlying.symbol);
    const steps = await listAdjustments(session, symbols, this.from!);
    const [owner, days, open, high, low, close, volume] = await readColumns(
      session,
      `SELECT s.n::float8, (b.date - DATE '1970-01-01')::float8, ${[...FIELDS, 'volume'].map((name) => `b.${name}`).join()}
        FROM bars b JOIN ${this.numbered(symbols)} USING (symbol) WHERE b.date >= ${pg.escapeLiteral(this.from!)}`,
      7,
    );
    const groups = grouped(stale.length, owner!, days!);
    const closings = new Map<string, number>();
    stale.forEach((one, i) => {
      const of = (column: Float64Array | undefined) => Float64Array.from(groups[i]!, (row) => column![row]!);
      const on = Int32Array.from(of(days));
      const dates = Array.from(on, isoDay);
      const raw = of(close);
      const adjustments = steps.get(one.underlying.symbol) ?? [];
      const closeOn = (date: string) => {
        const key = `${one.underlying.calendar} ${date}`;
        let known = closings.get(key);
        if (known === undefined) closings.set(key, (known = sessionClose(one.calendar, date)));
        return known;
      };
      one.bars = {
        ...adjustedBars({ open: of(open), high: of(high), low: of(low), close: raw }, dates, adjustments),
        days: on,
        raw,
        volume: of(volume),
        closes: Float64Array.from(dates, closeOn),
        splits: adjustments.filter(({ kind }) => kind === 'split'),
        vols: new Map(),
      };
    });
  }

  private async loadAnnouncements(session: Session): Promise<void> {
    if (this.announcements) return;
    const { events } = tables;
    const rows = await session.select().from(events).orderBy(asc(events.start));
    const of = (symbol: string) =>
      rows
        .filter((row) => row.symbol === symbol || row.symbol === '')
        .map(({ start, title }) => ({ start: start.getTime(), title }));
    const symbols = [...new Set(rows.map(({ symbol }) => symbol).filter((symbol) => symbol !== ''))];
    this.announcements = { all: of(''), own: new Map(symbols.map((symbol) => [symbol, of(symbol)])) };
  }

  private async loadExDates(session: Session): Promise<void> {
    if (this.exDates) return;
    const { dividends } = tables;
    const rows = await session.select().from(dividends).orderBy(asc(dividends.exDate));
    this.exDates = new Map();
    for (const { symbol, exDate, kind } of rows) {
      if (kind === 'split') continue;
      const held = this.exDates.get(symbol);
      const day = Date.parse(exDate) / DAY_MS;
      if (held) held.push(day);
      else this.exDates.set(symbol, [day]);
    }
  }

  /** Lets go of the columns that were not asked for the longest, while there are too many. */
  private makeRoom(wanted: ReadonlySet<string>): void {
    const rows = this.order.reduce((sum, { moments }) => sum + (moments?.at.length ?? 0), 0);
    const most = Math.max(8, Math.floor(MOST_BYTES / 8 / Math.max(1, rows)));
    const drop = (names: Map<string, number>, remove: (one: Held, name: string) => void, room: number) => {
      const oldest = [...names].sort((a, b) => a[1] - b[1]).map(([name]) => name);
      for (const name of oldest) {
        if (names.size <= room) return;
        if (wanted.has(name)) continue;
        names.delete(name);
        for (const one of this.order) remove(one, name);
      }
    };
    drop(this.loaded, (one, name) => one.moments?.columns.delete(name), most);
    drop(this.vols, (one, name) => one.bars?.vols.delete(name), Math.max(8, most - this.loaded.size));
  }
}

/** Rows of each owner in order of a key. */
function grouped(owners: number, owner: Float64Array, key: Float64Array): Int32Array[] {
  const counts = new Int32Array(owners + 1);
  for (let i = 0; i < owner.length; i++) counts[owner[i]!]!++;
  const groups = Array.from({ length: owners }, (_, i) => new Int32Array(counts[i + 1]!));
  const filled = new Int32Array(owners);
  for (let i = 0; i < owner.length; i++) {
    const at = owner[i]! - 1;
    groups[at]![filled[at]!++] = i;
  }
  for (const rows of groups) if (!isAscending(rows, key)) rows.sort((a, b) => key[a]! - key[b]!);
  return groups;
}

function isAscending(rows: Int32Array, key: Float64Array): boolean {
  for (let i = 1; i < rows.length; i++) if (!(key[rows[i - 1]!]! < key[rows[i]!]!)) return false;
  return true;
}

function momentsOf(calendar: Calendar, at: Float64Array): Moments {
  const ends = lastOfSessions(calendar, [...at.keys()], (i) => at[i]!);
  return { at, ends: Int32Array.from(ends), columns: new Map() };
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

/** Values of some days, both ascending; NaN for a day that has none. */
function alongDays(
  days: ArrayLike<number>,
  end: number,
  dayAt: (i: number) => number,
  valueAt: (i: number) => number,
): Float64Array {
  const out = new Float64Array(days.length).fill(NaN);
  let at = end - 1;
  for (let i = days.length - 1; i >= 0; i--) {
    while (at >= 0 && dayAt(at) > days[i]!) at--;
    if (at >= 0 && dayAt(at) === days[i]!) out[i] = valueAt(at);
  }
  return out;
}

interface Dated {
  announcementsOf(symbol: string): readonly Announcement[];
  exDatesOf(symbol: string): readonly number[];
}

/** What is held as it was at a moment: of each underlying up to its last moment at or before that. */
export class HeldView {
  /** Position of the last moment of each underlying, −1 without any, and how many sessions were over before its own. */
  private readonly now: Int32Array;
  private readonly before: Int32Array;
  private readonly known = new Map<string, Float64Array>();

  constructor(
    private readonly rows: readonly Held[],
    moment: number,
    private readonly dated: Dated,
  ) {
    this.now = Int32Array.from(rows, ({ moments }) => (moments ? countTo(moments.at, moment) - 1 : -1));
    this.before = Int32Array.from(rows, ({ moments }, i) =>
      moments && this.now[i]! >= 0 ? countTo(moments.ends, this.now[i]! - 1) : 0,
    );
  }

  get underlyings(): readonly Underlying[] {
    return this.rows.map(({ underlying }) => underlying);
  }

  /** The moment of an underlying; NaN where none is held. */
  instant(row: number): number {
    return this.rows[row]!.moments?.at[this.now[row]!] ?? NaN;
  }

  /** The day of the first expiry that is used, in days since 1970; NaN where there is none or it was not asked for. */
  frontDay(row: number): number {
    return this.rows[row]!.moments?.columns.get('frontday')?.[this.now[row]!] ?? NaN;
  }

  /** The next announcement that concerns an underlying, after its moment. */
  nextAnnouncement(row: number): Announcement | null {
    const announcements = this.dated.announcementsOf(this.rows[row]!.underlying.symbol);
    const instant = this.instant(row);
    return announcements.find(({ start }) => start > instant) ?? null;
  }

  /** Rank of the value now over the last sessions, 0 to 1; NaN where it has none. */
  rank(name: string, row: number, sessions: number): number {
    return rankOf(this.series(name, sessions), sessions, sessions * (row + 1))?.rank ?? NaN;
  }

  /** How many bars of an underlying are over at its moment. */
  private barCount(row: number): number {
    const { bars } = this.rows[row]!;
    return bars ? countTo(bars.closes, this.instant(row)) : 0;
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
    const end = this.barCount(row);
    return alongDays(
      days,
      end,
      (i) => bars.days[i]!,
      (i) => bars.close[i]!,
    );
  }

  /** A measure at the last moments of some days; NaN where there is none. */
  measureOn(name: string, row: number, days: ArrayLike<number>): Float64Array {
    const { moments, calendar } = this.rows[row]!;
    const column = moments?.columns.get(name);
    if (!moments || !column) return new Float64Array(days.length).fill(NaN);
    // Days of the exchange are found once: there are as many as sessions.
    moments.days ??= Int32Array.from(moments.ends, (at) => Date.parse(dayOf(calendar, moments.at[at]!)) / DAY_MS);
    const held = moments.days;
    const end = countTo(moments.ends, this.now[row]!);
    return alongDays(
      days,
      end,
      (i) => held[i]!,
      (i) => column[moments.ends[i]!]!,
    );
  }

  /** The last bars that are over at the moment of an underlying, without the steps of dividends and splits. */
  bars(row: number, most: number): BarColumns {
    const { bars } = this.rows[row]!;
    const end = this.barCount(row);
    const part = (field: keyof BarColumns) =>
      bars?.[field].subarray(Math.max(0, end - most), end) ?? new Float64Array();
    return { open: part('open'), high: part('high'), low: part('low'), close: part('close') };
  }

  /** Values of a measure of all underlyings over the last sessions, in rows; NaN for what there is not. */
  readonly series = (name: string, sessions: number): Float64Array => {
    const key = `${name} ${sessions}`;
    const known = this.known.get(key);
    if (known) return known;
    const out = new Float64Array(this.rows.length * sessions).fill(NaN);
    this.rows.forEach((_, row) => this.fill(out.subarray(row * sessions, (row + 1) * sessions), name, row));
    this.known.set(key, out);
    return out;
  };

  /** The value of a measure at the moment; NaN where it is not known. */
  value(name: string, row: number): number {
    return this.series(name, 1)[row]!;
  }

  /** Position of the moment so many sessions back; the last of its session but for the one in view. */
  private position(row: number, back: number): number {
    if (back === 0) return this.now[row]!;
    return this.rows[row]!.moments!.ends[this.before[row]! - back] ?? -1;
  }

  private fill(out: Float64Array, name: string, row: number): void {
    const { moments, bars, underlying } = this.rows[row]!;
    if (!moments || this.now[row]! < 0) return;
    const last = out.length - 1;
    const column = moments.columns.get(name);
    if (column) {
      out[last] = column[this.now[row]!]!;
      const { ends } = moments;
      const before = this.before[row]!;
      for (let back = Math.min(last, before); back > 0; back--) out[last - back] = column[ends[before - back]!]!;
      return;
    }
    if (WORKED_OUT.includes(name)) {
      for (let back = 0; back <= last; back++) {
        const position = this.position(row, back);
        if (position < 0) break;
        out[last - back] = this.workedOut(name, row, position, underlying.symbol);
      }
      return;
    }
    const vol = bars && namedVol(name);
    if (!vol) return;
    let values = bars.vols.get(name);
    if (!values) bars.vols.set(name, (values = historicalVol(bars, vol.estimator, vol.window)));
    // Before the first session that is held, bar by bar.
    let bar = -1;
    for (let back = 0; back <= last; back++) {
      const position = this.position(row, back);
      bar = position >= 0 ? countTo(bars.closes, moments.at[position]!) - 1 : bar - 1;
      if (bar < 0) break;
      out[last - back] = values[bar]!;
    }
  }

  private workedOut(name: string, row: number, position: number, symbol: string): number {
    const { moments, bars, calendar } = this.rows[row]!;
    const instant = moments!.at[position]!;
    if (name === 'event') {
      const next = this.dated.announcementsOf(symbol).find(({ start }) => start > instant);
      return next ? (next.start - instant) / DAY_MS : NaN;
    }
    const day = Date.parse(dayOf(calendar, instant)) / DAY_MS;
    if (name === 'front') return moments!.columns.get('frontday')![position]! - day;
    if (name === 'exdate') return (this.dated.exDatesOf(symbol).find((ex) => ex > day) ?? NaN) - day;
    if (!bars) return NaN;
    const bar = countTo(bars.days, day - 1) - 1;
    if (bar < 0) return NaN;
    const since = isoDay(bars.days[bar]!);
    const until = isoDay(day);
    return bars.splits.reduce(
      (close, { exDate, amount }) => (exDate > since && exDate <= until ? close / amount : close),
      bars.raw[bar]!,
    );
  }
}

const HELD = new WeakMap<Database, HeldColumns>();

/** The columns that a process keeps of a database. */
export function heldColumns(database: Database): HeldColumns {
  let held = HELD.get(database);
  if (!held) HELD.set(database, (held = new HeldColumns(database)));
  return held;
}
