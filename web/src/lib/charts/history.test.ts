import { calendarById } from '@umwelt/core';
import type { Data } from 'plotly.js';
import { headsOf, textsOf } from '$lib/tables';
import { describe, expect, it } from 'vitest';
import type { HistoryRow } from '$lib/state/api';
import { TOKENS } from '$lib/testing/snapshot';
import { HeldRange } from './figure';
import { historyFigure, historyPoints, seriesOf } from './history';

const calendar = calendarById('MRX');
const row = (date: string, close: number | null, iv30: number | null, hv: number | null): HistoryRow => ({
  date,
  asof: iv30 === null ? null : `${date}T16:45:00.000Z`,
  close,
  iv30,
  'hv20.yz': hv,
  'hv20.close': hv === null ? null : hv + 0.01,
});
const rows = [
  row('2031-03-10', 100, null, 0.2),
  row('2031-03-11', 101, 0.25, 0.21),
  row('2031-03-12', 99, 0.24, 0.26),
  row('2031-03-13', null, 0.23, null),
];
const at = (moment: string) => historyPoints(rows, calendar, Date.parse(moment), 'hv20.yz', 98.5);

describe('points', () => {
  it('the gap is taken against what was known at the moment, not against its own day', () => {
    const points = at('2031-03-13T16:45:00Z');
    expect(points.map((point) => point.gap)).toEqual([NaN, 0.25 - 0.2, 0.24 - 0.21, 0.23 - 0.26]);
    expect(points.map((point) => point.hv)).toEqual([0.2, 0.21, 0.26, NaN]);
  });
  it('nothing later than the moment, and its price for the session that is not over', () => {
    const points = at('2031-03-12T16:45:00Z');
    expect(points.map((point) => point.date)).toEqual(['2031-03-10', '2031-03-11', '2031-03-12']);
    expect(points.at(-1)).toMatchObject({ close: 98.5, iv30: 0.24, hv: NaN });
    // Once the session is over its bar counts, and its own price is kept.
    expect(at('2031-03-12T17:00:00Z').at(-1)).toMatchObject({ close: 99, hv: 0.26 });
    expect(at('2031-01-01T00:00:00Z')).toEqual([]);
  });
  it('names the series of a choice', () => {
    expect(seriesOf('both', 20)).toEqual(['hv20.yz', 'hv20.close']);
    expect(seriesOf('close', 60)).toEqual(['hv60.close']);
  });
});

describe('figure', () => {
  const figure = (change: Partial<Parameters<typeof historyFigure>[0]> = {}) =>
    historyFigure({
      rows,
      events: [{ date: '2031-03-11', start: null, title: 'Dividend', kind: 'dividend cash', amount: 0.85 }],
      calendar,
      instant: Date.parse('2031-03-13T16:45:00Z'),
      price: 98.5,
      estimator: 'yz',
      window: 20,
      allBars: true,
      tokens: TOKENS,
      ranges: { price: new HeldRange(), vol: new HeldRange(), gap: new HeldRange() },
      symbol: 'TEST',
      ...change,
    });
  const named = (data: Data[]) => (data as { name: string; y: number[] }[]).map((trace) => trace.name);
  it('has price, implied, historical, the gap and the events', () => {
    const { data, table } = figure();
    expect(named(data)).toEqual(['close', 'iv30, %', 'Yang–Zhang 20 d, %', 'gap, points', '']);
    expect(headsOf(table())).toEqual(['date', 'close', 'iv30', 'hv20.yz', 'gap']);
    expect(textsOf(table()).at(-1)).toEqual(['2031-03-13', '98.50', '23.00', '–', '−3.00']);
    expect((data.at(-1) as unknown as { text: string[] }).text).toEqual(['Dividend 0.85']);
  });
  it('draws both estimators where they are wanted', () => {
    const { data, table } = figure({ estimator: 'both' });
    expect(named(data)).toContain('close to close 20 d, %');
    expect(textsOf(table())[1]).toEqual(['2031-03-11', '101.00', '25.00', '21.00', '22.00', '+5.00']);
  });
  it('the axis of time holds still while the moment moves', () => {
    const range = (instant: string) => figure({ instant: Date.parse(instant) }).layout.xaxis!.range;
    expect(range('2031-03-11T16:45:00Z')).toEqual(range('2031-03-13T16:45:00Z'));
    expect(range('2031-03-13T16:45:00Z')).toEqual(['2031-03-10', '2031-03-14']);
  });
  it('a gap under zero is hatched, not only coloured', () => {
    const bars = figure().data.find((trace) => (trace as { type: string }).type === 'bar') as unknown as {
      marker: { pattern: { shape: string[] } };
    };
    expect(bars.marker.pattern.shape.slice(1)).toEqual(['', '', '/']);
  });
});
