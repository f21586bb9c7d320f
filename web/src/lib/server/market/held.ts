import { adjustedBars, calendarById, namedVol, sessionClose, type Calendar } from '@umwelt/core';
import { asc, sql } from 'drizzle-orm';
import pg from 'pg';
import { STORED_MEASURES } from '../../columns/measures';
import { atOneMoment, ChangeLog, readColumns, tables, type Database, type Session } from '../db';
import { DAY_MS, dayNumber, isoDay } from './days';
import { HeldView, type Announcement, type Dated, type Held, type Moments, type Split } from './held-view';
import { listAdjustments, listUnderlyings } from './queries';
import type { Underlying } from './terms';

const FIELDS = ['open', 'high', 'low', 'close'] as const;
/** Moments whose views are remembered. */
const MOST_VIEWS = 3;

/** What is kept in memory at most, in bytes; what was not asked for the longest goes first. */
const MOST_BYTES = Number(process.env.UMWELT_HELD_BYTES ?? 768e6);

/**
 * Measures and bars of all underlyings as columns in memory, so that formulas over thousands of them need no reading. What has
 * changed in the database since is read again before every answer: its triggers tell what.
 */
export class HeldColumns {
  private readonly held = new Map<string, Held>();
  private order: Held[] = [];
  private announcements: { all: Announcement[]; own: Map<string, Announcement[]> } | null = null;
  private exDates: Map<string, number[]> | null = null;
  private splits: Map<string, Split[]> | null = null;
  /** Columns of the store that every loaded underlying has, and when each was asked for last. */
  private readonly loaded = new Map<string, number>();
  /** The same of vols. */
  private readonly vols = new Map<string, number>();
  private clock = 0;
  /** Nothing before this day is held; raised back when something needs it. */
  private from: string | null = null;
  /** When the underlying ended that ended first; NaN until it is looked for. */
  private earliestLast = NaN;
  private readonly log = new ChangeLog();
  private last: Promise<unknown> = Promise.resolve();
  /** Views of all underlyings by their moments, the one asked for last at the end. */
  private readonly views = new Map<number, HeldView>();
  private readonly dated: Dated = {
    announcementsOf: (symbol) => this.announcements?.own.get(symbol) ?? this.announcements?.all ?? [],
    exDatesOf: (symbol) => this.exDates?.get(symbol) ?? [],
    splitsOf: (symbol) => this.splits?.get(symbol) ?? [],
  };

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
        // A partial read is discarded.
        this.reset();
        throw error;
      });
    this.last = work.catch(() => undefined);
    await work;
    const instant = moment?.getTime() ?? Infinity;
    if (isWanted)
      return new HeldView(
        this.order.filter(({ underlying }) => isWanted(underlying)),
        instant,
        this.dated,
      );
    const view = this.views.get(instant) ?? new HeldView(this.order, instant, this.dated);
    this.views.delete(instant);
    this.views.set(instant, view);
    for (const oldest of this.views.keys()) if (this.views.size > MOST_VIEWS) this.views.delete(oldest);
    return view;
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
      await this.loadDividends(session);
    });
  }

  private reset(): void {
    this.log.reset();
    this.forgetAll();
  }

  private forgetAll(): void {
    this.held.clear();
    this.order = [];
    this.loaded.clear();
    this.vols.clear();
    this.announcements = this.exDates = this.splits = this.from = null;
    this.earliestLast = NaN;
    this.views.clear();
  }

  /** Forgets what has changed since the last look. */
  private async takeNote(session: Session): Promise<void> {
    const changes = await this.log.look(session);
    if (!changes) this.forgetAll();
    for (const { what, symbol } of changes ?? []) this.forget(what, symbol);
  }

  private forget(what: string, symbol: string): void {
    this.views.clear();
    const held = this.held.get(symbol);
    if (what === 'underlyings') this.order = [];
    if (what === 'events') this.announcements = null;
    if (what === 'dividends') this.exDates = this.splits = null;
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
      return { underlying, calendar, moments: null, bars: null, over: null };
    });
    this.held.clear();
    this.views.clear();
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
    this.views.clear();
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
        picked(seconds!, rows).map((at) => Math.round(1000 * at)),
      );
      one.over = null;
      for (let c = 0; c < names.length; c++) one.moments.columns.set(names[c]!, picked(columns[c]!, rows));
    });
  }

  private async loadBars(session: Session, vols: readonly string[]): Promise<void> {
    for (const name of vols) this.vols.set(name, ++this.clock);
    const stale = this.order.filter(({ bars }) => bars === null);
    if (stale.length === 0) return;
    const symbols = stale.map(({ underlying }) => underlying.symbol);
    const steps = await listAdjustments(session, symbols, this.from!);
    const [owner, days, open, high, low, close] = await readColumns(
      session,
      `SELECT s.n::float8, (b.date - DATE '1970-01-01')::float8, ${FIELDS.map((name) => `b.${name}`).join()}
        FROM bars b JOIN ${this.numbered(symbols)} USING (symbol) WHERE b.date >= ${pg.escapeLiteral(this.from!)}`,
      6,
    );
    const groups = grouped(stale.length, owner!, days!);
    const closings = new Map<string, number>();
    stale.forEach((one, i) => {
      const of = (column: Float64Array | undefined) => picked(column!, groups[i]!);
      const on = Int32Array.from(of(days));
      const dates = Array.from(on, (day) => isoDay(day));
      one.over = null;
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
        closes: Float64Array.from(dates, closeOn),
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

  private async loadDividends(session: Session): Promise<void> {
    if (this.exDates) return;
    const { dividends } = tables;
    const rows = await session.select().from(dividends).orderBy(asc(dividends.exDate));
    const exDates = (this.exDates = new Map<string, number[]>());
    const splits = (this.splits = new Map<string, Split[]>());
    const add = <T>(map: Map<string, T[]>, symbol: string, one: T) => {
      const held = map.get(symbol);
      if (held) held.push(one);
      else map.set(symbol, [one]);
    };
    for (const { symbol, exDate, kind, amount } of rows) {
      const day = Date.parse(exDate) / DAY_MS;
      if (kind === 'split') add(splits, symbol, { day, shares: amount });
      else add(exDates, symbol, day);
    }
  }

  /** Forgets the columns that were not asked for the longest, while there are too many. */
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

/** Some values of a column, by their rows. */
function picked(column: Float64Array, rows: Int32Array): Float64Array {
  const out = new Float64Array(rows.length);
  for (let i = 0; i < rows.length; i++) out[i] = column[rows[i]!]!;
  return out;
}

function momentsOf(calendar: Calendar, at: Float64Array): Moments {
  const days = Int32Array.from(at, (instant) => dayNumber(calendar, instant));
  let count = 0;
  const ends = new Int32Array(at.length);
  for (let i = 0; i < at.length; i++) if (i + 1 === at.length || days[i + 1] !== days[i]) ends[count++] = i;
  return {
    at,
    ends: ends.slice(0, count),
    days: Int32Array.from(ends.subarray(0, count), (i) => days[i]!),
    columns: new Map(),
  };
}

const HELD = new WeakMap<Database, HeldColumns>();

/** The columns that a process keeps of a database. */
export function heldColumns(database: Database): HeldColumns {
  let held = HELD.get(database);
  if (!held) HELD.set(database, (held = new HeldColumns(database)));
  return held;
}
