import { lognormalLaw, maxPain, type ExpectedStep } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { TOKENS } from '$lib/testing/snapshot';
import { textsOf } from '$lib/tables/data-table';
import { hedgeFigure } from './hedge';
import { lawsFigure, lawsRange, lawStyle } from './laws';
import { painFigure } from './pain';
import { priceMovesFigure, sessionMovesFigure, type PriceMovesInput } from './price-moves';

type Trace = {
  x: (number | string | null)[];
  y: (number | null)[];
  type: string;
  mode?: string;
  line?: { color: string };
};
const traces = (data: unknown) => data as Trace[];

const tokens = TOKENS as never;
const step = (from: string, to: string, outcome: ExpectedStep['outcome'], close: number): ExpectedStep => ({
  ...{
    from,
    to,
    expiry: to,
    settlement: 'pm' as const,
    price: 100,
    move: 4,
    close,
    times: (close - 100) / 4,
    left: 0,
    outcome,
  },
});

const days = ['2031-03-03', '2031-03-04', '2031-03-05', '2031-03-06', '2031-03-07', '2031-03-10'];
const input: PriceMovesInput = {
  candles: days.map((day, i) => ({ day, open: 100 + i, high: 103 + i, low: 98 + i, close: i % 2 ? 99 + i : 101 + i })),
  ahead: ['2031-03-11', '2031-03-12', '2031-03-13'],
  now: { day: '2031-03-10', price: 105 },
  cone: [0, 0.01, 0.014, 0.017],
  steps: [step('2031-03-03', '2031-03-05', 'inside', 102), step('2031-03-05', '2031-03-07', 'over', 107)],
  chosen: { expiry: '2031-03-13', move: 5, color: '#123456' },
  events: [{ day: '2031-03-12', title: 'Results' }],
  decimals: 2,
  tokens,
};

describe('the price with its expected moves', () => {
  const { data, layout, table } = priceMovesFigure(input);
  it('has sessions without the days between, a cone around the price, and the levels of the expiry', () => {
    const cone = traces(data)[3]!;
    expect(cone.x).toEqual([5, 6, 7, 8]);
    expect(cone.y.map((value) => Number(value!.toFixed(3)))).toEqual([105, 106.05, 106.47, 106.785]);
    const texts = (layout.annotations as { text: string; x: number }[]).map(({ text }) => text);
    expect(texts).toEqual(['100.00', '110.00', '◆']);
    expect((layout.shapes as { type: string; x0: number }[]).at(-1)!.x0).toBe(8);
  });
  it('marks what went over in another colour and with a diamond', () => {
    const marks = traces(data).find(({ mode }) => mode === 'markers')!;
    expect([marks.x, marks.y]).toEqual([[4], [107]]);
    const edges = traces(data).filter(({ line }) => line?.color === TOKENS.loss);
    expect(edges[0]!.y).toEqual([104, 104, null, 96, 96, null]);
    expect(textsOf(table())[1]!.at(-1)).toBe('over');
  });
  it('without a move or steps has the price alone', () => {
    const bare = priceMovesFigure({ ...input, steps: [], chosen: null, events: [] });
    expect(bare.layout.annotations).toEqual([]);
    expect((bare.layout.yaxis as { range: number[] }).range[0]).toBeLessThan(98);
  });
});

describe('inside a session', () => {
  it('has bars from price to price against the close before and its move', () => {
    const bars = [
      { time: '10:00', open: 100, high: 101.5, low: 99.5, close: 101 },
      { time: '10:15', open: 101, high: 101, low: 98.5, close: 99 },
    ];
    const { data, layout, table } = sessionMovesFigure({ bars, base: 98, move: 4, decimals: 2, tokens });
    const [over, under, base, wicks, up, down] = traces(data);
    expect([over!.y[0], under!.y[0], base!.y[0]]).toEqual([102, 94, 98]);
    expect([up!.x, down!.x]).toEqual([[0], [1]]);
    expect(wicks!.y).toEqual([...[99.5, 100, null, 101, 101.5, null], ...[98.5, 99, null, 101, 101, null]]);
    expect((layout.xaxis as { ticktext: string[] }).ticktext).toEqual(['10:00', '10:15']);
    expect(table!().rows[1]).toEqual(['10:15', 101, 101, 98.5, 99]);
  });
});

describe('laws over each other', () => {
  const laws = [
    { name: 'curve' as const, law: lognormalLaw(0.1) },
    { name: 'realized' as const, law: lognormalLaw(0.02) },
    { name: 'past' as const, law: null },
  ];
  const of = (isUnder: boolean, axis: 'price' | 'return') =>
    lawsFigure({ laws, forward: 100, price: 98, deviation: 0.1, isUnder, axis, tokens });
  it('as densities or as what lies under, by price or by return', () => {
    const density = traces(of(false, 'price').data);
    expect(density).toHaveLength(2);
    const [low, high] = lawsRange({ forward: 100, deviation: 0.1 });
    expect([density[0]!.x[0], density[0]!.x.at(-1)]).toEqual([expect.closeTo(low, 9), expect.closeTo(high, 9)]);
    const under = traces(of(true, 'return').data).at(-1)!;
    expect(under.y.at(-1)).toBeGreaterThan(99.8);
    expect(under.x[0]).toBeCloseTo(100 * (low / 98 - 1), 9);
  });
  it('let a law that hardly moves run out of the picture', () => {
    const [, top] = (of(false, 'price').layout.yaxis as { range: [number, number] }).range;
    const peak = lognormalLaw(0.1).density(-0.005);
    expect(top).toBeGreaterThan(peak);
    expect(top).toBeLessThan(2 * peak);
    expect(lawStyle('curve', tokens).dash).toBe('solid');
  });
});

describe('open contracts and the sold straddle', () => {
  it('rule the least, and the price', () => {
    const strikes = [90, 100, 110].map((strike) => ({ strike, callOpenInterest: 5, putOpenInterest: 7 }));
    const { strike, curve } = maxPain(strikes, 10);
    const figure = painFigure({ strikes, curve, strike, price: 97, tokens });
    expect((figure.layout.shapes as { x0: number }[]).map(({ x0 }) => x0)).toEqual([strike, 97]);
    expect(figure.table().rows).toHaveLength(3);
  });
  it('show where the hedge moves fast', () => {
    const points = [90, 100, 110].map((price) => ({
      price,
      delta: 0,
      gamma: -0.1,
      value: 5,
      hedge: (price - 100) / 20,
    }));
    const figure = hedgeFigure({ points, price: 101, levels: [95, 105], fast: { from: 96, to: 104 }, tokens });
    expect((figure.layout.shapes as { type: string }[]).map(({ type }) => type)).toEqual([
      'rect',
      'line',
      'line',
      'line',
    ]);
    expect(traces(figure.data)[0]!.y).toEqual([-0.5, 0, 0.5]);
  });
});
