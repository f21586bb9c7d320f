import { parseExpiryName, type NamedExpiry } from '@umwelt/core';
import { DateTime } from 'luxon';

/** Months as three letters: the British ones write Sept. */
const LOCALE = 'en-US';

/** A day of the exchange: 17 Apr, with the year where it is not the one of reference. */
export function shortDay(day: string, referenceYear?: string): string {
  const date = DateTime.fromISO(day, { zone: 'UTC', locale: LOCALE });
  if (!date.isValid) return day;
  return date.toFormat(referenceYear !== undefined && referenceYear !== day.slice(0, 4) ? 'd LLL yy' : 'd LLL');
}

/** A day with its year: 4 Oct 2030. */
export function longDay(day: string): string {
  return DateTime.fromISO(day, { zone: 'UTC', locale: LOCALE }).toFormat('d LLL yyyy');
}

/** An expiry by its day: 17 Apr, and 17 Apr am where it settles in the morning. */
export function shortExpiry({ expiry, settlement }: NamedExpiry, referenceYear?: string): string {
  const day = shortDay(expiry, referenceYear);
  return settlement === 'am' ? `${day} am` : day;
}

/** The same of the name of an expiry. */
export function shortName(name: string, referenceYear?: string): string {
  const expiry = parseExpiryName(name);
  return expiry ? shortExpiry(expiry, referenceYear) : name;
}

/** A moment in the zone of the exchange: Thu 13 Mar 2031 15:45. */
export function longMoment(instant: number, zone: string): string {
  return DateTime.fromMillis(instant, { zone, locale: LOCALE }).toFormat('ccc d LLL yyyy HH:mm');
}

/** The same with seconds and without the year: Fri 14 Mar 10:32:05. */
export function exactMoment(instant: number, zone: string): string {
  return DateTime.fromMillis(instant, { zone, locale: LOCALE }).toFormat('ccc d LLL HH:mm:ss');
}

/** The day of a moment in the zone of the exchange: 13 Feb. */
export function momentDay(instant: number, zone: string): string {
  return DateTime.fromMillis(instant, { zone, locale: LOCALE }).toFormat('d LLL');
}

/** The time of day of a moment in the zone of the exchange: 10:32:05. */
export function clockTime(moment: string, zone: string): string {
  return DateTime.fromISO(moment, { zone, locale: LOCALE }).toFormat('HH:mm:ss');
}
