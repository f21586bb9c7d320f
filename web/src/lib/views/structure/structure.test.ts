import { impliedColumns, placeLegs, writtenOn, type Side } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { evaluateLegs, type StructureRequest } from '$lib/data/structure';
import type { Tokens } from '$lib/state';
import { EXPIRIES, makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { profileFigure, type NamedCurve } from './charts/profile';
import { oddsOf, structureSentence } from './words';

const snapshot = makeSnapshot();
const shown = makeValued(snapshot);
const on = writtenOn(snapshot, snapshot);
const vols = snapshot.slices.map(({ strike, fit, call, put }) => ({
  call: impliedColumns(strike, call, fit, 1, on),
  put: impliedColumns(strike, put, fit, -1, on),
}));
const close = Float64Array.from({ length: 300 }, (_, i) => 100 * Math.exp(0.02 * Math.sin(i * 1.7) + 0.0003 * i));
const bars = { close, high: close.map((value) => value * 1.004), low: close.map((value) => value * 0.996) };
const terms = { ...shown.terms, usualPast: { bars, sampling: 'stretches', drift: 'forward' } } as const;

const leg = (side: Side, strike: number, quantity: number, expiry = EXPIRIES[1] as string) =>
  ({ symbol: snapshot.symbol, expiry, settlement: 'pm', strike, side, quantity }) as const;
const condor = [leg('put', 92, 1), leg('put', 96, -1), leg('call', 104, -1), leg('call', 108, 1)];

function answerOf(legs: readonly ReturnType<typeof leg>[], more: Partial<StructureRequest> = {}) {
  const request: StructureRequest = {
    legs: placeLegs(snapshot, legs)!,
    ...{ fill: 'mid', basis: 'curve', scenario: {}, events: [], dividends: [] },
    moments: [0, 0.05, snapshot.slices[1]!.fit.years],
    depth: 'first',
    ...more,
  };
  return evaluateLegs(snapshot, vols, request, terms, 'mid');
}

describe('legs in hand', () => {
  it('come to what their mids and their limits say; past moves stand beside as twenty dots', () => {
    const { evaluation, prices, curves } = answerOf(condor);
    const { dots } = evaluation;
    const mid = (one: ReturnType<typeof leg>) => {
      const slice = snapshot.slices.find(({ expiry }) => expiry === one.expiry)!;
      const at = slice.strike.indexOf(one.strike);
      return 0.5 * (slice[one.side].bid[at]! + slice[one.side].ask[at]!);
    };
    const cost = condor.reduce((sum, one) => sum + one.quantity * mid(one), 0);
    expect(evaluation.entry).toBeCloseTo(cost, 12);
    expect(evaluation.profile.maxProfit).toBeCloseTo(-cost, 12);
    expect(evaluation.profile.maxLoss).toBeCloseTo(4 + cost, 12);
    expect(answerOf(condor, { depth: 'values' }).curves[1]!.pnl).toEqual(curves[1]!.pnl);
    // Even steps, and the strikes.
    expect([prices, ...curves.map(({ pnl }) => pnl)].map(({ length }) => length)).toEqual([125, 125, 125, 125]);
    for (const { strike } of condor) expect(prices).toContain(strike);
    expect(dots).toHaveLength(20);
    const share = dots.filter(({ profit }) => profit > 0).length / 20;
    expect(Math.abs(share - oddsOf(evaluation, 'past')!.profit)).toBeLessThanOrEqual(0.05);
    for (const { price, profit } of dots) {
      expect(profit > 0).toBe(price > 96 + cost && price < 104 - cost);
    }
  });
  it('in a scenario move, and cost what they cost', () => {
    const still = answerOf(condor).evaluation;
    const { evaluation } = answerOf(condor, { scenario: { volShift: 0.03 } });
    expect(evaluation.values.value - still.values.value).toBeCloseTo(0.03 * 100 * still.values.vega, 1);
    expect(evaluation.cost).toEqual(still.cost);
  });
  it('are known by an announcement before their expiry alone', () => {
    const during = { elapsed: 0.03 };
    const at = (events: number[]) => answerOf(condor, { scenario: during, events }).evaluation.values.value;
    expect(at([3])).toBe(at([]));
  });
});

describe('in words', () => {
  const money = { times: 100, digits: 0, decimals: 2 };
  it('a structure takes in, risks, and gains between its break-evens', () => {
    const { evaluation } = answerOf(condor);
    const { lead, rest } = structureSentence(evaluation, money);
    expect(lead).toMatch(/^Takes in \d+ and risks \d+:$/);
    expect(rest).toMatch(
      /^gains 9\d\.\d\d … 10\d\.\d\d \(\d+ % by the curve, \d+ % by past moves\); a point of vol costs \d/,
    );
  });
  it('one that is bought costs; one that is sold bare loses without an end', () => {
    expect(structureSentence(answerOf([leg('call', 100, 1)]).evaluation, money).lead).toMatch(
      /^Costs \d+ and risks \d+:$/,
    );
    const bare = structureSentence(answerOf([leg('call', 104, -1)]).evaluation, money);
    expect(bare.lead).toMatch(/loses without an end \(\d[\d\u2009]* in the worst cell of the stress\)/);
    expect(bare.rest).toMatch(/^gains under 10\d\.\d\d/);
  });
});

describe('the profile', () => {
  const tokens = {
    depths: ['a', 'b', 'c', 'd', 'e', 'f', 'g'],
    gain: 'G',
    loss: 'L',
    focus: 'F',
    ink: 'I',
  } as unknown as Tokens;
  const { prices, curves, evaluation } = answerOf(condor);
  const middle = prices.findIndex((price) => price >= snapshot.price);
  const named: NamedCurve[] = [
    { name: 'today', role: 'now', columns: curves[0]! },
    { name: 'on the way', role: 'third', columns: curves[1]! },
    { name: 'expiry', role: 'horizon', columns: curves[2]! },
  ];
  const input = {
    prices,
    curves: named,
    times: 100,
    digits: 0,
    price: 100,
    breakEvens: evaluation.profile.breakEvens,
    strikes: [96],
    decimals: 2,
    tokens,
  };

  it('draws a curve a date over gains and losses, and the same as a table', () => {
    const figure = profileFigure({ ...input, quantity: 'profit' });
    const lines = figure.data.filter((trace) => trace.type === 'scatter' && trace.mode === 'lines') as {
      y: number[];
      name: string;
    }[];
    expect(lines.map(({ name }) => name)).toEqual(['today', 'on the way', 'expiry']);
    expect(lines[2]!.y[middle]).toBeCloseTo(-100 * evaluation.entry, 9);
    const [gains, losses] = figure.data as { y: number[] }[];
    expect(gains!.y.every((value) => value >= 0) && losses!.y.every((value) => value <= 0)).toBe(true);
    const table = figure.table();
    expect(table.rows[middle]).toEqual([prices[middle], ...lines.map(({ y }) => y[middle])]);
    expect(figure.layout.shapes).toHaveLength(4);
  });
  it('draws a Greek without grounds', () => {
    const figure = profileFigure({ ...input, quantity: 'vega' });
    expect(figure.data).toHaveLength(3);
    expect((figure.data[0] as { y: number[] }).y[middle]).toBeCloseTo(100 * evaluation.values.vega, 6);
  });
});
