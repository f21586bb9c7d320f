import { calendarById, exerciseBoundary, priceContract, sideReading, type Contract } from '@umwelt/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { resolveFocus } from '$lib/data/focus';
import { makeSnapshot, makeValued, TOKENS } from '$lib/testing/snapshot';
import { carryFigure, carryPoints } from './carry';
import { knownDividends } from '$lib/data/events';
import { contractsOf, gapOf, gapTable } from './gap';
import { boundaryFigure } from './inside';
import { Latest } from '$lib/data/latest';
import { mapTable, sweepMap, tints } from './sweep-map';
import { readValues, sweepFigure, sweepLines, usualValues, writeValues, type SweepPlan } from './sweep';
import {
  applyChanges,
  contractOf,
  fieldsOf,
  readChanges,
  readField,
  termsOfFocus,
  usualModel,
  writeChanges,
  writeField,
  FIELD_NAMES,
} from './terms';
import { figures } from '$lib/formats';
import { spanWords, workingLines } from '$lib/working/european';

const calendar = calendarById('MRX');
const { zone } = calendar;
const snapshot = makeSnapshot();
const shown = makeValued(snapshot);
const focus = resolveFocus(snapshot, { expiry: '2031-04-17', settlement: null, strike: 94, side: 'put' })!;
const terms = termsOfFocus(shown, focus, calendar, 100);

describe('the terms of the focus', () => {
  it('price to what the chain says', () => {
    const { price, delta } = priceContract(contractOf(terms, 'put'));
    const { put } = shown.values[focus.slice]!;
    expect(price).toBeCloseTo(put.theory[focus.index]!, 10);
    expect(delta).toBeCloseTo(put.delta[focus.index]!, 10);
    expect(terms.days).toBeCloseTo(35.0104, 4);
  });
  it('take the model of their kind', () => {
    const models = (['index', 'equity', 'future', 'fx'] as const).map((kind) =>
      usualModel({ kind, exercise: 'european' }),
    );
    expect(models).toEqual(['black-scholes-merton', 'black-scholes-merton', 'black-76', 'garman-kohlhagen']);
    expect(usualModel({ kind: 'etf', exercise: 'american' })).toBe('american');
    expect(fieldsOf('black-76')).not.toContain('yield');
    expect(fieldsOf('binomial')).toContain('steps');
    expect(contractOf({ ...terms, model: 'bachelier' }, 'call').vol).toBeCloseTo(terms.vol * terms.forward, 12);
  });
});

describe('fields', () => {
  it('what they write is read again as it was', () => {
    for (const name of FIELD_NAMES) {
      const text = writeField(name, { ...terms, dividends: [{ years: 0.1, amount: 1.25 }] }, zone);
      const read = readField(name, text, terms, zone);
      expect(read, name).toHaveProperty('value');
      const again = { ...terms, ...(read as { value: object }).value };
      expect(writeField(name, again, zone), name).toBe(text);
    }
  });
  it('say what is wrong, in the units that are typed', () => {
    const problem = (name: Parameters<typeof readField>[0], text: string) => readField(name, text, terms, zone);
    expect(problem('vol', '-1')).toEqual({ problem: 'must be from 0 to 4 000 %' });
    expect(problem('vol', 'twenty')).toEqual({ problem: 'must be a number' });
    expect(problem('strike', '0')).toEqual({ problem: 'must be more than 0' });
    expect(problem('strike', '1e')).toEqual({ problem: 'must be a number' });
    expect(problem('expires', 'soon')).toHaveProperty('problem');
    expect(problem('dividends', '40 1.20')).toEqual({ problem: '“40 1.20” is not days: amount, like 40: 1.20' });
    expect(problem('model', 'guess')).toHaveProperty('problem');
    expect(problem('strike', '−5')).toHaveProperty('problem');
    expect(readField('strike', '−5', { ...terms, model: 'bachelier' }, zone)).toEqual({ value: { strike: -5 } });
    expect(problem('rate', '4.5 %')).toEqual({ value: { rate: expect.closeTo(0.045, 12) } });
  });
  it('never throw, whatever is typed', () => {
    fc.assert(
      fc.property(fc.constantFrom(...FIELD_NAMES), fc.string(), (name, text) => {
        const read = readField(name, text, terms, zone);
        expect('value' in read || read.problem.length > 0).toBe(true);
      }),
      { seed: 41 },
    );
  });
});

describe('changes', () => {
  it('stand in the address and come back', () => {
    const changes = { vol: '25', days: '30', dividends: '40: 1.2, 131: 1.2' };
    expect(readChanges(writeChanges(changes))).toEqual(changes);
    expect(readChanges('vol=25;nothing=3;broken')).toEqual({ vol: '25' });
  });
  it('are put in one after the other; dates make days until days are typed', () => {
    const dated = applyChanges(terms, { expires: '2031-03-27 16:00' }, zone);
    expect(dated.terms.days).toBeCloseTo(14.0104, 4);
    expect(applyChanges(terms, { expires: '2031-03-27 16:00', days: '3' }, zone).terms.days).toBe(3);
    const wrong = applyChanges(terms, { vol: 'x', rate: '5', valued: '2032-01-01 10:00' }, zone);
    expect(wrong.problems).toEqual({ vol: 'must be a number', expires: 'is before the valuation' });
    expect(wrong.terms.vol).toBe(terms.vol);
    expect(wrong.terms.rate).toBe(0.05);
    expect(applyChanges(terms, { model: 'american' }, zone).terms.exercise).toBe('american');
  });
});

describe('curves', () => {
  const contract = contractOf(terms, 'put');
  const plan: SweepPlan = {
    along: 'price',
    output: 'price',
    by: 'years',
    values: usualValues(contract, 'years'),
    expiries: [],
  };
  it('over the lives of expiries lie by the days from now, each ending with its own', () => {
    const expiries = snapshot.slices.map(({ expiry, fit }) => ({
      expiry,
      years: fit.years,
      forward: fit.forward,
      yield: 0,
    }));
    const lines = sweepLines(contract, { ...plan, along: 'years', by: 'expiry', expiries });
    expect(lines.map(({ label }) => label)).toEqual(['27 Mar', '17 Apr', '19 Jun']);
    lines.forEach(({ x, request }, i) => {
      const whole = 365 * expiries[i]!.years;
      expect([x[0], x.at(-1)]).toEqual([0, whole]);
      expect(request.values[0]).toBeCloseTo(expiries[i]!.years, 12);
      expect(request.values.at(-1)! * 525_600).toBeCloseTo(1, 6);
    });
  });
  it('of both sides are the call and the put', () => {
    const lines = sweepLines(contract, { ...plan, by: 'side' });
    expect(lines.map(({ label, contract: { side } }) => [label, side])).toEqual([
      ['call', 'call'],
      ['put', 'put'],
    ]);
  });
  it('are drawn in the unit of the screen, with a table', () => {
    const lines = sweepLines(contract, plan);
    const curves = lines.map(({ x }) => x.map((spot) => Math.max(0, 94 - spot)));
    const figure = sweepFigure(contract, plan, { lines, curves, factor: 100 }, TOKENS);
    expect(figure.data).toHaveLength(3);
    const { rows } = figure.table();
    expect(rows).toHaveLength(3 * 61);
    expect(rows[0]![2]).toBeCloseTo(100 * (94 - (rows[0]![0] as number)), 9);
  });
  it('values are typed in the units of the fields', () => {
    expect(readValues('20, 25; 30 %', 'vol')).toEqual([0.2, 0.25, 0.3]);
    expect(readValues('10,x', 'vol')).toBeNull();
    expect(readValues('', 'vol')).toBeNull();
    expect(readValues(writeValues([0.1, 0.2], 'years'), 'years')).toEqual([
      expect.closeTo(0.1, 5),
      expect.closeTo(0.2, 5),
    ]);
  });
});

describe('a map', () => {
  it('has the contract in its middle, and is tinted from its least to its most', () => {
    const contract = contractOf(terms, 'put');
    const map = sweepMap(contract, 'price', 'vol', 'price');
    expect(map.columns[4]).toBe(contract.spot);
    expect(map.rows[4]).toBe(contract.vol);
    const curves = map.lines.map(({ contract: row, request }) =>
      request.values.map((spot) => priceContract({ ...row, spot }).price),
    );
    expect(curves[4]![4]).toBeCloseTo(priceContract(contract).price, 12);
    const strength = tints(curves);
    expect([Math.min(...strength.flat()), Math.max(...strength.flat())]).toEqual([0, 1]);
    expect(strength[8]![0]).toBe(1);
    const { rows } = mapTable(map, curves, contract, 'price', 100);
    expect(rows).toHaveLength(81);
    expect(rows[40]).toEqual([contract.vol, contract.spot, expect.closeTo(100 * curves[4]![4]!, 9)]);
    const times = sweepMap(contract, 'vol', 'years', 'theta').rows;
    expect([times[0], times.at(-1)]).toEqual([contract.years, expect.closeTo(contract.years / 9, 12)]);
  });
});

describe('the working', () => {
  const sides = (contract: Contract) => ({
    call: sideReading({ ...contract, side: 'call' }),
    put: sideReading({ ...contract, side: 'put' }),
  });
  const line = (contract: Contract, start: string) =>
    workingLines(contract, sides(contract), {}).find(({ tex }) => tex.startsWith(start))!.tex;
  const last = (tex: string) => Number(/= (-?[\d.]+)$/.exec(tex)![1]);
  it('ends in the prices of the screen', () => {
    const contract = contractOf(terms, 'put');
    expect(last(line(contract, 'C ='))).toBeCloseTo(sides(contract).call.price, 6);
    expect(last(line(contract, 'P ='))).toBeCloseTo(sides(contract).put.price, 6);
    expect(last(line(contract, 'd_2'))).toBeCloseTo(last(line(contract, 'd_1')) - last(line(contract, 's =')), 6);
    const parity = /C - P = (-?[\d.]+),.* = (-?[\d.]+)$/.exec(line(contract, 'C - P'))!;
    expect(Number(parity[1])).toBeCloseTo(Number(parity[2]), 6);
  });
  it('of early exercise adds it, of the tree too; of the normal model has its own', () => {
    const american: Contract = {
      model: 'american',
      side: 'put',
      spot: 90,
      strike: 100,
      years: 1,
      rate: 0.06,
      vol: 0.2,
    };
    expect(last(line(american, 'P_{'))).toBeCloseTo(sides(american).put.price, 6);
    const tree: Contract = { ...american, model: 'binomial', dividends: [{ years: 0.5, amount: 2 }] };
    expect(last(line(tree, 'C_{'))).toBeCloseTo(sides(tree).call.price, 6);
    expect(last(line(tree, 'S^*'))).toBeCloseTo(90 - 2 * Math.exp(-0.03), 6);
    const normal: Contract = { model: 'bachelier', side: 'call', forward: -1, strike: 1, years: 1, rate: 0, vol: 2 };
    expect(last(line(normal, 'd ='))).toBe(-1);
    expect(workingLines({ ...american, years: 0 }, sides({ ...american, years: 0 }), {}).at(-1)!.tex).toContain('P_{');
  });
  it('counts time in words', () => {
    expect(spanWords((41 * 1440 + 240) / 525_600)).toBe('41 days and 4 hours');
    expect(spanWords(15 / 525_600)).toBe('15 minutes');
    expect(spanWords(0)).toBe('0 minutes');
    expect(spanWords((1440 + 61) / 525_600)).toBe('1 day, 1 hour and 1 minute');
  });
  it('draws the boundary on the far side of the price', () => {
    const put: Contract = { model: 'american', side: 'put', spot: 100, strike: 100, years: 1, rate: 0.06, vol: 0.2 };
    const points = exerciseBoundary(put);
    expect(points[0]!.years).toBe(1);
    expect(points.at(-1)).toEqual({ years: 0, price: 100 });
    points.slice(1).forEach(({ price }, i) => expect(price).toBeGreaterThan(points[i]!.price - 1e-9));
    // At the boundary the contract is worth what exercising it earns.
    const { price } = points[0]!;
    expect(priceContract({ ...put, spot: price }).price).toBeCloseTo(100 - price, 5);
    expect(boundaryFigure(put, points, TOKENS).table().rows).toHaveLength(points.length);
    const call = exerciseBoundary({ ...put, side: 'call', yield: 0.08 });
    expect(call[0]!.price).toBeGreaterThan(100);
    expect(exerciseBoundary({ ...put, side: 'call' })).toEqual([]);
  });
});

describe('theory against market', () => {
  const events = [
    { date: '2031-04-02', start: null, title: 'Dividend', kind: 'dividend cash', amount: 0.8 },
    { date: '2031-08-02', start: null, title: 'Dividend', kind: 'dividend cash', amount: 0.8 },
    { date: '2031-04-03', start: null, title: 'Results', kind: 'results', amount: null },
  ];
  it('knows the dividends that lie within a life, but none that contracts are adjusted for', () => {
    const on = (kind: string, amount: number) => ({ date: '2031-04-02', start: null, title: 'Dividend', kind, amount });
    const life = { valued: Date.parse('2031-03-13T16:45:00Z'), expires: Date.parse('2031-04-17T17:00:00Z') };
    const known = (all: Parameters<typeof knownDividends>[0]) => knownDividends(all, life, calendar);
    expect(known(events).map(({ amount }) => amount)).toEqual([0.8]);
    expect(known([on('dividend special', 3.2), on('dividend split', 2)])).toEqual([]);
  });
  it('its own vol explains the whole gap, and the reasons in turn add up to it', () => {
    const level = makeValued(snapshot, 'level');
    const gap = gapOf(level, focus, termsOfFocus(level, focus, calendar, 100), events, calendar)!;
    const prices = contractsOf(gap).map((contract) => priceContract(contract).price);
    const { rows } = gapTable(gap, prices, 100);
    const own = rows.find(([name]) => name === 'its own vol')!;
    expect(own[4]).toBeCloseTo(1, 6);
    const mid = rows.at(-1)!;
    expect(mid[2]).toBeCloseTo(100 * gap.mid, 9);
    const inTurn = rows.slice(1, -1).map((row) => row[5] as number);
    expect(inTurn.reduce((sum, step) => sum + step, 0)).toBeCloseTo(mid[3] as number, 9);
    // The first of them stands upon nothing: alone and in turn are the same.
    expect(inTurn[0]).toBeCloseTo(rows[1]![3] as number, 9);
    expect(rows.map(([name]) => name)).toContain('dividends as cash');
  });
  it('counts the dividends of its life alone, and asks nothing of what has no quote', () => {
    expect(knownDividends(events, terms, calendar)).toEqual([{ years: expect.closeTo(19.74 / 365, 3), amount: 0.8 }]);
    const faulty = makeSnapshot();
    faulty.slices[1]!.put.bid[3] = faulty.slices[1]!.put.ask[3] = NaN;
    expect(gapOf(makeValued(faulty), focus, terms, events, calendar)).toBeNull();
  });
});

describe('carry', () => {
  it('is the yield between price and forward; known dividends leave the borrow', () => {
    const { price, slices } = snapshot;
    const points = carryPoints(snapshot, [], calendar);
    expect(points).toHaveLength(3);
    points.forEach((point, i) => {
      const { fit } = slices[i]!;
      expect(price * Math.exp((fit.rate - point.impliedYield) * fit.years)).toBeCloseTo(fit.forward, 9);
      expect(point.borrow).toBeCloseTo(point.impliedYield, 12);
    });
    const dividend = { date: '2031-04-02', start: null, title: 'Dividend', kind: 'dividend cash', amount: 0.8 };
    const [near, next] = carryPoints(snapshot, [dividend], calendar);
    expect(near!.borrow).toBeCloseTo(points[0]!.borrow, 12);
    expect(next!.borrow).toBeCloseTo(next!.impliedYield - 0.008 / slices[1]!.fit.years, 3);
    expect(carryFigure([near!, next!], TOKENS).data).toHaveLength(3);
    expect(carryFigure(points, TOKENS).table().rows).toHaveLength(3);
    expect(carryPoints({ ...snapshot, kind: 'future' }, [], calendar)).toEqual([]);
  });
});

describe('questions to the worker', () => {
  it('one at a time, and of those that came meanwhile the newest', async () => {
    const asked: number[] = [];
    const taken: number[] = [];
    const waiting: (() => void)[] = [];
    const latest = new Latest<number>(
      (answer) => taken.push(answer),
      () => undefined,
    );
    const question = (n: number) => () => {
      asked.push(n);
      return new Promise<number>((resolve) => waiting.push(() => resolve(n)));
    };
    for (const n of [1, 2, 3]) latest.ask(question(n));
    waiting.shift()!();
    await new Promise((resolve) => setImmediate(resolve));
    waiting.shift()!();
    await new Promise((resolve) => setImmediate(resolve));
    expect([asked, taken]).toEqual([[1, 3], [3]]);
  });
  it('none any more, and no answer, once it has been stopped', async () => {
    const taken: number[] = [];
    let answer: () => void = () => undefined;
    const latest = new Latest<number>(
      (one) => taken.push(one),
      () => undefined,
    );
    latest.ask(() => new Promise((resolve) => (answer = () => resolve(1))));
    latest.stop();
    latest.ask(() => Promise.resolve(2));
    answer();
    await new Promise((resolve) => setImmediate(resolve));
    expect(taken).toEqual([]);
  });
  it('a failure is told, and the next question is asked', async () => {
    const problems: string[] = [];
    const latest = new Latest<number>(
      () => undefined,
      (problem) => problems.push(problem),
    );
    latest.ask(() => Promise.reject(new Error('no such contract')));
    await new Promise((resolve) => setImmediate(resolve));
    latest.ask(() => Promise.reject(new Error('nor this')));
    await new Promise((resolve) => setImmediate(resolve));
    expect(problems).toEqual(['no such contract', 'nor this']);
  });
});

describe('figures', () => {
  it('have so many digits that something is seen', () => {
    expect([
      figures.significant(0.000031516, 4),
      figures.significant(82.4872, 4),
      figures.significant(0),
      figures.significant(NaN),
    ]).toEqual(['0.00003152', '82.49', '0', '–']);
  });
});
