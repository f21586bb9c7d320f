import { DateTime } from 'luxon';
import type { Conventions } from '../db';
import { columnType, type ColumnType } from '../../layouts';

/** The text of a cell as docs/formats.md would have it, or as it is where it cannot be told. */
export function plainText(text: string, type: ColumnType, conventions: Conventions): string {
  if (type === 'number') return plainNumber(text, conventions.decimal ?? '.');
  if (type === 'day') return plainDay(text, conventions.dates ?? 'iso');
  if (type === 'instant') return plainInstant(text, conventions);
  return text;
}

/** A cell of the file as it is understood, for one of our columns or for none. */
export function readAs(text: string, column: string | undefined, conventions: Conventions): string {
  const tight = text.trim();
  return column === undefined ? tight : plainText(tight, columnType(column), conventions);
}

const GROUPED_BY_COMMA = /^[+-]?\d{1,3}(,\d{3})+(\.\d*)?$/;
const WITH_COMMA = /^[+-]?(\d+|\d{1,3}(\.\d{3})+),\d*$/;
const GROUPED_BY_POINT = /^[+-]?\d{1,3}(\.\d{3})+$/;
/** Spaces that group thousands: plain, no-break, narrow no-break, thin. */
const SPACES = /[ \u00a0\u202f\u2009]/g;

function plainNumber(text: string, decimal: '.' | ','): string {
  // What needs no change goes through at once.
  if (decimal === '.' && Number.isFinite(Number(text))) return text;
  const joined = text.replace('\u2212', '-').replace(SPACES, '');
  if (decimal === ',') {
    return WITH_COMMA.test(joined) || GROUPED_BY_POINT.test(joined)
      ? joined.replaceAll('.', '').replace(',', '.')
      : joined;
  }
  return GROUPED_BY_COMMA.test(joined) ? joined.replaceAll(',', '') : joined;
}

const PARTS_OF_DAY = /^(\d{1,2})([./-])(\d{1,2})\2(\d{4})$/;
const ISO_LIKE = /^(\d{4})([./]?)(\d\d)\2(\d\d)$/;

function plainDay(text: string, dates: 'iso' | 'dmy' | 'mdy'): string {
  if (text[4] === '-') return text;
  const iso = ISO_LIKE.exec(text);
  if (iso) return `${iso[1]}-${iso[3]}-${iso[4]}`;
  const parts = dates === 'iso' ? null : PARTS_OF_DAY.exec(text);
  if (!parts) return text;
  const [day, month] = dates === 'dmy' ? [parts[1]!, parts[3]!] : [parts[3]!, parts[1]!];
  return `${parts[4]}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
}

const CLOCK = /^(\d{1,2}):(\d\d)(?::(\d\d)(?:\.\d+)?)?(?:\s?([ap])\.?m\.?)?$/i;
const NAMES_ZONE = /(Z|[+-]\d\d:?\d\d)$/i;

function plainInstant(text: string, { dates = 'iso', zone }: Conventions): string {
  const [first, ...others] = text.split(/[T ]+/);
  const day = plainDay(first ?? '', dates);
  if (others.length === 0) return day;
  const time = plainTime(others.join(' '));
  if (!zone || NAMES_ZONE.test(time)) return `${day}T${time}`;
  const moment = DateTime.fromISO(`${day}T${time}`, { zone });
  return moment.isValid ? moment.toUTC().toISO()! : text;
}

/** A time of day in 24 hours. */
function plainTime(text: string): string {
  const clock = CLOCK.exec(text);
  if (!clock) return text;
  const [, hour, minute, second, half] = clock;
  const isAfternoon = half?.toLowerCase() === 'p';
  const hours = half ? (Number(hour) % 12) + (isAfternoon ? 12 : 0) : Number(hour);
  return `${String(hours).padStart(2, '0')}:${minute}${second ? `:${second}` : ''}`;
}

/** What some rows tell of a file's conventions, and what they leave open. */
export interface Guess {
  conventions: Conventions;
  /** Questions that only a person can answer. */
  open: { convention: 'decimal' | 'dates'; column: string; example: string }[];
}

/**
 * Tells conventions from the cells of a file: a comma with other than three digits after it is decimal; a part of a
 * day over 12 is the day; parts with points between them are day, month, year (common practice). What could be either
 * stays open.
 *
 * @param columns our names of the columns, null for others
 */
export function guessConventions(columns: readonly (string | null)[], rows: readonly (readonly string[])[]): Guess {
  const guess: Guess = { conventions: {}, open: [] };
  const ask = (convention: 'decimal' | 'dates', cell?: { column: string | null; text: string }) => {
    if (cell?.column) guess.open.push({ convention, column: cell.column, example: cell.text });
  };
  const cellsOf = (type: readonly ColumnType[]) =>
    columns.flatMap((column, i) =>
      // A column that nobody has matched yet may be of any type.
      column === null || type.includes(columnType(column))
        ? rows.map((cells) => ({ column, text: (cells[i] ?? '').trim().replace(SPACES, ' ') }))
        : [],
    );
  const numbers = cellsOf(['number']);
  const hasPoint = numbers.some(({ text }) => /^[+-]?\d*\.\d+$/.test(text) && !GROUPED_BY_POINT.test(text));
  const commas = numbers.filter(({ text }) => WITH_COMMA.test(text.replaceAll(' ', '')));
  const decided = commas.find(({ text }) => !GROUPED_BY_COMMA.test(text));
  if (decided && !hasPoint) guess.conventions.decimal = ',';
  else if (!hasPoint) ask('decimal', commas[0]);
  const days = cellsOf(['day', 'instant'])
    .map(({ column, text }) => ({ column, text, parts: PARTS_OF_DAY.exec(text.split(/[T ]/)[0] ?? '') }))
    .filter((cell) => cell.parts !== null);
  const first = days[0];
  if (!first) return guess;
  if (days.some(({ parts }) => Number(parts![1]) > 12) || days.every(({ parts }) => parts![2] === '.')) {
    guess.conventions.dates = 'dmy';
  } else if (days.some(({ parts }) => Number(parts![3]) > 12)) guess.conventions.dates = 'mdy';
  else ask('dates', first);
  return guess;
}

const DELIMITERS = [',', ';', '\t', '|'] as const;

/** The delimiter of a CSV file: the one that the first line has most of, outside quotes. */
export function guessDelimiter(head: string): (typeof DELIMITERS)[number] {
  const line = (head.replace(/^\uFEFF?(\s*\r?\n)*/, '').split(/\r?\n/)[0] ?? '').replace(/"[^"]*"/g, '');
  const counts = DELIMITERS.map((delimiter) => line.split(delimiter).length);
  return DELIMITERS[counts.indexOf(Math.max(...counts))]!;
}
