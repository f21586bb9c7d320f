import { HEDGE_GREEKS, type HedgeGreeks, type MarketLegValues, type ProfitCurveColumns } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { Tokens } from '$lib/state';
import { aheadFigure } from './charts/ahead';
import { PARAMS } from './params';
import { amount, idOf, planOf, planSentence, stayWithin, type Instrument, type Plan, type PlanAsked } from './plan';

const greeks = (given: Partial<HedgeGreeks>) =>
  ({ ...Object.fromEntries(HEDGE_GREEKS.map((name) => [name, 0])), skew: 0, ...given }) as HedgeGreeks & {
    skew: number;
  };

function instrument(strike: number, given: Partial<HedgeGreeks>, spread = 0.2): Instrument {
  const leg = {
    symbol: 'X',
    expiry: '2031-04-17',
    settlement: 'pm',
    strike,
    side: 'call',
    quantity: 1,
    slice: 0,
    index: 0,
  } as const;
  const values = { ...greeks(given), bid: 5 - spread, ask: 5 + spread, value: 5 } as unknown as MarketLegValues;
  const reactions = { skew: 0.1 * (strike - 100), changes: Float64Array.of(strike - 100, 0, 100 - strike) };
  return { leg, id: idOf(leg), words: `17 Apr ${strike} call`, values, reactions, openInterest: 1 };
}
// J. Hull, "Options, Futures, and Other Derivatives", on Greek letters (from memory), each contract on ten.
const first = instrument(100, { delta: 0.6, gamma: 0.5, vega: 2 });
const second = instrument(110, { delta: 0.5, gamma: 0.8, vega: 1.2 });
const asked: PlanAsked = {
  ...{ exposure: greeks({ gamma: -5000, vega: -8000 }), aims: {}, wanted: ['delta', 'gamma', 'vega'] },
  ...{ instruments: [first, second], multiplier: 10, lot: 1, count: 'exact', choice: 'fewest' },
  ...{ changes: null, moves: null },
};
function plan(more: Partial<PlanAsked> = {}): Plan {
  const found = planOf({ ...asked, ...more });
  if ('refused' in found) throw new Error(found.refused);
  return found;
}
const lots = ({ steps }: Plan) => steps.map(({ quantity }) => Math.round(quantity * 1e6) / 1e6);

describe('targets beside the Greeks', () => {
  // As far as the first expiry is from 100 the lean differs; another expiry has vega of its own.
  const later: Instrument = { ...second, id: 'later', leg: { ...second.leg, expiry: '2031-06-19' } };
  it('are the lean and the vega of one expiry, which contracts of others do not move', () => {
    const exposure = { ...greeks({ vega: -30 }), 'vega@2031-04-17': -20, 'vega@2031-06-19': -10 };
    const found = plan({ exposure, wanted: ['vega@2031-04-17', 'vega@2031-06-19'], instruments: [first, later] });
    // 2 and 1.2 of vega a contract, on ten.
    expect(lots(found)).toEqual([1, 0.833333]);
    expect(found.residual.vega).toBeCloseTo(0, 10);
    const leaning = plan({ exposure: { ...greeks({}), skew: -5 }, wanted: ['skew'], instruments: [second] });
    expect(lots(leaning)).toEqual([0.5]);
    const refused = planOf({ ...asked, exposure, wanted: ['vega@2031-06-19'], instruments: [first] });
    expect(refused).toEqual({ refused: 'no instrument has any vega@2031-06-19' });
  });
  it('the steadiest of several choices is the one whose profit changes least, the underlying beside it', () => {
    const exposure = greeks({ gamma: -5 });
    const moves = Float64Array.of(-10, 0, 10);
    const changes = Float64Array.of(-40, 0, -40);
    const bent = (by: number, one: Instrument): Instrument => ({
      ...one,
      reactions: { skew: 0, changes: Float64Array.of(by - one.values.delta * 10, 0, by + one.values.delta * 10) },
    });
    // A tenth of gamma takes one lot of the first, five eighths of the second; each bends the profit otherwise.
    const choose = (one: number, other: number) =>
      plan({
        ...{ exposure, changes, moves, wanted: ['delta', 'gamma'], choice: 'steadiest' },
        instruments: [bent(one, first), bent(other, second)],
      }).steps[0]!.id;
    expect(choose(4, 1)).toBe(first.id);
    expect(choose(1, 6.4)).toBe(second.id);
  });
});

describe('the trades of a hedge', () => {
  it('count contracts, each on its multiplier, and lots of the underlying', () => {
    expect(lots(plan())).toEqual([40, 600, -3240]);
    // A future is on as many as its option.
    expect(lots(plan({ lot: 10 }))).toEqual([40, 600, -324]);
  });
  it('bring what is wanted to its aim, and leave what is not', () => {
    const { residual, steps } = plan({ aims: { gamma: 100, theta: 5 }, wanted: ['gamma'] });
    expect(residual.gamma).toBeCloseTo(100, 9);
    expect(steps).toHaveLength(1);
    expect(residual.vega).not.toBeCloseTo(0, 0);
    expect(residual.theta).toBe(0);
  });
  it('are those with the tightest markets where that is wanted; without a market last of all', () => {
    const wide = instrument(120, { gamma: 9 }, 4);
    const none = instrument(130, { gamma: 90 }, NaN);
    const tight = instrument(140, { gamma: 1 }, 0.01);
    const instruments = [wide, none, tight];
    const taken = (choice: PlanAsked['choice'], of = instruments) =>
      plan({ instruments: of, wanted: ['gamma'], choice }).steps.map(({ id }) => id);
    expect(taken('fewest')).toEqual([none.id]);
    expect(taken('cheapest')).toEqual([tight.id]);
    expect(taken('cheapest', [wide, none])).toEqual([wide.id]);
  });
  it('are said in a sentence, with what whole contracts save over rounding', () => {
    const nameOf = (id: string) => (id === first.id ? first.words : id === second.id ? second.words : 'X');
    const { lead, rest } = planSentence(plan(), nameOf, ['gamma'], 'exact');
    expect(lead).toBe('+40.00 17 Apr 100 call, +600.00 17 Apr 110 call, −3\u2009240.00 X:');
    expect(rest).toMatch(/^[+−]?0 of gamma is left\.$/);
    const whole = plan({ exposure: greeks({ gamma: -33, vega: -37 }), count: 'whole' });
    expect(whole.steps.every(({ quantity }) => Number.isInteger(quantity))).toBe(true);
    expect(whole.leftFound).toBeLessThanOrEqual(whole.leftRounded);
    const said = planSentence(whole, nameOf, ['gamma', 'vega'], 'whole').rest;
    expect(said).toContain('Exact would be');
    expect(said.includes('Rounding alone')).toBe(whole.leftFound < whole.leftRounded);
    expect(planSentence(plan({ exposure: greeks({}) }), nameOf, ['delta'], 'exact').lead).toBe(
      'Nothing is to be traded:',
    );
    expect(planOf({ ...asked, instruments: [first] })).toHaveProperty('refused');
  });
  it('amounts have as many digits as say something', () => {
    expect([0, 12345.6, -99.95, 1.23456, -0.0123456, -1e-7].map(amount)).toEqual([
      '0',
      '+12\u2009346',
      '−100.0',
      '+1.235',
      '−0.01235',
      '0',
    ]);
  });
});

describe('a band', () => {
  const x = Float64Array.of(90, 95, 100, 105, 110);
  it('is kept between the prices at which its edges are met', () => {
    const column = Float64Array.of(40, 20, 0, -10, -50);
    expect(stayWithin(x, column, 100, { aim: 0, band: 30 })).toEqual({ from: 92.5, to: 107.5 });
    expect(stayWithin(x, column, 101, { aim: 0, band: 45 })).toEqual({
      from: null,
      to: expect.closeTo(109.375, 9) as number,
    });
    expect(stayWithin(x, column, 100, { aim: 0, band: 60 })).toEqual({ from: null, to: null });
    expect(stayWithin(x, column, 100, { aim: -40, band: 30 })).toBeNull();
  });
  it('stands in the picture with before and after along the same prices', () => {
    const curve = (of: (price: number) => number, at: Float64Array) =>
      ({ pnl: at.map(of), delta: at.map(of) }) as unknown as ProfitCurveColumns;
    const other = Float64Array.of(80, 97, 103, 108);
    const tokens = {
      ink: '#000',
      soft: '#888',
      band: '#eee',
      focus: '#f00',
      line: '#ccc',
      panel: '#fff',
    } as unknown as Tokens;
    const figure = aheadFigure({
      before: { x: other, curve: curve((price) => price, other) },
      other: null,
      after: { x, curve: curve((price) => 2 * price, x) },
      ...{ quantity: 'delta', times: 10, price: 100, band: 5, aim: 0, due: [92.5], decimals: 2, tokens },
    });
    const lines = figure.data as { name: string; y: number[] }[];
    expect(lines.map(({ name }) => name)).toEqual(['before', 'after']);
    expect(lines[0]!.y.map((value) => Math.round(value))).toEqual([900, 950, 1000, 1050, NaN]);
    expect(lines[1]!.y).toEqual([1800, 1900, 2000, 2100, 2200]);
    expect(figure.layout.shapes).toHaveLength(2);
    expect(figure.layout.annotations).toHaveLength(1);
  });
});

describe('what the address says of a hedge', () => {
  it('amounts by Greek come back as they were written; what is none is not taken', () => {
    const piece = PARAMS.pieces.find(({ name }) => name === 'exposure')!;
    expect(piece.read('gamma:-2.5,speed:3,vega:much,delta:0,theta:1e20', null)).toEqual({ typed: { gamma: -2.5 } });
    expect(piece.write({ typed: { vega: -900, gamma: -2.5 } }, null)).toBe('gamma:-2.5,vega:-900');
    expect(piece.write({ typed: {} }, null)).toBeNull();
  });
});
