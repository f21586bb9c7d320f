import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  calendarById,
  dayOf,
  expiryClass,
  expiryInstant,
  instantOf,
  isSession,
  nextSession,
  previousSession,
  sessionsBetween,
  yearsBetween,
} from '.';

const mrx = calendarById('MRX');

describe('years to expiry', () => {
  it('is ACT/365F to the minute', () => {
    expect(yearsBetween(Date.UTC(2031, 0, 1), Date.UTC(2032, 0, 1))).toBe(1);
    expect(yearsBetween(0, 60_000)).toBe(1 / 525_600);
    expect(yearsBetween(0, 29_999)).toBe(0);
    expect(yearsBetween(60_000, 0)).toBe(-1 / 525_600);
  });
  it('from the last moment of the demo to the April expiry: 35 days and 15 minutes', () => {
    const asof = instantOf(mrx, '2031-03-13', '15:45');
    expect(yearsBetween(asof, expiryInstant(mrx, '2031-04-17', 'pm'))).toBe((35 * 1440 + 15) / 525_600);
    expect(new Date(asof).toISOString()).toBe('2031-03-13T16:45:00.000Z');
  });
});

describe('calendar', () => {
  it('knows weekends, holidays and half days', () => {
    expect(['2031-03-14', '2031-03-15', '2031-04-11'].map((day) => isSession(mrx, day))).toEqual([true, false, false]);
    expect(sessionsBetween(mrx, '2031-03-13', '2031-03-21')).toBe(6);
    expect(sessionsBetween(mrx, '2031-03-13', '2031-03-13')).toBe(0);
    expect(nextSession(mrx, '2030-12-24')).toBe('2030-12-27');
    expect(previousSession(mrx, '2031-01-02')).toBe('2030-12-31');
    expect(new Date(expiryInstant(mrx, '2030-12-24', 'pm')).toISOString()).toBe('2030-12-24T14:00:00.000Z');
    expect(new Date(expiryInstant(mrx, '2031-03-20', 'am')).toISOString()).toBe('2031-03-20T10:30:00.000Z');
  });
  it('the day is the one of the exchange, not of UTC', () => {
    expect(dayOf(mrx, Date.UTC(2031, 2, 14, 0, 30))).toBe('2031-03-13');
  });
  it('an unknown calendar has plain weekdays, and a day that does not exist is refused', () => {
    expect(isSession(calendarById('nowhere'), '2031-04-11')).toBe(true);
    expect(() => instantOf(mrx, '2031-02-30', '10:00')).toThrow('no such moment');
  });
});

describe('counting sessions', () => {
  it('is what stepping from session to session counts, over two years of pairs', () => {
    const from = '2030-01-01';
    let day = from;
    let steps = 0;
    while (day < '2032-01-10') {
      day = nextSession(mrx, day);
      steps++;
      expect(sessionsBetween(mrx, from, day)).toBe(steps);
    }
    expect(sessionsBetween(mrx, '2031-03-15', '2031-03-16')).toBe(0);
    expect(sessionsBetween(mrx, '2031-03-14', '2031-03-17')).toBe(1);
  });
});

describe('classes of expiries', () => {
  it('third Thursdays are monthlies, those of the quarter quarterlies', () => {
    const classes = ['2031-03-20', '2031-03-27', '2031-04-17', '2031-05-15', '2031-06-19'].map((day) =>
      expiryClass(mrx, day),
    );
    expect(classes).toEqual(['quarterly', 'weekly', 'monthly', 'monthly', 'quarterly']);
  });
  it('a monthly that falls on a holiday moves to the session before', () => {
    const moved = { ...mrx, holidays: new Set(['2031-04-17']) };
    expect(expiryClass(moved, '2031-04-16')).toBe('monthly');
  });
});

describe('a zone with daylight saving', () => {
  // Clocks go forward on Sunday 9 March 2031 and back on Sunday 2 November 2031.
  const east = calendarById('America/New_York');
  const at = (day: string, time: string) => new Date(instantOf(east, day, time)).toISOString();
  it('has its calendar by its name', () => {
    expect(east).toMatchObject({ id: 'America/New_York', zone: 'America/New_York', close: '16:00' });
    expect(calendarById('Atlantis/Nowhere').id).toBe('weekdays');
    expect(calendarById('EST').id).toBe('weekdays');
    expect(isSession(east, '2031-03-08')).toBe(false);
  });
  it('moves its close by an hour of UTC, and its days with it', () => {
    expect(at('2031-03-07', '16:00')).toBe('2031-03-07T21:00:00.000Z');
    expect(at('2031-03-10', '16:00')).toBe('2031-03-10T20:00:00.000Z');
    expect(at('2031-10-31', '16:00')).toBe('2031-10-31T20:00:00.000Z');
    expect(at('2031-11-03', '16:00')).toBe('2031-11-03T21:00:00.000Z');
    const dayAt = (instant: string) => dayOf(east, Date.parse(instant));
    expect(dayAt('2031-03-08T04:59:59Z')).toBe('2031-03-07');
    expect(dayAt('2031-03-08T05:00:00Z')).toBe('2031-03-08');
    // On the day of the change itself midnight is still five hours behind, the next one four.
    expect(dayAt('2031-03-09T04:59:59Z')).toBe('2031-03-08');
    expect(dayAt('2031-03-09T05:00:00Z')).toBe('2031-03-09');
    expect(dayAt('2031-03-10T03:59:59Z')).toBe('2031-03-09');
    expect(dayAt('2031-03-10T04:00:00Z')).toBe('2031-03-10');
    expect(dayAt('2031-11-02T03:59:59Z')).toBe('2031-11-01');
    expect(dayAt('2031-11-03T04:59:59Z')).toBe('2031-11-02');
  });
  it('counts the minutes that there are: 71 hours over the weekend in spring, 73 in autumn', () => {
    const minutes = (from: string, to: string) =>
      yearsBetween(instantOf(east, from, '16:00'), expiryInstant(east, to, 'pm')) * 525_600;
    expect(minutes('2031-03-07', '2031-03-10')).toBeCloseTo(71 * 60, 9);
    expect(minutes('2031-10-31', '2031-11-03')).toBeCloseTo(73 * 60, 9);
    expect(sessionsBetween(east, '2031-03-07', '2031-03-10')).toBe(1);
  });
  it('settles at the open or at the close, and an expiry of the day has minutes left', () => {
    const asof = instantOf(east, '2031-03-10', '15:45');
    expect(yearsBetween(asof, expiryInstant(east, '2031-03-10', 'pm')) * 525_600).toBeCloseTo(15, 9);
    expect(yearsBetween(asof, expiryInstant(east, '2031-03-10', 'am'))).toBeLessThan(0);
    expect(yearsBetween(asof, expiryInstant(east, '2031-03-11', 'am')) * 525_600).toBeCloseTo(17.75 * 60, 9);
  });
  it('is told the same from wherever it is asked, whatever was asked before', () => {
    fc.assert(
      fc.property(fc.integer({ min: Date.UTC(2030, 0, 1), max: Date.UTC(2032, 0, 1) }), (instant) => {
        const parts = new Intl.DateTimeFormat('en-CA', { timeZone: 'America/New_York' }).format(instant);
        expect(dayOf(east, instant)).toBe(parts);
      }),
    );
  });
});
