import { calendarById, coneSlice, historicalVol, premiumByRegime, premiumOf, premiumSessions } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { aroundFigure } from './charts/around';
import { coneFigure, coneSentence } from './charts/cone';
import { HeldRange } from '$lib/charts/figure';
import { pathFigure } from './charts/history';
import { premiumFigure, premiumRows, premiumSentence } from './charts/premium';
import type { HistoryRow, MarketEvent } from '$lib/state';
import { barsOf } from '$lib/data/measures';
import { headsOf, textsOf } from '$lib/tables';
import { TOKENS } from '$lib/testing/snapshot';
import type { Summary } from '$lib/data';
import { announcedSentence, announcedTable, kindsOf } from './charts/announced';
import { announcedBefore } from '$lib/data/events';
import { forecastsOf } from '$lib/film/forecasts';
import { averageMoveOf, firstOf, historicalOf, impliedOf, lowerOf, sessionsOf, standingOf } from './sessions';

const calendar = calendarById('MRX');
const DAYS = ['2031-03-07', '2031-03-10', '2031-03-11', '2031-03-12', '2031-03-13'];
const CLOSES = [100, 102, 101, 104, null];
const IV30 = [null, 0.25, 0.24, 0.26, 0.23];
const summary = (date: string, iv30: number | null, time = '16:45'): Summary =>
  ({
    asof: `${date}T${time}:00.000Z`,
    price: 98.5,
    iv7: 0.3,
    iv30,
    varianceIndex: 27,
    riskReversal25: -0.05,
    butterfly25: 0.01,
    riskReversal10: -0.09,
    butterfly10: 0.02,
    termSlope: 0.01,
    frontExpiry: '2031-03-20',
    frontStraddleMove: 2.955,
    volume: 1000,
  }) as Summary;
const snapshots = DAYS.flatMap((date, i) => (IV30[i] === null ? [] : [summary(date, IV30[i]!)]));
const rows = DAYS.map((date, i): HistoryRow => {
  const close = CLOSES[i]!;
  return {
    date,
    asof: IV30[i] === null ? null : `${date}T16:45:00.000Z`,
    open: close,
    high: close === null ? null : close + 1,
    low: close === null ? null : close - 1,
    close,
    volume: close === null ? null : 5,
  };
});
const bars = barsOf(rows, []);
const at = (now: Summary) => sessionsOf(rows, bars, snapshots, calendar, now);
const last = at(snapshots.at(-1)!);

describe('sessions', () => {
  it('know at their moment the bars before their own, and own them once they are over', () => {
    expect(last.dates).toEqual(DAYS);
    expect([...last.close]).toEqual([100, 102, 101, 104, 98.5]);
    expect([...last.own]).toEqual([0, 1, 2, 3, -1]);
    expect([...last.known]).toEqual([-1, 0, 1, 2, 3]);
    const { own, known } = historicalOf(last, bars, 'close', 2);
    const vols = historicalVol(bars, 'close', 2);
    expect(own.slice(2, 4)).toEqual(vols.slice(2, 4));
    expect([known[3], known[4]]).toEqual([vols[2], vols[3]]);
    expect(historicalOf(last, bars, 'close', 0).own.every(Number.isNaN)).toBe(true);
  });
  it('hold nothing later than the moment, whose own measures stand for its session', () => {
    const early = at(summary('2031-03-12', 0.31, '10:00'));
    expect(early.dates).toEqual(DAYS.slice(0, 4));
    expect(early.close[3]).toBe(98.5);
    expect(early.own[3]).toBe(-1);
    expect([...impliedOf(early, 'iv30')]).toEqual([NaN, 0.25, 0.24, 0.31]);
    // A moment at or after the close knows the bar of its own session.
    expect(at(summary('2031-03-12', 0.31, '17:00')).known[3]).toBe(3);
  });
  it('have prices in shares of the moment: a split is no fall', () => {
    const split = { date: DAYS[2]!, start: null, title: 'Split', kind: 'dividend split', amount: 2 };
    const close = (now: Summary) => [...sessionsOf(rows, bars, snapshots, calendar, now, [split]).close];
    expect(close(snapshots.at(-1)!)).toEqual([50, 51, 101, 104, 98.5]);
    // Before it the shares are those of then.
    expect(close(summary(DAYS[1]!, 0.25, '17:00')).slice(0, 2)).toEqual([100, 102]);
  });
  it('read implied vols, wings from curves, and what stands below', () => {
    expect(impliedOf(last, 'index')[4]).toBe(0.27);
    const wing = (name: Parameters<typeof impliedOf>[1]) => impliedOf(last, name)[4];
    expect(wing('put25')).toBeCloseTo(0.23 + 0.01 + 0.025, 12);
    expect(wing('call25')).toBeCloseTo(0.23 + 0.01 - 0.025, 12);
    expect(wing('put10')! - wing('call10')!).toBeCloseTo(0.09, 12);
    const implied = impliedOf(last, 'iv30');
    const { known } = historicalOf(last, bars, 'close', 2);
    const read = (name: Parameters<typeof lowerOf>[1]) => lowerOf(last, name, implied, known)[4];
    expect(read('gap')).toBeCloseTo(100 * (0.23 - known[4]!), 12);
    expect(read('ratio')).toBeCloseTo(0.23 / known[4]!, 12);
    expect([read('rr25'), read('slope')]).toEqual([-5, 1]);
    expect(read('move')).toBeCloseTo(3, 12);
    expect(read('bf25')).toBe(1);
  });
  it('stand in their lookback, which is told when it is short', () => {
    const values = Float64Array.of(NaN, 0.25, 0.24, 0.26, 0.23);
    expect(standingOf('iv30', DAYS, values, 252)).toMatchObject({
      ...{ now: 0.23, low: 0.23, lowDate: '2031-03-13', high: 0.26, highDate: '2031-03-12' },
      ...{ rank: 0, percentile: 0, sessions: 4, isShort: true },
    });
    expect(standingOf('iv30', DAYS, values, 2)).toMatchObject({ high: 0.26, sessions: 2, isShort: false });
    expect(standingOf('iv30', DAYS, values, 0)!.isShort).toBe(false);
    expect(standingOf('iv30', DAYS, values.with(4, NaN), 0)).toBeNull();
    expect(averageMoveOf(last, bars, 2)).toBeCloseTo((Math.log(102 / 101) + Math.log(104 / 101)) / 2, 12);
    expect([firstOf(last, 'bars'), firstOf(last, '3m'), firstOf(last, 'held')]).toEqual([0, 0, 0]);
    const since = (day: string) => firstOf(last, 'bars', day);
    expect([since('2030-01-01'), since('2031-03-08'), since('2031-03-12'), since('2032-01-01')]).toEqual([0, 1, 3, 4]);
  });
});

describe('figures', () => {
  const ranges = { price: new HeldRange(), vol: new HeldRange(), lower: new HeldRange() };
  const event: MarketEvent = {
    date: '2031-03-11',
    start: null,
    title: 'Dividend',
    kind: 'dividend cash',
    amount: 0.85,
  };
  const input = {
    dates: DAYS,
    end: '2031-03-14',
    close: [...last.close],
    volume: [...last.optionVolume],
    implied: [{ name: 'iv30', label: '30 days', values: [NaN, 25, 24, 26, 23] }],
    historical: [{ name: 'hv2.close', label: 'close 2 d', values: [NaN, NaN, 20, 21, NaN] }],
    lower: { name: 'gap', label: 'gap', unit: 'points', values: [NaN, NaN, NaN, 6, -3], isBars: true },
    events: [event],
    reach: { close: [90, 120], vols: [10, 40], lower: [-5, 8] },
    key: 'a',
    tokens: TOKENS,
    ranges,
  };
  it('the path has price, traded options, implied, historical, what stands below and the events', () => {
    const { data, layout, table } = pathFigure(input);
    const named = data as unknown as {
      name: string;
      text?: string[];
      y?: number[];
      fillpattern?: { shape: string };
    }[];
    expect(named.map(({ name }) => name)).toEqual([
      'options traded',
      'close',
      '30 days',
      'close 2 d',
      'over',
      'under',
      'gap, points',
      '',
    ]);
    expect(named.at(-1)!.text).toEqual(['Dividend 0.85']);
    // A gap under zero is hatched, not only coloured.
    const [over, under] = [named[4]!, named[5]!];
    expect(under.fillpattern!.shape).toBe('/');
    const gap = input.lower.values.at(-1)!;
    expect([over.y!.at(-1), under.y!.at(-1)]).toEqual([Math.max(0, gap), Math.min(0, gap)]);
    expect(headsOf(table())).toEqual(['date', 'close', 'options traded', 'iv30', 'hv2.close', 'gap']);
    expect(textsOf(table()).at(-1)).toEqual(['2031-03-13', '98.50', '1\u2009000', '23.00', '–', '−3.00']);
    // The axes hold all that is stored, whichever moment is in view.
    const early = pathFigure({ ...input, dates: DAYS.slice(0, 2), close: [100, 102] });
    expect(early.layout.yaxis!.range).toEqual(layout.yaxis!.range);
    expect((early.layout.xaxis!.range as string[])[1]).toBe('2031-03-14');
  });
  it('the path has a line below for what is no gap', () => {
    const { data } = pathFigure({
      ...input,
      lower: { ...input.lower, name: 'slope', label: 'term slope', isBars: false },
    });
    expect((data[4] as { type: string }).type).toBe('scatter');
  });
  it('the cone has its bands, what is now, and the term structure over them, and says where it lies', () => {
    const vols = (window: number) => Float64Array.from({ length: 120 }, (_, i) => 0.2 + 0.05 * Math.sin(i / window));
    const slices = [20, 60].map((window) => coneSlice(vols(window), window));
    const term = [
      { sessions: 19, vol: 0.3, expiry: '2031-04-10' },
      { sessions: 66, vol: 0.2, expiry: '2031-06-19' },
    ];
    const cone = {
      slices,
      isCorrected: false,
      term,
      key: 'a',
      tokens: TOKENS,
      ranges: { x: new HeldRange(), y: new HeldRange() },
    };
    const { data, table } = coneFigure(cone);
    expect(data).toHaveLength(9);
    const [low, high] = data as unknown as { y: number[] }[];
    expect(low!.y[0]).toBeCloseTo(100 * Math.min(...vols(20)), 9);
    expect(high!.y[0]).toBeCloseTo(100 * Math.max(...vols(20)), 9);
    expect(table().rows.map(([window]) => window)).toEqual([20, 60]);
    const wide = coneFigure({ ...cone, isCorrected: true }).data as unknown as { y: number[] }[];
    expect(wide[1]!.y[0]! - wide[0]!.y[0]!).toBeGreaterThan(high!.y[0]! - low!.y[0]!);
    const said = coneSentence(cone);
    expect(said.lead).toBe('30.0 % implied over 19 sessions lies over all that was realized');
    expect(said.rest).toMatch(/^over 20, of 120 windows that overlap \(6 that do not\); the middle was/);
    expect(coneSentence({ ...cone, term: [] }).lead).toBe('No cone.');
    expect(coneSentence({ ...cone, term: [{ ...term[0]!, vol: 0.01 }] }).lead).toContain('under all that was realized');
  });
  it('the premium has implied, what came after and the gap, a row for each third, and says what it was', () => {
    const count = 80;
    const implied = Float64Array.from({ length: count }, (_, i) => 0.2 + 0.001 * (i % 30));
    const close = Float64Array.from({ length: count }, (_, i) => 100 * Math.exp(0.01 * (i % 2)));
    const sessions = premiumSessions({ implied, realized: implied, close }, 21);
    const dates = Array.from({ length: count }, (_, i) =>
      new Date(Date.UTC(2031, 0, 1 + i)).toISOString().slice(0, 10),
    );
    const ranges = { x: new HeldRange(), y: new HeldRange() };
    const { data, table } = premiumFigure({ dates, sessions, horizon: 21, key: 'a', tokens: TOKENS, ranges });
    const [first, after] = data as unknown as { y: (number | null)[] }[];
    expect(first!.y[0]).toBeCloseTo(20, 9);
    // Returns of one per cent, up and down: 15.9 % a year.
    expect(after!.y[0]).toBeCloseTo(100 * 0.01 * Math.sqrt(252), 9);
    expect(after!.y.at(-1)).toBeNull();
    expect(table().rows).toHaveLength(count);
    const [all, byRegime] = [premiumOf(sessions), premiumByRegime(sessions)];
    expect(premiumRows(all, byRegime, { name: 'hv20.yz', summary: null }).map(({ name }) => name)).toEqual([
      ...['all', 'low third', 'middle', 'high third', 'over hv20.yz as it was known'],
    ]);
    const said = premiumSentence(all, byRegime, 'high', '30 days', 21);
    expect(said.lead).toMatch(/^30 days was \d\.\d points over what came after, on average of 59 sessions;$/);
    expect(said.rest).toMatch(
      /^it was over on 100 % of them\. Now it ranks in the high third, where it was \d\.\d over/,
    );
    expect(premiumSentence(null, byRegime, null, 'x', 21).lead).toBe('No premium yet.');
  });
});

describe('announcements of the past', () => {
  const events: MarketEvent[] = [
    { date: '2031-03-11', start: '2031-03-11T20:00:00.000Z', title: 'Results', kind: 'results', amount: null },
    { date: '2031-03-11', start: null, title: 'Dividend', kind: 'dividend cash', amount: 1 },
    { date: '2031-04-11', start: '2031-04-11T20:00:00.000Z', title: 'Results', kind: 'results', amount: null },
  ];
  const moments = [
    { ...summary('2031-03-11', 0.5), price: 100, frontStraddleMove: 4 },
    { ...summary('2031-03-12', 0.4, '10:00'), price: 106, iv7: 0.2 },
    { ...summary('2031-03-12', 0.3), price: 105, iv7: 0.2 },
  ];
  const instant = Date.parse('2031-03-13T12:00:00Z');
  it('are those that are over, with what they did to the vol and the price', () => {
    const found = announcedBefore(events, moments, calendar, instant, 30);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ title: 'Results', expected: 0.04 });
    expect(found[0]!.move).toBeCloseTo(0.06, 12);
    expect(found[0]!.change).toBeCloseTo(-0.1, 12);
    expect(found[0]!.halfFall).toBeCloseTo(14, 12);
    // Around it: three and a quarter hours before, fourteen and 20.75 after.
    expect(found[0]!.path).toEqual({ hours: [-3.25, 14, 20.75], vols: [50, 40, 30] });
    const ranges = { x: new HeldRange(), y: new HeldRange() };
    const { data, table } = aroundFigure({
      paths: [{ name: 'Results', ...found[0]!.path }],
      key: 'a',
      tokens: TOKENS,
      ranges,
    });
    expect((data[0] as unknown as { x: number[] }).x).toEqual([-3.25, 14, 20.75]);
    expect(table().rows[1]).toEqual(['Results', 14, 40]);
    expect(announcedSentence(found, 30)).toEqual({
      lead: 'The 30-day vol fell by 10.0 points on average of 1 announcement.',
      rest: 'The price moved 1.50 times what the straddle expected, beyond it 1 of 1 time. Half of the fall was done 14.0 hours after.',
    });
    expect(announcedTable(found).rows[0]!.slice(1, 4)).toEqual(['Results', 'results', 0.5]);
    expect(kindsOf([...found, { kind: 'decision' }, { kind: 'results' }])).toEqual(['decision', 'results']);
    expect(announcedBefore(events, moments, calendar, instant, 7)[0]!.change).toBeCloseTo(-0.1, 12);
  });
  it('know nothing later than the moment, nor a straddle that ends before', () => {
    expect(announcedBefore(events, moments, calendar, Date.parse('2031-03-11T21:00:00Z'), 30)).toEqual([]);
    const ended = [{ ...moments[0]!, frontExpiry: '2031-03-11' }, ...moments.slice(1)];
    expect(
      announcedBefore([{ ...events[0]!, start: '2031-03-12T09:00:00.000Z' }], ended, calendar, instant, 30)[0]!.ratio,
    ).toBeNaN();
    expect(announcedSentence([], 7).lead).toBe('No announcement of the past.');
  });
});

describe('forecasts', () => {
  it('are of the bars that are known, and none of too few', () => {
    const count = 400;
    let level = 0;
    const close = Float64Array.from({ length: count }, (_, i) =>
      Math.exp((level += 0.01 * Math.sin(7 * i) * (1 + 0.5 * Math.sin(i / 40)))),
    );
    const open = Float64Array.from(close, (_, i) => close[Math.max(0, i - 1)]!);
    const high = close.map((price, i) => 1.002 * Math.max(price, open[i]!));
    const low = close.map((price, i) => 0.998 * Math.min(price, open[i]!));
    const found = forecastsOf({ open, high, low, close }, 21);
    expect([found.bars, found.sessions]).toEqual([count, 21]);
    for (const vol of [found.ewma, found.garch, found.har]) expect(Math.abs(vol - 0.12)).toBeLessThan(0.06);
    const few = (values: Float64Array) => values.slice(0, 50);
    const none = forecastsOf({ open: few(open), high: few(high), low: few(low), close: few(close) }, 21);
    expect([none.garch, none.har, none.fit]).toEqual([NaN, NaN, null]);
    expect(none.ewma).toBeGreaterThan(0);
  });
});
