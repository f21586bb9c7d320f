import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { normalCdf } from '../distributions';
import { contractPrice, priceContract, type Contract } from '../models';
import { calendarById } from '../time';
import {
  annualized,
  countInside,
  creditSpread,
  expectedSteps,
  expiryRecords,
  fastestHedge,
  futureOdds,
  lognormalLaw,
  maxPain,
  moveToKeep,
  oddsDifferences,
  oddsWorth,
  priceAtValue,
  straddleHedge,
  targetStrike,
  type FutureTerms,
  type MoveMoment,
} from '.';

describe('max pain', () => {
  it('is where the open contracts are worth least, worked by hand', () => {
    // At 100: puts 105 and 110 are worth 5·40 + 10·10; at 105: call 100 5·20, put 110 5·10; at 110: 10·20 + 5·30.
    const { strike, curve } = maxPain([
      { strike: 110, callOpenInterest: 50, putOpenInterest: 10 },
      { strike: 100, callOpenInterest: 20, putOpenInterest: 60 },
      { strike: 105, callOpenInterest: 30, putOpenInterest: 40 },
    ]);
    expect(strike).toBe(105);
    expect(curve).toEqual([
      { price: 100, callValue: 0, putValue: 300, total: 300 },
      { price: 105, callValue: 100, putValue: 50, total: 150 },
      { price: 110, callValue: 350, putValue: 0, total: 350 },
    ]);
  });
  it('takes the lower strike of a tie, nothing open for none, and the multiplier', () => {
    const none = { callOpenInterest: 0, putOpenInterest: NaN };
    expect(
      maxPain([
        { strike: 20, ...none },
        { strike: 10, ...none },
      ]).strike,
    ).toBe(10);
    expect(maxPain([]).strike).toBeNaN();
    const one = [
      { strike: 10, callOpenInterest: 3, putOpenInterest: 0 },
      { strike: 12, callOpenInterest: 0, putOpenInterest: 0 },
    ];
    expect(maxPain(one, 100).curve[1]!.callValue).toBe(600);
  });
  it('has a total that is convex in the price', () => {
    const open = fc.integer({ min: 0, max: 1000 });
    fc.assert(
      fc.property(fc.array(fc.tuple(open, open), { minLength: 3, maxLength: 20 }), (rows) => {
        const { curve } = maxPain(
          rows.map(([callOpenInterest, putOpenInterest], i) => ({
            strike: 50 + 5 * i,
            callOpenInterest,
            putOpenInterest,
          })),
        );
        for (let i = 1; i + 1 < curve.length; i++) {
          expect(curve[i - 1]!.total + curve[i + 1]!.total).toBeGreaterThanOrEqual(2 * curve[i]!.total);
        }
      }),
    );
  });
});

describe('what became of expected moves', () => {
  const calendar = calendarById('MRX');
  const days = ['2031-02-27', '2031-02-28', '2031-03-03', '2031-03-04', '2031-03-05', '2031-03-06', '2031-03-07'];
  const known = (day: string): MoveMoment['expiries'] =>
    ['2031-02-28', '2031-03-07', '2031-03-14']
      .filter((expiry) => expiry > day)
      .map((expiry) => ({
        expiry,
        settlement: 'pm',
        sessions: { '2031-02-28': 1, '2031-03-07': 6, '2031-03-14': 11 }[expiry]! - days.indexOf(day),
        straddle: 4,
        deviation: 5,
      }));
  const price = [100, 101, 106, 104, 99, 100, 105.5];
  const moments = days.map((day, i) => ({ day, price: price[i]!, expiries: known(day) }));
  const closeOf = (day: string) => price[days.indexOf(day)] ?? NaN;
  const now = { day: '2031-03-07', price: 105.5 };
  it('by week: from the last session of a week to that of the next, read from the expiry there', () => {
    const steps = expectedSteps(calendar, moments, 'week', 'straddle', closeOf, now);
    expect(steps).toEqual([
      expect.objectContaining({ from: '2031-02-28', to: '2031-03-07', expiry: '2031-03-07', move: 4, outcome: 'over' }),
      expect.objectContaining({ from: '2031-03-07', to: '2031-03-14', outcome: 'open', left: 5, times: 0 }),
    ]);
    expect(steps[0]!.times).toBeCloseTo(4.5 / 4, 12);
    expect(countInside(steps, 'straddle')).toEqual({
      ...{ complete: 1, inside: 0, over: 1, under: 0 },
      fair: expect.closeTo(0.57506, 5) as number,
    });
  });
  it('by day: scaled by the root of the sessions to the expiry that they are read from', () => {
    const steps = expectedSteps(calendar, moments, 'day', 'deviation', closeOf, now);
    expect(steps).toHaveLength(7);
    // On 28 February the expiry of the week after is five sessions away.
    expect(steps[1]!.move).toBeCloseTo(5 / Math.sqrt(5), 12);
    expect(steps.map(({ outcome }) => outcome)).toEqual([
      ...['inside', 'over', 'inside', 'under', 'inside', 'over', 'open'],
    ]);
    expect(countInside(steps, 'deviation').fair).toBeCloseTo(0.682689, 6);
  });
  it('by expiry: one after the other, each over before the next begins', () => {
    const steps = expectedSteps(calendar, moments, 'expiry', 'straddle', closeOf, now);
    expect(steps.map(({ from, to }) => [from, to])).toEqual([
      ['2031-02-27', '2031-02-28'],
      ['2031-02-28', '2031-03-07'],
      ['2031-03-07', '2031-03-14'],
    ]);
    expect(steps[0]).toMatchObject({ outcome: 'inside', times: 0.25, left: 0 });
  });
  it('leaves out what has no move, and records every expiry of every session that is over', () => {
    const blank = moments.map((moment) => ({
      ...moment,
      expiries: moment.expiries.map((one) => ({ ...one, straddle: NaN })),
    }));
    expect(expectedSteps(calendar, blank, 'day', 'straddle', closeOf, now)).toEqual([]);
    const records = expiryRecords(moments, 'straddle', closeOf, '2031-03-07');
    // 28 February from one session, 7 March from six.
    expect(records).toHaveLength(7);
    expect(records[0]).toEqual({
      ...{ day: '2031-02-27', expiry: '2031-02-28', settlement: 'pm', sessions: 1, times: 0.25 },
    });
  });
});

describe('a contract on its way', () => {
  const vol = 0.2;
  const terms = (sign: number): FutureTerms => ({
    ...{ sign, strike: 100, years: 0.25 },
    value: (spot, elapsed) =>
      contractPrice({
        ...{ model: 'black-scholes-merton', side: sign > 0 ? 'call' : 'put', strike: 100, rate: 0, yield: 0, vol },
        ...{ spot, years: 0.25 - elapsed },
      }),
    law: (elapsed) => ({ law: lognormalLaw(vol * Math.sqrt(elapsed)), forward: 100 }),
  });
  it('is worth at least so much where the price is beyond the one that gives it', () => {
    for (const sign of [1, -1]) {
      const one = terms(sign);
      const price = priceAtValue(one, 0.1, 5, 100);
      expect(one.value(price, 0.1)).toBeCloseTo(5, 9);
      const d2 = Math.log(100 / price) / (vol * Math.sqrt(0.1)) - 0.5 * vol * Math.sqrt(0.1);
      expect(oddsWorth(one, 0.1, 5)).toBeCloseTo(normalCdf(sign * d2), 9);
    }
  });
  it('at its expiry has the odds of its break-even', () => {
    const call = priceContract({
      ...{ model: 'black-76', side: 'call', forward: 100, strike: 104, years: 0.25, rate: 0, vol },
    });
    expect(oddsWorth(terms(1), 0.25, 4)).toBeCloseTo(call.itm, 12);
    expect(oddsWorth(terms(-1), 0.25, 120)).toBe(0);
    expect(oddsWorth(terms(1), 0.25, 0)).toBe(1);
    // A put is never worth more than its strike.
    expect(oddsWorth(terms(-1), 0.1, 101)).toBe(0);
    expect(oddsWorth(terms(1), 0.1, NaN)).toBeNaN();
  });
  it('is worth as much again when the price has made good a day', () => {
    for (const sign of [1, -1]) {
      const one = terms(sign);
      const move = moveToKeep(one, 100, 1 / 365);
      expect(one.value(100 + move, 1 / 365)).toBeCloseTo(one.value(100, 0), 8);
      expect(Math.sign(move)).toBe(sign);
      // To first order it is decay over delta.
      const { theta, delta } = priceContract({
        ...{ model: 'black-76', side: sign > 0 ? 'call' : 'put', forward: 100, strike: 100, years: 0.25, rate: 0, vol },
      });
      expect(move / (-theta / delta)).toBeCloseTo(1, 1);
    }
  });
  it('gains and loses with odds that fall the further the level', () => {
    const price = terms(1).value(100, 0);
    const rows = futureOdds(terms(1), price, [0.01, 0.1, 0.25], [0.5, 0.2, 0.1, -0.1, -0.2, -0.5]);
    for (const row of rows.map((cells) => cells.map(({ odds }) => odds))) {
      expect(row[0]!).toBeLessThan(row[1]!);
      expect(row[1]!).toBeLessThan(row[2]!);
      expect(row[3]!).toBeGreaterThan(row[4]!);
      expect(row[4]!).toBeGreaterThan(row[5]!);
      expect(row[2]! + row[3]!).toBeLessThan(1);
    }
    // At the price that they depend on the contract is worth just that.
    expect(terms(1).value(rows[1]![0]!.price, 0.1)).toBeCloseTo(1.5 * price, 8);
  });
  it('on average is worth what it is now: its odds integrate to its price', () => {
    // E[V] = ∫ P(V ≥ v) dv, and without rates the price of an option is a martingale under its own vol.
    const one = terms(1);
    let mean = 0;
    const step = 0.05;
    for (let v = 0.5 * step; v < 60; v += step) mean += step * oddsWorth(one, 0.1, v);
    expect(mean).toBeCloseTo(one.value(100, 0), 3);
  });
});

describe('the hedge of a sold straddle', () => {
  const base = { model: 'black-76', strike: 100, forward: 100, years: 0.1, rate: 0, vol: 0.25 } as const;
  const sold = { call: { ...base, side: 'call' }, put: { ...base, side: 'put' } } satisfies Record<string, Contract>;
  const points = straddleHedge(sold, [60, 90, 95, 100, 105, 110, 160]);
  it('is flat near the strike and a whole unit far beyond', () => {
    expect(points[0]!.hedge).toBeCloseTo(-1, 6);
    expect(points.at(-1)!.hedge).toBeCloseTo(1, 6);
    expect(points[3]!.hedge).toBeCloseTo(2 * normalCdf(0.5 * 0.25 * Math.sqrt(0.1)) - 1, 12);
    for (let i = 1; i < points.length; i++) expect(points[i]!.hedge).toBeGreaterThan(points[i - 1]!.hedge);
  });
  it('moves fastest near the strike', () => {
    const fastest = fastestHedge(
      straddleHedge(
        sold,
        Array.from({ length: 81 }, (_, i) => 80 + 0.5 * i),
      ),
    )!;
    expect(Math.abs(fastest.price - 100)).toBeLessThan(1.5);
    expect([fastest.from < 95, fastest.to > 104]).toEqual([true, true]);
    expect(fastestHedge([])).toBeNull();
  });
});

describe('why odds differ', () => {
  const given = {
    ...{ sign: -1, level: 95, spot: 100, forward: 100.5, years: 0.1, atmVol: 0.2, curveVol: 0.23, curveSlope: -0.5 },
    ...{ ownVol: 0.235, indexVol: 0.21, realizedVol: 0.15 },
  };
  const found = oddsDifferences(given);
  const by = Object.fromEntries(found.map((one) => [one.cause, one]));
  it('drift, skew and slope lead from the plain lognormal to the curve', () => {
    const put = (vol: number, forward: number) =>
      priceContract({ model: 'black-76', side: 'put', forward, strike: 95, years: 0.1, rate: 0, vol }).itm;
    expect(by.drift!.without).toBeCloseTo(put(0.2, 100), 12);
    expect(by.skew!.without).toBe(by.drift!.with);
    expect(by.skew!.with).toBeCloseTo(put(0.23, 100.5), 12);
    expect(by.slope!.without).toBe(by.skew!.with);
    // P(S < K) of a curve: ∂P/∂K with the vol moving.
    const price = (strike: number) =>
      priceContract({
        ...{ model: 'black-76', side: 'put', forward: 100.5, strike, years: 0.1, rate: 0 },
        vol: 0.23 - 0.5 * Math.log(strike / 95),
      }).price;
    expect(by.slope!.with).toBeCloseTo((price(95.001) - price(94.999)) / 0.002, 6);
    expect(by.realized!.with).toBeCloseTo(put(0.15, 100.5), 12);
  });
  it('come the largest first, and without what is not known', () => {
    const sizes = found.map((one) => Math.abs(one.by));
    expect(sizes).toEqual(sizes.toSorted((a, b) => b - a));
    expect(found).toHaveLength(6);
    expect(oddsDifferences({ ...given, realizedVol: NaN, ownVol: NaN }).map(({ cause }) => cause)).not.toContain('own');
  });
});

describe('strikes for odds', () => {
  const side = {
    sign: 1,
    strike: [95, 100, 105, 110, 115],
    bid: [7, 3.9, 1.9, 0.8, 0.3],
    ask: [7.2, 4.1, 2.1, 1, 0.4],
    odds: [0.7, 0.5, 0.3, 0.15, 0.06],
  };
  it('are the nearest to the forward that are safe enough', () => {
    const found = targetStrike(side, 101, 0.2)!;
    expect(found).toEqual({ index: 3, strike: 110, odds: 0.15, credit: expect.closeTo(0.9, 12) as number, worst: 0.8 });
    expect(targetStrike(side, 101, 0.3)!.strike).toBe(105);
    expect(targetStrike(side, 101, 0.01)).toBeNull();
    const puts = { ...side, sign: -1, odds: [0.3, 0.5, 0.7, 0.85, 0.94] };
    expect(targetStrike(puts, 101, 0.35)!.strike).toBe(95);
    expect(targetStrike({ ...side, bid: [7, 3.9, 1.9, 0, 0.3] }, 101, 0.2)!.strike).toBe(115);
  });
  it('make a credit spread with its return', () => {
    const spread = creditSpread(side, targetStrike(side, 101, 0.3)!, 5, 36.5)!;
    expect(spread).toMatchObject({ sold: 105, bought: 110, width: 5 });
    expect(spread.credit).toBeCloseTo(1.1, 12);
    expect(spread.worst).toBeCloseTo(0.9, 12);
    expect(spread.risk).toBeCloseTo(3.9, 12);
    expect(spread.returnOnRisk).toBeCloseTo(1.1 / 3.9, 12);
    expect(spread.annualized).toBeCloseTo((10 * 1.1) / 3.9, 12);
    expect(creditSpread(side, targetStrike(side, 101, 0.06)!, 5, 30)).toBeNull();
    expect(annualized(0.1, 0)).toBeNaN();
  });
});
