import { describe, expect, it } from 'vitest';
import { heldLegOf, type BookLeg, type Explained, type Replay } from '$lib/book/books';
import { noParts, riskTree } from '@umwelt/core';
import { explainedSentence, familiesOf, ofFamily, stepsOf } from './explain';
import { numeraireOf, partRows } from './parts';
import { livedSentence, plotOf } from './replay';
import { sparkOf } from './spark';

const leg = (more: Partial<BookLeg>): BookLeg => ({
  ...{ position: 1, symbol: 'MRX40', expiry: '2031-04-17', settlement: 'pm', strike: 4000, side: 'put' },
  ...{ kind: 'index', exercise: 'european', family: 'MRX40', ratio: 1, beta: null, quantity: -2, multiplier: 10 },
  ...{ exchange: 1, entry: 30, price: 4200, bid: 25, ask: 27, mid: 26, theory: 26.1, vol: 0.2, days: 35 },
  ...{ delta: -0.2, gamma: 0.001, theta: -1, vega: 4, rho: -2, vanna: 0, volga: 0, charm: 0, veta: 0 },
  ...{ value: -520, sinceEntry: 80, sinceClose: 5, sinceGhost: 12, byCurve: false, missing: null },
  ...more,
});

describe('parts of a book', () => {
  const legs = [
    leg({}),
    leg({ symbol: 'MERI', ratio: 0.1, price: 420, multiplier: 100, quantity: 3, delta: -0.5 }),
    leg({
      symbol: 'CAIR',
      family: 'CAIR',
      price: 112,
      multiplier: 100,
      quantity: 0,
      value: 0,
      sinceClose: 0,
      sinceGhost: 0,
    }),
  ].map(heldLegOf);
  const tree = riskTree(legs, ['family', 'underlying'], null);
  it('what was over before is no line; what is opened shows its parts', () => {
    expect(partRows(tree, []).map(({ node }) => node.name)).toEqual(['MRX40']);
    expect(partRows(tree, ['/MRX40']).map(({ node, depth }) => [node.name, depth])).toEqual([
      ['MRX40', 0],
      ['MERI', 1],
      ['MRX40', 1],
    ]);
  });
  it('the fund in the price of the index: a tenth of it', () => {
    const told = riskTree(legs, ['family', 'underlying'], numeraireOf(legs, 'MRX40', null));
    const fund = told.parts.find(({ name }) => name === 'MRX40')!.parts[0]!;
    expect(fund.sums.delta).toBeCloseTo(300 * -0.5 * 0.1 * 4200, 9);
    // By betas each moves by its own price times that.
    const beta = riskTree(
      [heldLegOf(leg({ symbol: 'CAIR', price: 112, beta: 1.5 }))],
      [],
      numeraireOf(legs, null, 'MRX40'),
    );
    expect(beta.sums.delta).toBeCloseTo(-20 * -0.2 * 112 * 1.5, 9);
    expect(numeraireOf(legs, 'NONE', null)).toBeNull();
  });
  it('what is not known has no Greeks', () => {
    const held = heldLegOf(leg({ missing: 'no quotes', value: null, delta: null }));
    expect(held.mark).toBeNull();
    expect(riskTree([held], [], null)).toMatchObject({ missing: 1, sums: { value: 0 } });
  });
});

const explained = (more: Partial<Explained>): Explained => ({
  ...{ from: '2031-02-27T16:45:00Z', to: '2031-03-13T16:45:00Z', change: 1000, rest: -20, missing: 0 },
  parts: [
    { name: 'price', inTurn: -400, byGreeks: -390 },
    { name: 'time', inTurn: 900, byGreeks: 880 },
    { name: 'level', inTurn: 520, byGreeks: 540 },
  ],
  byGreeks: { delta: -300, gamma: -90, cross: 10, rest: -40 },
  positions: [
    { id: 1, change: 1400, parts: noParts() },
    { id: 2, change: -400, parts: noParts() },
  ],
  ...{ legs: [], stretches: [], ...more },
});

describe('what did it', () => {
  it('each part goes on where the one before has come to, and the last comes to the change', () => {
    for (const method of ['turn', 'greeks'] as const) {
      const steps = stepsOf(explained({}), method);
      steps.slice(1).forEach(({ from }, i) => expect(from).toBe(steps[i]!.to));
      expect(steps.at(-1)!.to).toBeCloseTo(1000, 9);
    }
    expect(stepsOf(explained({}), 'turn').map(({ key, amount }) => [key, amount])).toEqual([
      ['delta', -300],
      ['gamma', -100],
      ['time', 900],
      ['level', 520],
      ['rest', -20],
    ]);
  });
  it('of one family alone: the sums of its legs', () => {
    const told = (family: string, position: number, change: number): Explained['legs'][number] => ({
      ...{
        position,
        symbol: family,
        expiry: null,
        settlement: null,
        strike: null,
        side: null,
        quantity: 1,
        family,
        change,
      },
      ...{ parts: { ...noParts(), price: change + 5, rest: -5 }, byGreeks: { ...noParts(), price: change, rest: -1 } },
      ...{ delta: change, gamma: 0, cross: 1 },
    });
    const whole = explained({ legs: [told('A', 1, 100), told('A', 1, 20), told('B', 2, -7)] });
    expect(familiesOf(whole)).toEqual(['A', 'B']);
    const own = ofFamily(whole, 'A');
    expect(own).toMatchObject({ change: 120, rest: -10, byGreeks: { delta: 120, cross: 2, rest: -2 } });
    expect(own.positions.map(({ id }) => id)).toEqual([1]);
    for (const method of ['turn', 'greeks'] as const) expect(stepsOf(own, method).at(-1)!.to).toBeCloseTo(120, 9);
  });
  it('in a sentence, the largest first', () => {
    const nameOf = (id: number) => ['', 'one', 'other'][id]!;
    const { lead, rest } = explainedSentence(explained({}), 'The book', '27 Feb', nameOf);
    expect(lead.replace(/\u2009/g, ' ')).toBe('The book gained 1 000 since 27 Feb:');
    expect(rest.replace(/\u2009/g, ' ')).toBe(
      'time gave 900, the change of vols gave 520 and moves of the price took 400. one brought 1 400, other cost 400.',
    );
    const still = explained({ change: 0, parts: [], positions: [] });
    expect(explainedSentence(still, 'The book', '27 Feb', nameOf).rest).toBe('nothing has moved.');
  });
});

describe('pictures', () => {
  it('a small one of profits has gains over nothing and losses under it', () => {
    const spark = sparkOf([null, -10, 10], 80, 16)!;
    expect(spark.zero).toBe(8);
    expect(spark.line).toBe('M40.0 15.0L80.0 1.0');
    expect(spark.gains).toContain('L40.0 8.0');
    expect(sparkOf([null, 3], 80, 16)).toBeNull();
  });
  const rows = [100, 102, 99].map((price, i) => ({
    ...{ asof: `2031-03-1${i}T16:45:00Z`, price, vol: 0.2, value: 0, profit: 10 * i, legs: [] },
    evens: i === 1 ? [98, 106, 5000] : [],
  }));
  it('moments stand evenly; break-evens far off do not flatten the price', () => {
    const { panes, left, right, x } = plotOf(rows, 400, 200);
    expect(x(1)).toBeCloseTo(0.5 * (left + right), 9);
    expect(panes.map(({ name }) => name)).toEqual(['price, break-evens', 'vol', 'profit']);
    expect(panes[0]!.dots.match(/M/g)).toHaveLength(2);
    expect(panes[2]!.zero).not.toBeNull();
  });
  it('the move is held against what was expected at the entry', () => {
    const replay: Replay = {
      symbol: 'X',
      entry: { asof: '2031-03-10T16:45:00Z', price: 100, vol: 0.25, deviation: 4, expiry: '2031-04-17' },
      ...{ legs: [], rows },
    };
    expect(livedSentence(replay, 2)).toEqual({
      lead: 'Gained 20:',
      rest: 'the price moved −1.00, 0.25 of the deviation of 4.00 that was expected until 2031-04-17, at most 2.00 on its way, and vol went from 25.0 to 20.0.',
    });
    expect(livedSentence({ ...replay, entry: null }, 2).lead).toContain('Nothing was expected');
  });
});
