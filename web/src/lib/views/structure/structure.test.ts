import { impliedColumns, placeLegs, writtenOn, type Side } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { evaluateLegs, type StructureRequest } from '$lib/data/structure';
import type { Tokens } from '$lib/state';
import { EXPIRIES, makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { datesOf, expiriesOf, oddsAddress, scenarioOf } from './asked';
import { factsOf } from './facts';
import { PARAMS } from './params';
import { factsWork } from './work';
import { legsFigure, mapFigure, volFigure } from './charts/others';
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
    ...{
      others: [],
      held: 0,
      fill: 'mid',
      fee: 0,
      basis: 'curve',
      scenario: {},
      move: 0,
      ends: [0, 0],
      hasEvens: false,
      events: [],
      dividends: [],
      along: 'price',
      hasLegs: true,
      hasHalf: false,
      tied: 0,
    },
    moments: [0, 0.05, snapshot.slices[1]!.fit.years],
    depth: 'first',
    ...more,
  };
  return evaluateLegs(snapshot, vols, request, terms, 'mid');
}

describe('legs in hand', () => {
  it('come to what their mids and their limits say; past moves stand beside as twenty dots', () => {
    const { evaluation, x: prices, curves, legCurves } = answerOf(condor);
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
    // What legs gain alone is what they gain together.
    const last = curves[2]!.pnl;
    for (const [i, pnl] of last.entries())
      expect(legCurves.reduce((sum, one) => sum + one[i]!, 0)).toBeCloseTo(pnl, 12);
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
  const { x: prices, curves, legCurves, evaluation } = answerOf(condor);
  const middle = prices.findIndex((price) => price >= snapshot.price);
  const named: NamedCurve[] = [
    { name: 'today', role: 'now', columns: curves[0]! },
    { name: 'on the way', role: 'third', columns: curves[1]! },
    { name: 'expiry', role: 'horizon', columns: curves[2]! },
  ];
  const input = {
    x: prices,
    curves: named,
    times: 100,
    digits: 0,
    spot: 100,
    price: 100,
    breakEvens: evaluation.profile.breakEvens,
    evens: [],
    trace: [],
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
  it('the price of the scenario stands beside the price as it is, and break-evens of its date with their way', () => {
    const elapsed = 0.5 * snapshot.slices[1]!.fit.years;
    const moved = answerOf(condor, { scenario: { elapsed }, move: 0.02, hasEvens: true, moments: [elapsed] });
    expect([moved.spot, moved.price]).toEqual([snapshot.price, snapshot.price * 1.02]);
    expect(moved.evens).toHaveLength(2);
    // On that date the condor is worth what was taken in for it at either.
    const at = moved.evens.map((price) =>
      answerOf(condor, { scenario: { elapsed }, move: price / snapshot.price - 1 }),
    );
    for (const one of at) expect(one.evaluation.values.value).toBeCloseTo(moved.evaluation.entry, 7);
    const { spot, price, evens } = moved;
    const figure = profileFigure({ ...input, quantity: 'profit', spot, price, evens, trace: [95, 96, ...evens] });
    const dots = figure.data.filter((trace) => trace.type === 'scatter' && trace.mode === 'markers');
    expect(dots.map((trace) => (trace as { x: number[] }).x)).toEqual([[95, 96, ...evens], evens]);
    expect(figure.layout.shapes).toHaveLength(5);
  });
  it('a leg counts from what it was entered at where that is said', () => {
    const [sold, ...others] = placeLegs(snapshot, condor)!;
    const mid = answerOf(condor).evaluation;
    const typed = answerOf(condor, { legs: [{ ...sold!, entry: 3 }, ...others] }).evaluation;
    expect(typed.legs[0]!).toMatchObject({ entry: 3, enteredBy: 'typed' });
    expect(typed.entry).toBeCloseTo(mid.entry + sold!.quantity * (3 - mid.legs[0]!.entry), 12);
    expect(typed.cost).toEqual(mid.cost);
  });
  it('prices go between the ends that are wanted; ends that make no sense are not taken', () => {
    const endsOf = (ends: readonly [number, number]) => {
      const { x } = answerOf(condor, { ends });
      return [x[0], x.at(-1)];
    };
    const usual = endsOf([0, 0]);
    expect(endsOf([90, 130])).toEqual([90, 130]);
    expect(endsOf([90, 0])).toEqual([90, usual[1]]);
    expect(endsOf([130, 90])).toEqual(usual);
  });
  it('draws what stands beside along the same prices, nothing where it is not told', () => {
    const beside = answerOf([leg('call', 104, 1)], { moments: [0, snapshot.slices[1]!.fit.years] });
    const before = {
      x: beside.x,
      curves: [
        { name: 'today', role: 'now' as const, columns: beside.curves[0]! },
        { name: 'expiry', role: 'horizon' as const, columns: beside.curves[1]! },
      ],
    };
    const figure = profileFigure({ ...input, quantity: 'profit', before });
    const lines = figure.data.filter((trace) => trace.type === 'scatter' && trace.mode === 'lines') as {
      y: number[];
      name: string;
    }[];
    expect(lines.map(({ name }) => name).slice(0, 2)).toEqual(['today, beside', 'expiry, beside']);
    const [at] = [prices.indexOf(104)];
    expect(lines[1]!.y[at]).toBeCloseTo(-100 * beside.evaluation.entry, 9);
  });
  it('along the vol the axis tells where a month stands; what is sold loses as vol rises', () => {
    const byVol = answerOf(condor, { along: 'vol', moments: [0] });
    expect([...byVol.x].filter((shift) => Math.abs(shift) < 1e-12)).toEqual([0]);
    const level = { now: 0.2, low: 0.15, high: 0.3 };
    const figure = volFigure({
      ...input,
      ...byVol,
      curves: [{ ...named[0]!, columns: byVol.curves[0]! }],
      quantity: 'profit',
      level,
    });
    const [line] = figure.data as { x: number[]; y: number[] }[];
    const now = line!.x.findIndex((at) => Math.abs(at - 20) < 1e-9);
    const { values, entry } = evaluation;
    expect(line!.y[now]).toBeCloseTo(100 * (values.value - entry), 9);
    expect(line!.y[now + 2]!).toBeLessThan(line!.y[now]!);
    expect((line!.y[now + 1]! - line!.y[now - 1]!) / 100).toBeCloseTo(values.vega, 4);
    expect(figure.layout.shapes![0]).toMatchObject({ x0: 15, x1: 30 });
  });
  it('legs alone sum to what they are together', () => {
    const legs = legCurves.map((pnl, i) => ({ name: `leg ${i}`, isBought: condor[i]!.quantity > 0, pnl }));
    const { rows } = legsFigure({ ...input, quantity: 'profit', legs }).table();
    for (const [, ...values] of rows as number[][])
      expect(values.slice(0, 4).reduce((sum, value) => sum + value, 0)).toBeCloseTo(values[4]!, 9);
  });
  it('a map has a row for each date, from now to the first expiry', () => {
    const { years } = snapshot.slices[1]!.fit;
    const moments = [0, 0.5 * years, years];
    const mapped = answerOf(condor, { moments });
    const figure = mapFigure({
      ...{ ...input, x: mapped.x, quantity: 'profit', days: moments.map((one) => 365 * one) },
      curves: mapped.curves.map((columns) => ({ name: '', role: 'now', columns })),
    });
    const [heat] = figure.data as unknown as { z: number[][]; y: number[] }[];
    expect(heat!.z.map(({ length }) => length)).toEqual(Array(3).fill(mapped.x.length));
    expect(heat!.z[2]![mapped.x.indexOf(96)]).toBeCloseTo(-100 * evaluation.entry, 9);
    expect(figure.table().rows).toHaveLength(3 * mapped.x.length);
  });
  it('draws a Greek without grounds', () => {
    const figure = profileFigure({ ...input, quantity: 'vega' });
    expect(figure.data.filter((trace) => trace.type === 'scatter' && trace.fill)).toHaveLength(0);
    expect((figure.data[0] as { y: number[] }).y[middle]).toBeCloseTo(100 * evaluation.values.vega, 6);
  });
});

describe('what is asked', () => {
  it('dates are thirds unless others are wanted; two stand between now and the expiry, always', () => {
    const days = (own: number[]) => datesOf(own, 30 / 365).map((years) => Math.round(365 * years));
    expect(days([])).toEqual([0, 10, 20, 30]);
    expect(days([3, 5])).toEqual([0, 3, 5, 30]);
    expect(days([15])).toEqual([0, 10, 15, 30]);
    // What is not before the first expiry is none.
    expect(days([30, 90])).toEqual([0, 10, 20, 30]);
  });
  it('shifts of single expiries go by the years to them', () => {
    const legs = placeLegs(snapshot, [leg('call', 100, -1), leg('call', 100, 1, EXPIRIES[2])])!;
    const expiries = expiriesOf(
      legs,
      legs.map(({ slice }) => snapshot.slices[slice]!.fit.years),
    );
    expect(expiries.map(({ expiry }) => expiry)).toEqual([EXPIRIES[1], EXPIRIES[2]]);
    const params = { ...PARAMS.start, volShifts: { [expiries[1]!.name]: 2 }, ratePoints: 1 };
    const { volShifts, rateShift } = scenarioOf(params, 0, expiries);
    expect([...volShifts!]).toEqual([
      [expiries[0]!.years, 0],
      [expiries[1]!.years, 0.02],
    ]);
    expect(rateShift).toBe(0.01);
  });
  it('levels go to Odds beside what the address says', () => {
    const query = new URL(oddsAddress('?symbol=MRX40&levels=1', [3924.654, 4425.35], 2), 'http://x').searchParams;
    expect(Object.fromEntries(query)).toEqual({
      ...{ symbol: 'MRX40', left: 'zones', zones: 'typed', levels: '3924.65,4425.35' },
    });
  });
});

describe('the facts of a structure', () => {
  const answer = answerOf(condor);
  const { evaluation } = answer;
  const request = { legs: placeLegs(snapshot, condor)!, held: 0 } as unknown as StructureRequest;
  const written = { times: 100, digits: 0, decimals: 2 };
  it('have a working each, which ends with what stands there', () => {
    const { lines, at } = factsWork({ request, answer, times: 100, symbol: 'X' }, 'value');
    expect(at).toBe('value');
    for (const { name } of factsOf(written))
      expect(
        lines.map(({ key }) => key),
        name,
      ).toContain(name);
    const lineOf = (key: string) => lines.find((line) => line.key === key)!.tex;
    expect(lineOf('most to gain')).toContain(`${Number((-100 * evaluation.entry).toPrecision(8))}`);
    expect(lineOf('value').split('= ').at(-1)).toBe(`${Number((100 * evaluation.values.value).toPrecision(8))}`);
    // The width of the condor is 4.
    expect(lineOf('cost of the width')).toContain(`= ${Number((-evaluation.entry / 4).toPrecision(8))}`);
    expect(lineOf('delta')).toContain(`= ${Number((100 * evaluation.values.delta).toPrecision(8))}`);
  });
  it('know how likely half of the most is on the way, where that is asked', () => {
    const told = (found: typeof evaluation) =>
      factsOf(written)
        .find(({ name }) => name === 'half of it on the way')!
        .text(found);
    expect(told(evaluation)).toBe('…');
    const { half } = answerOf(condor, { hasHalf: true }).evaluation;
    for (const { basis, probability, error } of half!) {
      expect(probability, basis).toBeGreaterThan(0);
      expect(error, basis).toBeLessThan(0.1);
    }
    expect(half!.map(({ basis }) => basis)).toEqual(expect.arrayContaining(['level', 'past']));
    expect(told({ ...evaluation, half: half! })).toMatch(/^[\d.]+ % \/ [\d.]+ %$/);
    expect(told(answerOf([leg('call', 104, 1)], { hasHalf: true }).evaluation)).toBe('–');
  });
  it('say nothing of what has no end, and of what has no delta', () => {
    const told = (name: string, found: typeof evaluation) =>
      factsOf(written)
        .find((one) => one.name === name)!
        .text(found);
    const call = answerOf([leg('call', 104, 1)]).evaluation;
    expect(told('most to gain', call)).toBe('no end');
    expect(told('return on risk', call)).toBe('–');
    expect(told('cost of the width', call)).toBe('–');
    expect(told('cost per delta', { ...call, values: { ...call.values, delta: 0.01 } })).toBe('–');
    expect(told('return on risk', evaluation)).toMatch(/ %, [\d\u2009.]+ % a year$/);
    // An iron condor keeps the most between its sold strikes only.
    const sold = oddsOf(evaluation, 'curve')!;
    expect(sold.mostProfit).toBeLessThan(sold.profit);
  });
});
