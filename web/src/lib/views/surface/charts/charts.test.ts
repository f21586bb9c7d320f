import { calendarById, callDelta, curveVol, REASONS, type Side } from '@umwelt/core';
import type { Data } from 'plotly.js';
import { describe, expect, it } from 'vitest';
import { resolveFocus } from '$lib/data/focus';
import { ASOF, makeSnapshot, makeValued, TOKENS } from '$lib/testing/snapshot';
import { densityFigure, densityMoving, densitySentence, holdDensity, lawsOfExpiry } from './density';
import { HeldRange } from '$lib/charts/figure';
import { axisValue } from './curve-line';
import { skewFigure, skewPoints } from './skew';
import { comingEvents, holdTerm, readVol, termExpiries, termFigure, termLines, termMoving } from './term';
import { timedEvents } from '$lib/data/events';

const calendar = calendarById('MRX');
const snapshot = makeSnapshot();
const { values } = makeValued(snapshot);
const lit = resolveFocus(snapshot, { expiry: '2031-04-17', settlement: null, strike: 94, side: 'put' })!;
const ranges = () => ({ x: new HeldRange(), y: new HeldRange() });
type Trace = {
  x: number[];
  y: number[];
  mode: string;
  customdata?: [string, number, string][];
  marker?: { symbol: string[] | string };
  line?: { dash: string };
};
const traces = (data: Data[]) => data as unknown as Trace[];

describe('skew', () => {
  const input = {
    snapshot,
    values,
    ghost: null,
    axis: 'strike' as const,
    sides: 'otm' as const,
    scale: 'vol' as const,
    isLog: false,
    hasMisses: false,
    band: null,
    beside: [],
    draft: null,
    decimals: 2,
    hidden: new Set<string>(),
    lit,
    framed: 1,
    isDetailed: true,
    tokens: TOKENS,
  };
  it('shows the out-of-the-money side of each strike, and what its vol is', () => {
    const points = skewPoints(snapshot.slices[1]!, values[1]!);
    expect(points.map((point) => point.side)).toEqual([...Array(7).fill('put'), ...Array(6).fill('call')]);
    for (const point of points) {
      expect(point.bid).toBeLessThan(point.mid);
      expect(point.mid).toBeLessThan(point.ask);
    }
  });
  it('draws a curve and marks per expiry, the focused one last, and the lit mark on top', () => {
    const { data, layout, table: tableOf } = skewFigure({ ...input, ranges: ranges() });
    const table = tableOf();
    // Two other lines with their bars and marks; the focused line, bars and marks; no ghost, none aside; the lit mark.
    expect(data).toHaveLength(10);
    const focused = traces(data)[6]!;
    expect(focused.customdata![0]![0]).toBe('2031-04-17');
    expect(focused.marker!.symbol).toContain('triangle-down-open');
    const mark = traces(data)[9]!;
    expect(mark.x).toEqual([94]);
    expect(mark.marker!.symbol).toBe('triangle-down');
    const texts = layout.annotations!.map((annotation) => annotation.text);
    expect(texts[0]).toBe('forward 100.30');
    expect(texts[1]).toMatch(/^<b>17 Apr 94 put · \d+\.\d %<\/b>$/);
    const shown = snapshot.slices.map((slice, i) => skewPoints(slice, values[i]!).length);
    expect(table.rows).toHaveLength(shown.reduce((sum, count) => sum + count));
    expect(table.rows.length).toBeGreaterThan(30);
    expect(table.columns).toHaveLength(table.rows[0]!.length);
  });
  it('while the moment moves only the focused quotes are drawn, in the same traces', () => {
    const { data, table } = skewFigure({ ...input, isDetailed: false, ranges: ranges() });
    expect(data).toHaveLength(10);
    expect(traces(data)[3]!.x).toEqual([]);
    expect(traces(data)[6]!.x.length).toBeGreaterThan(5);
    expect(table().rows.length).toBeGreaterThan(30);
  });
  it('the bars run from bid to ask at each strike', () => {
    const { data } = skewFigure({ ...input, ranges: ranges() });
    const points = skewPoints(snapshot.slices[1]!, values[1]!);
    const bars = traces(data)[5]!;
    expect(bars.x).toEqual(points.flatMap((point) => [point.strike, point.strike, null]));
    expect(bars.y).toEqual(points.flatMap((point) => [100 * point.bid, 100 * point.ask, null]));
  });
  it('the line is the fitted curve', () => {
    const { data } = skewFigure({ ...input, ranges: ranges() });
    const { fit } = snapshot.slices[1]!;
    const line = traces(data)[4]!;
    line.x.forEach((strike, i) => {
      expect(line.y[i]).toBeCloseTo(100 * curveVol(fit.curve!, Math.log(strike / fit.forward)), 9);
    });
  });
  it('leaves out what is hidden, but never the focus', () => {
    const { data } = skewFigure({ ...input, hidden: new Set(['2031-03-27', '2031-04-17']), ranges: ranges() });
    expect(data).toHaveLength(9);
    expect(new Set(traces(data)[2]!.customdata!.map(([expiry]) => expiry))).toEqual(new Set(['2031-06-19']));
    expect(skewFigure({ ...input, hidden: new Set(['2031-03-27', '2031-06-19']), ranges: ranges() }).data).toHaveLength(
      8,
    );
  });
  it('the ghost is the same expiry then, dashed; nothing where it did not trade', () => {
    const ghost = makeSnapshot(0.05);
    const dashed = traces(skewFigure({ ...input, ghost, ranges: ranges() }).data)[7]!;
    expect(dashed.line!.dash).toBe('dash');
    expect(dashed.x.length).toBeGreaterThan(10);
    const without = { ...ghost, slices: ghost.slices.filter((slice) => slice.expiry !== '2031-04-17') };
    expect(traces(skewFigure({ ...input, ghost: without, ranges: ranges() }).data)[7]!.x).toEqual([]);
  });
  it('the standardized axis counts deviations from the forward', () => {
    const slice = snapshot.slices[1]!;
    const { forward, atmVol, years } = slice.fit;
    expect(axisValue('standardized', forward, slice.fit)).toBe(0);
    expect(axisValue('standardized', forward * Math.exp(atmVol * Math.sqrt(years)), slice.fit)).toBeCloseTo(1, 12);
    expect(axisValue('strike', 94, slice.fit)).toBe(94);
  });
  it('the other axes: per cent of the forward, its logarithm, the delta of the call with high ones at the left', () => {
    const slice = snapshot.slices[1]!;
    const { forward, curve } = slice.fit;
    expect(axisValue('forward', forward, slice.fit)).toBeCloseTo(100, 12);
    expect(axisValue('log', forward * Math.E, slice.fit)).toBeCloseTo(1, 12);
    expect(axisValue('delta', 94, slice.fit)).toBeCloseTo(100 * callDelta(curve!, Math.log(94 / forward)), 12);
    const { layout } = skewFigure({ ...input, axis: 'delta', ranges: ranges() });
    const [left, right] = layout.xaxis!.range as [number, number];
    expect(left).toBeGreaterThan(right);
  });
  it('calls, puts, or both at each strike', () => {
    const count = (sides: Side | 'both') => skewPoints(snapshot.slices[1]!, values[1]!, sides);
    expect(new Set(count('call').map(({ side }) => side))).toEqual(new Set(['call']));
    expect(count('both')).toHaveLength(count('call').length + count('put').length);
    expect(count('both').length).toBeGreaterThan(skewPoints(snapshot.slices[1]!, values[1]!).length);
  });
  it('total variance and logarithms stand upright where they are wanted', () => {
    const { fit } = snapshot.slices[1]!;
    const plain = traces(skewFigure({ ...input, ranges: ranges() }).data)[4]!;
    const variance = traces(skewFigure({ ...input, scale: 'variance', ranges: ranges() }).data)[4]!;
    variance.y.forEach((w, i) => expect(w).toBeCloseTo((plain.y[i]! / 100) ** 2 * fit.years, 12));
    const { layout } = skewFigure({ ...input, isLog: true, ranges: ranges() });
    expect(layout.yaxis!.type).toBe('log');
    expect((layout.yaxis!.range as number[])[1]).toBeLessThan(3);
  });
  it('misses are mid less curve, on an axis of their own that holds them all', () => {
    const { data, layout } = skewFigure({ ...input, hasMisses: true, ranges: ranges() });
    const below = data.find((trace) => (trace as { yaxis?: string }).yaxis === 'y2') as unknown as Trace;
    const points = skewPoints(snapshot.slices[1]!, values[1]!);
    const { fit } = snapshot.slices[1]!;
    points.forEach(({ strike, mid }, i) => {
      const curve = curveVol(fit.curve!, Math.log(strike / fit.forward));
      expect(below.y[i]).toBeCloseTo(100 * (mid - curve), 12);
    });
    const most = (layout as { yaxis2: { range: number[] } }).yaxis2.range[1]!;
    expect(Math.max(...below.y.map(Math.abs))).toBeLessThan(most);
  });
  it('a quote that is set aside is a cross that can be brought back', () => {
    const [first, second, third] = snapshot.slices;
    const aside = [{ side: 'put' as const, strike: 94, reason: REASONS.indexOf('by-hand') }];
    const judged = { ...snapshot, slices: [first!, { ...second!, fit: { ...second!.fit, aside } }, third!] };
    const crosses = traces(skewFigure({ ...input, snapshot: judged, ranges: ranges() }).data)[8]!;
    expect(crosses.customdata).toEqual([['2031-04-17', 94, 'put', 'aside']]);
    expect(crosses.y[0]).toBeGreaterThan(10);
  });
});

describe('term structure', () => {
  const events = [
    { date: '2031-03-20', start: '2031-03-20T15:00:00Z', title: 'Decision', kind: 'rates', amount: null },
    { date: '2031-03-01', start: '2031-03-01T15:00:00Z', title: 'Past', kind: 'rates', amount: null },
    { date: '2031-03-25', start: null, title: 'Dividend', kind: 'dividend cash', amount: 1 },
    { date: '2032-01-01', start: null, title: 'Far', kind: 'results', amount: null },
  ];
  const timed = timedEvents(events, calendar);
  const fits = snapshot.slices.map(({ fit }) => fit);
  const input = {
    symbol: 'TEST',
    instant: ASOF,
    expiries: fits,
    ghost: null,
    calendar,
    classes: ['weekly', 'monthly', 'quarterly'] as const,
    reading: 'atm' as const,
    layers: ['realized'] as const,
    events: timed,
    realizedVol: (sessions: number) => 0.1 + sessions / 1000,
    litExpiry: '2031-04-17',
    band: null,
    beside: [],
    decimals: 2,
    tokens: TOKENS,
  };
  it('takes the classes of expiries that are wanted', () => {
    const of = (...classes: ('weekly' | 'monthly' | 'quarterly')[]) =>
      termExpiries(fits, calendar, classes).map(({ expiry }) => expiry);
    expect(of('weekly', 'monthly', 'quarterly')).toHaveLength(3);
    expect(of('monthly', 'quarterly')).toEqual(['2031-04-17', '2031-06-19']);
    expect(of('quarterly')).toEqual(['2031-06-19']);
  });
  it('events ahead, before the last expiry', () => {
    const coming = comingEvents(timed, ASOF, 98);
    expect(coming.map((event) => event.title)).toEqual(['Decision', 'Dividend']);
    expect(coming[0]!.days).toBeCloseTo((Date.parse('2031-03-20T15:00Z') - ASOF) / 86_400_000, 9);
  });
  it('draws ATM vols, realized vols, announcements without dividends, and the lit expiry larger', () => {
    const { data, layout, table } = termFigure({ ...input, ranges: ranges() });
    const drawn = traces(data);
    const vols = drawn.find(({ mode }) => mode === 'lines+markers')!;
    expect(vols.y).toEqual(fits.map(({ atmVol }) => 100 * atmVol));
    expect((vols.marker as unknown as { size: number[] }).size).toEqual([8, 12, 8]);
    expect(drawn[1]!.y).toEqual(fits.map(({ sessions }) => 100 * (0.1 + sessions / 1000)));
    expect(layout.shapes).toHaveLength(1);
    expect(layout.annotations!.map((annotation) => annotation.text)).toEqual(['◆ rates', 'realized']);
    expect(table().rows.map((row) => row[0])).toEqual(['2031-03-27', '2031-04-17', '2031-06-19']);
  });
  it('does without realized vols that are not held', () => {
    const { layout } = termFigure({ ...input, realizedVol: () => NaN, events: [], ranges: ranges() });
    expect(layout.shapes).toEqual([]);
    expect(layout.annotations).toEqual([]);
  });
  it('forward vols as steps keep the variance of every expiry', () => {
    const { steps } = termLines({ ...input, layers: ['steps'] });
    let variance = 0;
    fits.forEach(({ years, atmVol }, i) => {
      const from = fits[i - 1]?.years ?? 0;
      variance += (steps.vols[2 * i]! / 100) ** 2 * (years - from);
      expect(steps.vols[2 * i + 1]).toBe(steps.vols[2 * i]);
      expect(variance).toBeCloseTo(atmVol ** 2 * years, 12);
    });
  });
  it('reads the vol of any delta, and of fixed days between expiries', () => {
    const fit = fits[1]!;
    expect(readVol(fit, 'put25')).toBeCloseTo(fit.atmVol + fit.butterfly25 - fit.riskReversal25 / 2, 9);
    expect(readVol(fit, 'call25')).toBeCloseTo(fit.atmVol + fit.butterfly25 + fit.riskReversal25 / 2, 9);
    const { maturities } = termLines({ ...input, layers: ['maturities'] });
    expect(maturities.days).toEqual([7, 30, 60, 90]);
    expect(maturities.vols[1]).toBeCloseTo(100 * snapshot.measures.iv30!, 9);
  });
  it('moves on the axes that it holds', () => {
    const held = ranges();
    const lines = termLines(input);
    const far = { ...lines, vols: { days: [1, 900], vols: [5, 60] } };
    const { x, y } = holdTerm({ ...input, ranges: held }, [lines, far]);
    expect(x[1]).toBeGreaterThan(Math.log10(900));
    const { layout } = termFigure({ ...input, ranges: held });
    expect([layout.xaxis!.range, layout.yaxis!.range]).toEqual([x, y]);
    const moving = termMoving({ ...input, ranges: held }, lines);
    expect(moving.lines.find(({ dotColors }) => dotColors)!.y).toEqual(lines.vols.vols);
    expect(moving.lines.at(-1)!.x).toEqual([fits[1]!.days]);
  });
});

describe('density', () => {
  const slice = snapshot.slices[1]!;
  // A price that goes up and down by one and by four per cent in turn.
  const close = Float64Array.from(
    { length: 200 },
    (_, i) => 100 * (1 + 0.01 * ((i * 7) % 5) + 0.0005 * ((i * 13) % 11)),
  );
  it('three laws that end at one, the past from overlapping moves of the sessions to expiry', () => {
    const laws = lawsOfExpiry(slice.fit, close)!;
    expect(laws.moves).toBe(200 - slice.fit.sessions);
    for (const under of [laws.curveUnder, laws.lognormalUnder, laws.pastUnder!]) {
      expect(under[0]).toBeLessThan(0.02);
      expect(under.at(-1)).toBeGreaterThan(0.99);
      under.slice(1).forEach((value, i) => expect(value).toBeGreaterThanOrEqual(under[i]! - 1e-9));
    }
    const step = laws.k[1]! - laws.k[0]!;
    for (const density of [laws.curve, laws.lognormal, laws.past!]) {
      expect(density.reduce((sum, value) => sum + value * step, 0)).toBeCloseTo(1, 1);
    }
    // The market has a tilt, this past keeps within half a deviation.
    expect(densitySentence(laws, slice.fit).lead).toMatch(/pays most for (falls|rises) of more than a deviation/);
  });
  it('is drawn on the price axis, and says when the past is too short', () => {
    const laws = lawsOfExpiry(slice.fit, close.subarray(0, 30))!;
    expect(laws.past).toBeNull();
    expect(densitySentence(laws, slice.fit).rest).toContain('Too few closes');
    const figure = densityFigure({ expiry: slice.fit, isCumulative: true, tokens: TOKENS, ranges: ranges() }, laws);
    expect(figure.data).toHaveLength(2);
    expect(figure.layout.yaxis!.range).toEqual([0, 100]);
    expect(figure.table().rows[80]![0]).toBeCloseTo(slice.fit.forward, 9);
    expect(figure.table().rows[80]![4]).toBeCloseTo(laws.curveUnder[80]!, 12);
    const bare = { ...slice, fit: { ...slice.fit, curve: null } };
    expect(lawsOfExpiry(bare.fit, close)).toBeNull();
  });
  it('moves on axes that hold the other moments too', () => {
    const laws = lawsOfExpiry(slice.fit, close)!;
    const held = { expiry: slice.fit, isCumulative: false, tokens: TOKENS, ranges: ranges() };
    holdDensity(held, [slice.fit, { ...slice.fit, forward: 150 }, { ...slice.fit, years: 0 }]);
    const { layout } = densityFigure(held, laws);
    const [, to] = layout.xaxis!.range as [number, number];
    expect(to).toBeGreaterThan(150);
    const { lines, uprights } = densityMoving(slice.fit, laws, true, TOKENS);
    expect(lines.at(-1)!.y).toEqual(laws.curveUnder.map((value) => 100 * value));
    expect(lines).toHaveLength(3);
    expect(uprights![0]!.x).toBe(slice.fit.forward);
  });
});
