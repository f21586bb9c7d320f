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
