import Big from 'big.js';
import { describe, expect, it } from 'vitest';
import { isUnderlying } from '../contracts';
import { normalInverse } from '../distributions';
import { makeRandom } from '../odds';
import { EXPLAINED_PARTS, explainContract } from './explained';
import type { BookFill, LedgerFacts } from './ledger';
import { livedThrough, PROFIT_PARTS, sumParts, type LivedMoment } from './lived';
import type { MarketAt } from './market';
import { option, testMarket, type TestMarket } from './testing';

const sum = (parts: Record<string, number>) => Object.values(parts).reduce((all, one) => all + one, 0);

const BEFORE: TestMarket = { spot: 100, years: 0.3, theta: 0.012, rho: -0.4, phi: 3 };

describe('one contract', () => {
  const cases: [string, TestMarket, TestMarket][] = [
    ['european', BEFORE, { spot: 96, years: 0.22, theta: 0.011, rho: -0.55, phi: 3.4, rate: 0.034, drift: 0.015 }],
    [
      'american',
      { ...BEFORE, exercise: 'american', rate: 0.05, drift: 0.01 },
      { spot: 103, years: 0.25, theta: 0.008, rho: -0.2, exercise: 'american', rate: 0.045, drift: 0.02 },
    ],
    [
      'on a future',
      { ...BEFORE, kind: 'future', exercise: 'american' },
      { spot: 95, years: 0.2, theta: 0.013, kind: 'future', exercise: 'american' },
    ],
    [
      'with a dividend between',
      {
        ...BEFORE,
        exercise: 'american',
        around: {
          dividends: [
            { years: 0.05, amount: 2 },
            { years: 0.2, amount: 1 },
          ],
        },
      },
      {
        spot: 97.5,
        years: 0.2,
        theta: 0.009,
        exercise: 'american',
        around: { dividends: [{ years: 0.1, amount: 1 }] },
      },
    ],
    [
      'with an announcement between',
      { ...BEFORE, around: { events: [{ years: 0.05, variance: 0.004 }] } },
      { spot: 101, years: 0.2, theta: 0.0055 },
    ],
  ];
  for (const [name, from, to] of cases) {
    const [first, last] = [testMarket(from), testMarket(to)];
    for (const method of ['turn', 'averaged'] as const) {
      it(`${name}: parts ${method === 'turn' ? 'in turn' : 'averaged'} sum to the change, from mark to mark`, () => {
        for (const strike of [90, 100, 110])
          for (const side of ['call', 'put'] as const) {
            const contract = option(strike, side);
            const explained = explainContract(contract, first, last, method)!;
            const change = last.mark(contract)!.theory - first.mark(contract)!.theory;
            expect(sum(explained.inTurn)).toBeCloseTo(explained.change, 9);
            // Boundaries of early exercise are interpolated between other vols: within 1e-5 of the price.
            expect(Math.abs(explained.change - change)).toBeLessThan(from.exercise === 'american' ? 2e-3 : 1e-9);
          }
      });
    }
  }
  it('one thing alone is told by its part alone', () => {
    const alone = (to: Partial<TestMarket>, part: string) => {
      // Of one vol: another forward moves a curve along the strikes.
      const flat = { ...BEFORE, rho: 0, phi: 1e-9 };
      const explained = explainContract(option(95, 'put'), testMarket(flat), testMarket({ ...flat, ...to }))!;
      for (const name of EXPLAINED_PARTS)
        if (name !== part) expect(Math.abs(explained.inTurn[name]), name).toBeLessThan(1e-9);
      expect(Math.abs(explained.inTurn[part as never])).toBeGreaterThan(1e-3);
    };
    alone({ rate: 0.04 }, 'carry');
    alone({ drift: 0.04 }, 'carry');
    alone({ theta: 0.02 }, 'level');
    alone({ years: 0.25, theta: 0.01 }, 'time');
  });
  it('a lean that turns moves the wings, and little at the forward', () => {
    const turned = testMarket({ ...BEFORE, rho: -0.6 });
    const at = (strike: number) => explainContract(option(strike, 'put'), testMarket(BEFORE), turned)!.inTurn;
    expect(at(85).skew).toBeGreaterThan(0.01);
    expect(at(115).skew).toBeLessThan(-0.01);
    expect(Math.abs(at(101).skew)).toBeLessThan(0.1 * at(85).skew);
    for (const strike of [85, 115])
      expect(Math.abs(at(strike).curvature)).toBeLessThan(0.5 * Math.abs(at(strike).skew));
  });
  it('an announcement that passes takes its variance along, and nothing is left to the level', () => {
    const [years, later, variance] = [0.3, 0.28, 0.004];
    const from = testMarket({ ...BEFORE, rho: 0, phi: 1e-6, around: { events: [{ years: 0.01, variance }] } });
    const ambient = (BEFORE.theta - variance) / years;
    const to = testMarket({ ...BEFORE, rho: 0, phi: 1e-6, years: later, theta: ambient * later });
    const { inTurn } = explainContract(option(100, 'call'), from, to)!;
    expect(inTurn.events).toBeLessThan(-0.5);
    expect(Math.abs(inTurn.level)).toBeLessThan(1e-6);
  });
  it('the end: what it pays there', () => {
    const explained = explainContract(option(100, 'call'), testMarket(BEFORE), { settledAt: 107 })!;
    expect(explained.change).toBeCloseTo(7 - testMarket(BEFORE).mark(option(100, 'call'))!.theory, 9);
    expect(sum(explained.inTurn)).toBeCloseTo(explained.change, 12);
    expect(explained.inTurn.level).toBe(0);
  });
  it('an underlying is its price', () => {
    const explained = explainContract(
      { symbol: 'X', underlying: true },
      testMarket(BEFORE),
      testMarket({ ...BEFORE, spot: 103 }),
    )!;
    expect(explained.inTurn.price).toBe(3);
  });
  it('Greeks say the same of small changes', () => {
    const to = testMarket({ ...BEFORE, spot: 100.4, years: BEFORE.years - 1 / 365, theta: 0.01205, rho: -0.41 });
    for (const strike of [90, 100, 110]) {
      const { inTurn, byGreeks, cross, change } = explainContract(option(strike, 'call'), testMarket(BEFORE), to)!;
      expect(Math.abs(sum(byGreeks) + cross - change)).toBeLessThan(1e-3);
      for (const name of EXPLAINED_PARTS) expect(Math.abs(inTurn[name] - byGreeks[name]), name).toBeLessThan(4e-3);
    }
  });
  it('on average no order counts: changing back takes as much', () => {
    const flat = { ...BEFORE, rho: 0, phi: 1e-9 };
    const [first, last] = [testMarket(flat), testMarket({ ...flat, spot: 92, theta: 0.016, rate: 0.04 })];
    const there = explainContract(option(95, 'put'), first, last, 'averaged')!;
    const back = explainContract(option(95, 'put'), last, first, 'averaged')!;
    for (const name of EXPLAINED_PARTS) expect(there.inTurn[name], name).toBeCloseTo(-back.inTurn[name], 6);
    // In turn it does count.
    const inTurn = explainContract(option(95, 'put'), first, last)!.inTurn;
    expect(Math.abs(inTurn.price - there.inTurn.price)).toBeGreaterThan(0.01);
  });
});

describe('a position', () => {
  const END = 1e12;
  const DAY = 86_400_000;
  const facts = (settled: number | null = null): LedgerFacts => ({
    multiplierOf: (contract) => new Big(isUnderlying(contract) ? 1 : 100),
    changesOf: () => [],
    endOf: () => END,
    settledAt: () => (settled === null ? null : new Big(settled)),
  });
  const trade = (time: number, contract: BookFill['contract'], quantity: number, price: number, fee = 0): BookFill => ({
    ...{ time, contract, quantity: new Big(quantity), price: new Big(price), fee: new Big(fee) },
  });
  const moment = (instant: number, market: MarketAt): LivedMoment => ({ instant, marketOf: () => market });
  const quoted = (more: Partial<TestMarket>) => testMarket({ ...BEFORE, halfSpread: 0.05, ...more });
  const moments = [
    moment(0, quoted({})),
    moment(2, quoted({ spot: 102, years: 0.28, over: 0.03 })),
    moment(4, quoted({ spot: 99, years: 0.26, theta: 0.013, over: -0.02 })),
    moment(6, quoted({ spot: 104, years: 0.24, theta: 0.009 })),
  ];
  const fills = [
    trade(0, option(100, 'put'), -3, 4.2, 2),
    trade(1, option(110, 'call'), 2, 1.1),
    trade(3, option(100, 'put'), 1, 5, 0.7),
    trade(5, option(110, 'call'), -2, 2.5),
  ];

  it('parts and the rest are the change, over all stretches', () => {
    for (const by of ['mid', 'curve'] as const)
      for (const method of ['turn', 'averaged'] as const) {
        const stretches = livedThrough(fills, facts(), moments, by, method);
        for (const { legs } of stretches)
          for (const { inTurn, byGreeks, cross, change } of legs) {
            expect(Math.abs(sum(inTurn) - change)).toBeLessThan(1e-9);
            expect(Math.abs(sum(byGreeks) + cross - change)).toBeLessThan(1e-9);
          }
        const all = sumParts(stretches.flatMap(({ legs }) => legs));
        // By hand: what flowed after the first moment, and what is held at the end.
        const put = moments[3]!.marketOf('X')!.mark(option(100, 'put'))!;
        const then = moments[0]!.marketOf('X')!.mark(option(100, 'put'))!;
        const unit = (mark: typeof put) => (by === 'mid' ? mark.mid : mark.theory);
        const flowed = -2 * 1.1 * 100 - 500 - 0.7 + 2 * 2.5 * 100;
        expect(all.change).toBeCloseTo(flowed - 200 * unit(put) + 300 * unit(then), 9);
      }
  });
  it('mids over their curves are the rest, and by the curve there is none', () => {
    const rest = (by: 'mid' | 'curve') =>
      sumParts(livedThrough(fills.slice(0, 1), facts(), moments.slice(0, 2), by).flatMap(({ legs }) => legs)).inTurn
        .rest;
    expect(rest('mid')).toBeCloseTo(-300 * 0.03, 9);
    expect(Math.abs(rest('curve'))).toBeLessThan(1e-9);
  });
  it('a trade is what it was worth at the moment after, less its price and fee', () => {
    const [first] = livedThrough(fills, facts(), moments, 'curve');
    const call = first!.legs.find(({ leg }) => !isUnderlying(leg.contract) && leg.contract.strike === 110)!;
    const worth = moments[1]!.marketOf('X')!.mark(option(110, 'call'))!.theory;
    expect(call.inTurn.fills).toBeCloseTo(200 * (worth - 1.1), 9);
    expect(call.inTurn.price).toBe(0);
  });
  it('what has ended is told to its settlement, and nothing after', () => {
    const settled: LedgerFacts = { ...facts(93), endOf: () => 3 };
    const stretches = livedThrough(fills.slice(0, 1), settled, moments, 'curve');
    const [, second, third] = stretches.map(({ legs }) => sumParts(legs));
    const then = moments[1]!.marketOf('X')!.mark(option(100, 'put'))!.theory;
    expect(second!.change).toBeCloseTo(-300 * (7 - then), 9);
    expect(Math.abs(sum(second!.inTurn) - second!.change)).toBeLessThan(1e-9);
    expect(third!.change).toBe(0);
  });
  it('where a moment has no curve all of it is left', () => {
    const blank = moment(2, testMarket({ ...BEFORE, expiry: '2031-12-18' }));
    const [stretch] = livedThrough([trade(0, option(100, 'put'), 1, 4)], facts(), [moments[0]!, blank], 'mid');
    expect(stretch!.legs[0]!.change).toBeNaN();
    const hole = livedThrough(
      [trade(0, option(100, 'put'), 1, 4)],
      facts(),
      [blank, { ...moments[1]!, instant: 3 }],
      'mid',
    );
    expect(hole[0]!.legs[0]!.inTurn.price).toBe(0);
  });
  it('along a path of the model by its Greeks the rest tends to nothing with the step', () => {
    // Half the step, half of the rest at least: terms of higher order are left.
    const restOf = (steps: number) => {
      const random = makeRandom(7);
      const normal = () => normalInverse(random());
      const fine = Array.from({ length: 256 }, normal);
      const [years, vol] = [0.25, 0.2];
      const dt = 0.1 / 256;
      let spot = 100;
      const path = [spot];
      for (const z of fine) path.push((spot *= Math.exp((0.02 - 0.5 * vol * vol) * dt + vol * Math.sqrt(dt) * z)));
      const every = 256 / steps;
      const lived = Array.from({ length: steps + 1 }, (_, i) => {
        const left = years - i * every * dt;
        return moment(
          i * DAY,
          testMarket({
            spot: path[i * every]!,
            years: left,
            theta: vol * vol * left,
            rho: 0,
            phi: 1e-6,
            strikes: [100],
          }),
        );
      });
      const stretches = livedThrough([trade(0, option(100, 'call'), 1, 4)], facts(), lived, 'curve');
      return stretches.reduce((all, { legs }) => all + Math.abs(sumParts(legs).byGreeks.rest), 0);
    };
    const [coarse, middle, fine] = [restOf(16), restOf(64), restOf(256)];
    expect(middle).toBeLessThan(0.75 * coarse);
    expect(fine).toBeLessThan(0.6 * middle);
  });
  it('names of the parts are each told once', () => {
    expect(new Set(PROFIT_PARTS).size).toBe(PROFIT_PARTS.length);
  });
});
