import { calendarById, closeOf, instantOf, type Calendar } from '@umwelt/core';
import { DateTime } from 'luxon';
import { FIRST_YEAR, isSymbol, isYear, LAST_YEAR, SYMBOL_RULE } from '../../api/limits';

/** A cell that cannot be read: says which column, what stood there and why it will not do. */
export class CellError extends Error {
  constructor(
    readonly column: string,
    readonly value: string,
    readonly reason: string,
  ) {
    super(`${column}: ${reason}`);
  }
}

/** The cells of one row by column name; a column that the file does not have is undefined. */
export type Cells = (column: string) => string | undefined;

const ZERO = 48;

/** What Number() accepts and a table must not: 0x1f, 0b1, 0o7. */
function isPrefixed(text: string): boolean {
  return text.charCodeAt(0) === ZERO && text.length > 2 && /[xob]/i.test(text[1]!);
}

const DAY = /^\d{4}-\d\d-\d\d$/;

/** Text that is only read, never stored: blank cells are refused. */
function present(cells: Cells, column: string): string {
  const value = cells(column) ?? '';
  if (value === '') throw new CellError(column, '', 'is missing');
  return value;
}

/** A text as the database can hold it: it has no place for zero characters. */
export function storable(text: string): string {
  return text.replaceAll('\0', '␀');
}

/** Texts are parts of keys, which the database limits. */
const LONGEST_TEXT = 500;

/** Text to be stored, or null for a blank cell. */
export function optionalText(cells: Cells, column: string): string | null {
  const value = cells(column) || null;
  // The database cannot store it, and it is never intended.
  if (value?.includes('\0')) throw new CellError(column, storable(value), 'holds a zero character');
  if (value !== null && value.length > LONGEST_TEXT)
    throw new CellError(column, value, `is longer than ${LONGEST_TEXT} characters`);
  return value;
}

/** The symbol of an underlying that may not be known yet, or null for a blank cell. */
export function optionalSymbol(cells: Cells, column: string): string | null {
  const value = optionalText(cells, column);
  if (value !== null && !isSymbol(value)) throw new CellError(column, value, SYMBOL_RULE);
  return value;
}

/** Text to be stored that must be there. */
export function requiredText(cells: Cells, column: string): string {
  const value = optionalText(cells, column);
  if (value === null) throw new CellError(column, '', 'is missing');
  return value;
}

interface Range {
  /** The smallest value allowed. */
  min?: number;
  /** Larger than this, not equal. */
  above?: number;
  /** The largest value allowed. */
  max?: number;
}

/** A number with a decimal point, or NaN for a blank cell. */
export function optionalNumber(cells: Cells, column: string, range: Range = {}): number {
  const text = cells(column) ?? '';
  if (text === '') return NaN;
  const value = Number(text);
  if (!Number.isFinite(value) || isPrefixed(text)) throw new CellError(column, text, 'is not a number');
  if (range.above !== undefined && !(value > range.above)) {
    throw new CellError(column, text, `must be greater than ${range.above}`);
  }
  if (range.min !== undefined && value < range.min) throw new CellError(column, text, `must be at least ${range.min}`);
  if (range.max !== undefined && value > range.max) throw new CellError(column, text, `must be at most ${range.max}`);
  return value;
}

/** A number that must be there. */
export function requiredNumber(cells: Cells, column: string, range: Range = {}): number {
  present(cells, column);
  return optionalNumber(cells, column, range);
}

const KNOWN_DAYS = new Set<string>();
const MOST_KNOWN_DAYS = 10_000;

/** Whether a day stands in the calendar; those that do are remembered. */
function exists(day: string): boolean {
  if (!DateTime.fromISO(day, { zone: 'UTC' }).isValid) return false;
  if (KNOWN_DAYS.size >= MOST_KNOWN_DAYS) KNOWN_DAYS.clear();
  // Those out of range are told so each time.
  if (isYear(Number(day.slice(0, 4)))) KNOWN_DAYS.add(day);
  return true;
}

const OUT_OF_RANGE = `is not between ${FIRST_YEAR} and ${LAST_YEAR}`;

/** A day as an ISO date. */
export function requiredDay(cells: Cells, column: string): string {
  const text = present(cells, column);
  if (KNOWN_DAYS.has(text)) return text;
  if (!DAY.test(text)) throw new CellError(column, text, 'is not a date like 2031-03-13');
  if (!exists(text)) throw new CellError(column, text, 'does not exist in the calendar');
  if (!isYear(Number(text.slice(0, 4)))) throw new CellError(column, text, OUT_OF_RANGE);
  return text;
}

/** A day as an ISO date, or null for a blank cell. */
export function optionalDay(cells: Cells, column: string): string | null {
  return cells(column) ? requiredDay(cells, column) : null;
}

/**
 * A moment as an ISO 8601 date and time. Without a zone it is read in the zone of the exchange; a bare day
 * is the close of its session.
 *
 * @returns milliseconds, UTC
 */
export function requiredInstant(cells: Cells, column: string, calendar: Calendar = calendarById(null)): number {
  const text = present(cells, column);
  if (DAY.test(text)) {
    const bare = requiredDay(cells, column);
    return requiredInstant(() => `${bare}T${closeOf(calendar, bare)}`, column, calendar);
  }
  const zoned = ZONED.exec(text);
  if (zoned) {
    // Most have a zone: told without the library, which takes longer than everything else of a row.
    const [, on, hour, minute, second = '0', zone, sign, hours, minutes] = zoned;
    const isMoment = (KNOWN_DAYS.has(on!) || exists(on!)) && Number(hour) < 24 && Number(minute) < 60;
    if (isMoment && Number(second) < 60 && isYear(Number(on!.slice(0, 4)))) {
      const offset = zone?.toUpperCase() === 'Z' ? 0 : (sign === '-' ? -1 : 1) * (60 * Number(hours) + Number(minutes));
      return (
        Date.parse(`${on}T00:00:00Z`) +
        60_000 * (60 * Number(hour) + Number(minute) - offset) +
        Math.round(1000 * Number(second))
      );
    }
  }
  const [day, time] = text.split(/[T ]/);
  const hasZone = /(Z|[+-]\d\d:?\d\d)$/i.test(time ?? '');
  const parsed = DateTime.fromISO(text.replace(' ', 'T'), { setZone: true });
  if (!day || !time || !DAY.test(day) || !parsed.isValid) {
    throw new CellError(column, text, 'is not a date and time like 2031-03-13T15:45');
  }
  if (!isYear(parsed.year)) {
    throw new CellError(column, text, OUT_OF_RANGE);
  }
  return hasZone ? parsed.toMillis() : instantOf(calendar, day, time);
}

const ZONED = /^(\d{4}-\d\d-\d\d)[T ](\d\d):(\d\d)(?::(\d\d(?:\.\d{1,3})?))?(Z|([+-])(\d\d):?(\d\d))$/i;

/** Words that stand for themselves. */
export function plainWords<T extends string>(words: readonly T[]): Record<T, T> {
  return Object.fromEntries(words.map((word) => [word, word])) as Record<T, T>;
}

/** One of some words, whatever its case; a blank cell takes the default, or is refused where there is none. */
export function choice<T extends string>(cells: Cells, column: string, words: Record<string, T>, fallback?: T): T {
  const text = cells(column) ?? '';
  if (text === '' && fallback !== undefined) return fallback;
  const found = Object.hasOwn(words, text.toLowerCase()) ? words[text.toLowerCase()] : undefined;
  if (found === undefined) {
    throw new CellError(column, text, text === '' ? 'is missing' : `must be one of ${Object.keys(words).join(', ')}`);
  }
  return found;
}
