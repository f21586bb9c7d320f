import { DateTime, IANAZone } from 'luxon';

/** Sessions of an exchange. Times are wall-clock times in its zone, days ISO dates. */
export interface Calendar {
  readonly id: string;
  readonly zone: string;
  readonly open: string;
  readonly close: string;
  readonly halfDayClose: string;
  readonly holidays: ReadonlySet<string>;
  readonly halfDays: ReadonlySet<string>;
  /** ISO weekday on which options expire: 4 is Thursday. */
  readonly expiryWeekday: number;
}

/** The exchange of the Meridian Isles. One hour behind UTC all year. */
const MRX: Calendar = {
  id: 'MRX',
  zone: 'Etc/GMT+1',
  open: '09:30',
  close: '16:00',
  halfDayClose: '13:00',
  holidays: new Set([
    '2030-01-01',
    '2030-04-19',
    '2030-06-24',
    '2030-10-07',
    '2030-12-25',
    '2030-12-26',
    '2031-01-01',
    '2031-04-11',
    '2031-06-24',
    '2031-10-06',
    '2031-12-25',
    '2031-12-26',
    '2032-01-01',
    '2032-03-26',
    '2032-06-24',
  ]),
  halfDays: new Set(['2030-12-24', '2030-12-31', '2031-12-24', '2031-12-31']),
  expiryWeekday: 4,
};

/** For underlyings whose calendar nobody described: every weekday is a session, in UTC. */
const WEEKDAYS: Calendar = {
  ...MRX,
  id: 'weekdays',
  zone: 'UTC',
  holidays: new Set(),
  halfDays: new Set(),
  expiryWeekday: 5,
};

const OF_ZONES = new Map<string, Calendar>();

/**
 * The calendar of an id: of the exchange that has it, or weekdays in the zone that it names (`Europe/Lisbon`). Unknown
 * ids get weekdays in UTC.
 */
export function calendarById(id: string | null | undefined): Calendar {
  if (!id) return WEEKDAYS;
  if (id === MRX.id) return MRX;
  let ofZone = OF_ZONES.get(id);
  if (!ofZone) {
    // Three letters alone name zones too, but an exchange more likely.
    const isZone = id.includes('/') && IANAZone.isValidZone(id);
    ofZone = isZone ? { ...WEEKDAYS, id, zone: id } : WEEKDAYS;
    OF_ZONES.set(id, ofZone);
  }
  return ofZone;
}

/** Whether an id names a calendar. */
export function isCalendarId(id: string): boolean {
  return id === MRX.id || calendarById(id) !== WEEKDAYS || id === WEEKDAYS.id;
}

const DAY_MS = 86_400_000;
const MOST_REMEMBERED = 10_000;
const INSTANTS = new Map<string, number>();
/** By zone and UTC day: milliseconds to add to UTC, NaN for a day in which they change. */
const OFFSETS = new Map<string, Map<number, number>>();
const ISO_DAYS = new Map<number, string>();

function remember<K, T>(answers: Map<K, T>, key: K, answer: T): T {
  if (answers.size >= MOST_REMEMBERED) answers.clear();
  answers.set(key, answer);
  return answer;
}

/** What is added to UTC in a zone at an instant, milliseconds. Remembered by day: zones are slow. */
function offsetAt(zone: string, instant: number): number {
  let ofZone = OFFSETS.get(zone);
  if (!ofZone) OFFSETS.set(zone, (ofZone = new Map()));
  const utcDay = Math.floor(instant / DAY_MS);
  const known = ofZone.get(utcDay) ?? remember(ofZone, utcDay, offsetOfDay(zone, utcDay * DAY_MS));
  return Number.isNaN(known) ? exactOffset(zone, instant) : known;
}

function offsetOfDay(zone: string, start: number): number {
  const offset = exactOffset(zone, start);
  return offset === exactOffset(zone, start + DAY_MS) ? offset : NaN;
}

function exactOffset(zone: string, instant: number): number {
  return DateTime.fromMillis(instant, { zone }).offset * 60_000;
}

/** The day, in the zone of the exchange, that an instant falls on. */
export function dayOf(calendar: Calendar, instant: number): string {
  const day = Math.floor((instant + offsetAt(calendar.zone, instant)) / DAY_MS);
  return ISO_DAYS.get(day) ?? remember(ISO_DAYS, day, new Date(day * DAY_MS).toISOString().slice(0, 10));
}

/**
 * The instant of a wall-clock time on a day of the exchange. Answers are remembered: a chain asks for the same
 * few moments again and again, and zones are slow.
 *
 * @throws RangeError for a day or time that does not exist
 */
export function instantOf(calendar: Calendar, day: string, time: string): number {
  const key = `${calendar.zone} ${day} ${time}`;
  const known = INSTANTS.get(key);
  if (known !== undefined) return known;
  const moment = DateTime.fromISO(`${day}T${time}`, { zone: calendar.zone });
  if (!moment.isValid) throw new RangeError(`no such moment: ${day} ${time}`);
  return remember(INSTANTS, key, moment.toMillis());
}

/** The last of the rows of each session. @param rows in order of time */
export function lastOfSessions<T>(calendar: Calendar, rows: readonly T[], instant: (row: T) => number): T[] {
  return rows.filter((row, i) => {
    const next = rows[i + 1];
    return next === undefined || dayOf(calendar, instant(next)) !== dayOf(calendar, instant(row));
  });
}

/** Whether the exchange trades on a day. */
export function isSession(calendar: Calendar, day: string): boolean {
  return isWeekday(day) && !calendar.holidays.has(day);
}

function isWeekday(day: string): boolean {
  const weekday = new Date(`${day}T00:00:00Z`).getUTCDay();
  return weekday !== 0 && weekday !== 6;
}

/** The wall-clock time at which the session of a day closes, half days included. */
export function closeOf(calendar: Calendar, day: string): string {
  return calendar.halfDays.has(day) ? calendar.halfDayClose : calendar.close;
}

/** The instant at which the session of a day closes. */
export function sessionClose(calendar: Calendar, day: string): number {
  return instantOf(calendar, day, closeOf(calendar, day));
}

function shift(day: string, days: number): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + days * DAY_MS).toISOString().slice(0, 10);
}

/** The first session after a day. */
export function nextSession(calendar: Calendar, day: string): string {
  let next = shift(day, 1);
  while (!isSession(calendar, next)) next = shift(next, 1);
  return next;
}

/** The last session before a day. */
export function previousSession(calendar: Calendar, day: string): string {
  let previous = shift(day, -1);
  while (!isSession(calendar, previous)) previous = shift(previous, -1);
  return previous;
}

/** Weekdays from the epoch, a Thursday, up to and including a day. */
function weekdaysUpTo(day: string): number {
  const days = Date.parse(`${day}T00:00:00Z`) / DAY_MS + 3;
  const weeks = Math.floor(days / 7);
  return 5 * weeks + Math.min(days - 7 * weeks + 1, 5);
}

/** Number of sessions after `from` up to and including `to`; 0 when `to` is not later. */
export function sessionsBetween(calendar: Calendar, from: string, to: string): number {
  if (to <= from) return 0;
  let count = weekdaysUpTo(to) - weekdaysUpTo(from);
  for (const holiday of calendar.holidays) {
    if (holiday > from && holiday <= to && isWeekday(holiday)) count--;
  }
  return count;
}
