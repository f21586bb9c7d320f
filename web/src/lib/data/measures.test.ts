import { calendarById, yangZhangVol } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { Summary } from './snapshot';
import {
  barsOf,
  ivRankAt,
  lastBarIndex,
  momentIndex,
  realizedOver,
  sessionStops,
  stepAlong,
  valueOf,
} from './measures';

const calendar = calendarById('MRX');
const at = (asof: string, iv30: number | null = null) => ({ asof, iv30 }) as Summary;
const moments = [
  at('2031-03-11T16:45:00Z', 0.2),
  at('2031-03-12T16:45:00Z', 0.3),
  at('2031-03-13T15:00:00Z', 0.1),
  at('2031-03-13T16:45:00Z', 0.25),
];

describe('moments', () => {
  it('the latest at or before', () => {
    expect(momentIndex(moments, null)).toBe(3);
    expect(momentIndex(moments, '2031-03-12T16:45:00Z')).toBe(1);
    expect(momentIndex(moments, '2031-03-13T00:00:00Z')).toBe(1);
    expect(momentIndex(moments, '2031-03-11T17:45:00+01:00')).toBe(0);
    expect(momentIndex(moments, '2020-01-01T00:00:00Z')).toBe(-1);
    expect(momentIndex([], null)).toBe(-1);
  });
  it('rank by session: of an earlier session only the last moment counts', () => {
    const stops = sessionStops(calendar, moments);
    expect(ivRankAt(moments, stops, 3)).toMatchObject({
      sessions: 3,
      low: 0.2,
      high: 0.3,
      rank: 0.5,
      percentile: 0.5,
    });
    expect(ivRankAt(moments, stops, 2)).toMatchObject({ sessions: 3, low: 0.1, rank: 0 });
    expect(ivRankAt([at('2031-03-11T16:45:00Z')], [0], 0)).toBeNull();
  });
});

describe('bars', () => {
  const row = (date: string, close: number | null) => ({ date, asof: null, close });
  const rows = [row('2031-03-11', 10), row('2031-03-12', 11), row('2031-03-13', 12)];
  it('count once their session is over, in the zone of the exchange', () => {
    expect(lastBarIndex(calendar, rows, Date.parse('2031-03-13T16:59:00Z'))).toBe(1);
    expect(lastBarIndex(calendar, rows, Date.parse('2031-03-13T17:00:00Z'))).toBe(2);
    expect(lastBarIndex(calendar, rows, Date.parse('2031-03-01T17:00:00Z'))).toBe(-1);
    expect(lastBarIndex(calendar, [rows[0]!, row('2031-03-12', null)], Date.parse('2031-03-14T00:00:00Z'))).toBe(0);
  });
  it('realized vol over a window ends with the last bar, and wants one before the window', () => {
    const prices = [100, 103, 99, 104, 101, 107];
    const history = prices.map((close, i) => {
      const open = prices[Math.max(0, i - 1)]!;
      return {
        date: `2031-03-1${i}`,
        asof: null,
        open,
        high: Math.max(open, close),
        low: Math.min(open, close),
        close,
      };
    });
    const held = barsOf(history, []);
    const columns = (name: 'open' | 'high' | 'low' | 'close') => Float64Array.from(history, (row) => row[name]);
    const bars = { open: columns('open'), high: columns('high'), low: columns('low'), close: columns('close') };
    expect(realizedOver(held, 5, 3)).toBeCloseTo(yangZhangVol(bars, 3)[5]!, 14);
    expect(realizedOver(held, 4, 4)).toBeCloseTo(yangZhangVol(bars, 4)[4]!, 14);
    expect([realizedOver(held, 3, 4), realizedOver(held, 5, 1), realizedOver(barsOf([], []), -1, 3)]).toEqual([
      NaN,
      NaN,
      NaN,
    ]);
  });
  it('bars pass over days without one, and know nothing of dividends and splits', () => {
    const of = (date: string, close: number | null) => ({
      date,
      asof: null,
      open: close,
      high: close,
      low: close,
      close,
    });
    const history = [of('2031-03-10', 100), of('2031-03-11', null), of('2031-03-12', 98), of('2031-03-13', 49)];
    const step = (date: string, kind: string, amount: number) => ({ date, start: null, title: '', kind, amount });
    const {
      dates,
      close,
      at: positions,
    } = barsOf(history, [
      step('2031-03-12', 'dividend cash', 2),
      step('2031-03-13', 'dividend split', 2),
      { ...step('2031-03-13', 'results', 0), amount: null },
    ]);
    expect(dates).toEqual(['2031-03-10', '2031-03-12', '2031-03-13']);
    expect([...positions]).toEqual([0, 0, 1, 2]);
    for (const price of close) expect(price).toBeCloseTo(49, 12);
  });
  it('what a row does not have is NaN', () => {
    expect([valueOf(rows[0], 'close'), valueOf(rows[0], 'date'), valueOf(undefined, 'close')]).toEqual([10, NaN, NaN]);
  });
});

describe('steps', () => {
  const at = (asof: string) => ({ asof });
  const moments = [
    '2030-12-18T16:45Z',
    '2030-12-19T10:30Z',
    '2030-12-19T12:00Z',
    '2030-12-19T16:45Z',
    '2030-12-20T16:45Z',
  ];
  it('lead to the last moment of a session, from wherever', () => {
    const stops = sessionStops(calendarById('MRX'), moments.map(at));
    expect(stops).toEqual([0, 3, 4]);
    expect([1, -1, 2, -9, 9].map((steps) => stepAlong(stops, 3, steps))).toEqual([4, 0, 4, 0, 4]);
    expect([1, -1, -2].map((steps) => stepAlong(stops, 2, steps))).toEqual([3, 0, 0]);
    expect(stepAlong([], 0, 1)).toBe(-1);
  });
});
