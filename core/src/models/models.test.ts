import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import reference from '../../fixtures/reference.json';
import {
  exitProbability,
  makeFirstOrder,
  priceContract,
  priceEuropean,
  touchProbability,
  type Contract,
  type ContractValues,
} from '.';

const lognormal = fc.record({
  spot: fc.double({ min: 1, max: 5000, noNaN: true }),
  moneyness: fc.double({ min: -1.5, max: 1.5, noNaN: true }),
  years: fc.double({ min: 1 / 525600, max: 5, noNaN: true }),
  rate: fc.double({ min: -0.05, max: 0.12, noNaN: true }),
  carryYield: fc.double({ min: -0.02, max: 0.1, noNaN: true }),
  vol: fc.double({ min: 0.01, max: 3, noNaN: true }),
});

function pair(input: {
  spot: number;
  moneyness: number;
  years: number;
  rate: number;
  carryYield: number;
  vol: number;
}) {
  const strike = input.spot * Math.exp(input.moneyness);
  const base = { model: 'black-scholes-merton', ...input, yield: input.carryYield, strike } as const;
  return {
    strike,
    call: priceContract({ ...base, side: 'call' }),
    put: priceContract({ ...base, side: 'put' }),
    spotValue: input.spot * Math.exp(-input.carryYield * input.years),
    strikeValue: strike * Math.exp(-input.rate * input.years),
  };
}

describe('against mpmath: every Greek by differentiation of the price at 60 digits', () => {
  it.each(reference.contracts.map((item, index) => ({ index, ...item })))(
    '$index $contract.model $contract.side',
    ({ contract, values }) => {
      const ours = priceContract(contract as Contract);
      const price = contract.spot ?? contract.forward ?? 0;
      expect(Math.abs(ours.price - values.price)).toBeLessThan(2e-15 * price);
      for (const [name, expected] of Object.entries(values)) {
        const got = ours[name as keyof ContractValues];
        expect(Math.abs(got - expected), name).toBeLessThan(2e-13 * Math.max(1, Math.abs(expected)));
      }
    },
  );
});

describe('published examples', () => {
  const value = (contract: Contract) => priceContract(contract).price;
  it('Hull, Options, Futures, and Other Derivatives, example 15.6 (from memory)', () => {
    const base = { model: 'black-scholes-merton', spot: 42, strike: 40, years: 0.5, rate: 0.1, vol: 0.2 } as const;
    expect(value({ ...base, side: 'call' })).toBeCloseTo(4.76, 2);
    expect(value({ ...base, side: 'put' })).toBeCloseTo(0.81, 2);
  });
  it('Haug, The Complete Guide to Option Pricing Formulas, chapter 1 (from memory)', () => {
    expect(
      value({ model: 'black-scholes-merton', side: 'call', spot: 60, strike: 65, years: 0.25, rate: 0.08, vol: 0.3 }),
    ).toBeCloseTo(2.1334, 4);
    expect(
      value({
        model: 'black-scholes-merton',
        side: 'put',
        spot: 100,
        strike: 95,
        years: 0.5,
        rate: 0.1,
        yield: 0.05,
        vol: 0.2,
      }),
    ).toBeCloseTo(2.4648, 4);
    expect(
      value({ model: 'black-76', side: 'put', forward: 19, strike: 19, years: 0.75, rate: 0.1, vol: 0.28 }),
    ).toBeCloseTo(1.7011, 4);
    expect(
      value({
        model: 'garman-kohlhagen',
        side: 'call',
        spot: 1.56,
        strike: 1.6,
        years: 0.5,
        rate: 0.06,
        yield: 0.08,
        vol: 0.12,
      }),
    ).toBeCloseTo(0.0291, 4);
  });
});

describe('identities', () => {
  it('parity, bounds and complementary odds', () => {
    fc.assert(
      fc.property(lognormal, (input) => {
        const { call, put, spotValue, strikeValue } = pair(input);
        const scale = 4e-15 * (spotValue + strikeValue);
        expect(Math.abs(call.price - put.price - (spotValue - strikeValue))).toBeLessThanOrEqual(scale);
        expect(call.price).toBeGreaterThanOrEqual(Math.max(0, spotValue - strikeValue) - scale);
        expect(call.price).toBeLessThanOrEqual(spotValue + scale);
        expect(put.price).toBeLessThanOrEqual(strikeValue + scale);
        expect(call.itm + put.itm).toBeCloseTo(1, 12);
        expect(call.touch).toBe(put.touch);
        expect(call.touch).toBeGreaterThanOrEqual((input.moneyness > 0 ? call.itm : put.itm) - 1e-12);
        for (const values of [call, put]) {
          for (const number of Object.values(values)) expect(number).not.toBeNaN();
          expect(values.gamma).toBeGreaterThanOrEqual(0);
          expect(values.vega).toBeGreaterThanOrEqual(0);
        }
      }),
      { numRuns: 400 },
    );
  });

  it('the call rises with vol and falls with the strike', () => {
    fc.assert(
      fc.property(lognormal, fc.double({ min: 1.01, max: 2, noNaN: true }), (input, factor) => {
        const { call } = pair(input);
        const slack = 1e-14 * input.spot;
        expect(pair({ ...input, vol: input.vol * factor }).call.price).toBeGreaterThanOrEqual(call.price - slack);
        const higher = pair({ ...input, moneyness: input.moneyness + Math.log(factor) });
        expect(higher.call.price).toBeLessThanOrEqual(call.price + slack);
      }),
    );
  });

  it('black-76 on the forward is black-scholes-merton on the spot', () => {
    fc.assert(
      fc.property(lognormal, (input) => {
        const { strike, call } = pair(input);
        const forward = input.spot * Math.exp((input.rate - input.carryYield) * input.years);
        const { years, rate, vol } = input;
        const other = priceContract({ model: 'black-76', side: 'call', forward, strike, years, rate, vol });
        expect(Math.abs(other.price - call.price)).toBeLessThanOrEqual(3e-14 * (input.spot + strike));
        expect(other.rho).toBeCloseTo(-years * other.price * 0.01, 12);
      }),
    );
  });

  it('the normal model meets the lognormal one at the money for a short time', () => {
    const years = 1 / 365;
    const normal = priceContract({
      model: 'bachelier',
      side: 'call',
      forward: 100,
      strike: 100,
      years,
      rate: 0,
      vol: 20,
    });
    const lognormalAtm = priceContract({
      model: 'black-76',
      side: 'call',
      forward: 100,
      strike: 100,
      years,
      rate: 0,
      vol: 0.2,
    });
    expect(normal.price / lognormalAtm.price - 1).toBeCloseTo((0.04 * years) / 24, 9);
  });
});

describe('limits', () => {
  const base = { model: 'black-scholes-merton', strike: 100, years: 0.5, rate: 0.03, vol: 0.2 } as const;
  it.each([
    ['no vol', { ...base, vol: 0 }, 0.5],
    ['no time', { ...base, years: 0 }, 0],
  ])('%s: discounted intrinsic value and a step for the delta', (_, terms, years) => {
    const strikeValue = 100 * Math.exp(-0.03 * years);
    const inside = priceContract({ ...terms, side: 'call', spot: 120 });
    expect(inside.price).toBeCloseTo(120 - strikeValue, 12);
    expect([inside.delta, inside.gamma, inside.vega, inside.itm]).toEqual([1, 0, 0, 1]);
    const outside = priceContract({ ...terms, side: 'put', spot: 120 });
    expect([outside.price, outside.itm, outside.vega]).toEqual([0, 0, 0]);
    expect(Math.abs(outside.delta)).toBe(0);
  });
  it('on the strike without time the odds are even and gamma does not exist', () => {
    const there = priceContract({ ...base, side: 'call', spot: 100, years: 0 });
    expect([there.price, there.delta, there.itm, there.touch]).toEqual([0, 0.5, 0.5, 1]);
    expect(there.gamma).toBeNaN();
  });
  it('far wings, one minute and a ratio of 1e5 stay finite', () => {
    for (const strike of [1e-3, 1, 1e7]) {
      for (const years of [1 / 525600, 2]) {
        for (const side of ['call', 'put'] as const) {
          const values = priceContract({ ...base, side, spot: 100, strike, years });
          for (const number of Object.values(values)) expect(Number.isFinite(number)).toBe(true);
        }
      }
    }
  });
  it('a missing price of the underlying is named', () => {
    expect(() => priceContract({ ...base, side: 'call' })).toThrow('black-scholes-merton needs spot');
    expect(() => priceContract({ ...base, model: 'black-76', side: 'call' })).toThrow('black-76 needs forward');
  });
});

describe('batches', () => {
  it('agree with single calls over more than one block, degenerate items among them', () => {
    const count = 1300;
    const column = (value: (i: number) => number) => Float64Array.from({ length: count }, (_, i) => value(i));
    const input = {
      spot: column(() => 100),
      strike: column((i) => 40 + (i % 120)),
      years: column((i) => (i % 97) / 50),
      rate: column(() => 0.04),
      yield: column(() => 0.01),
      vol: column((i) => (i % 13) / 10),
      sign: column((i) => (i % 2 ? 1 : -1)),
    };
    const out = makeFirstOrder(count);
    priceEuropean(input, out, count);
    for (let i = 0; i < count; i++) {
      const one = priceContract({
        model: 'black-scholes-merton',
        side: i % 2 ? 'call' : 'put',
        spot: 100,
        strike: input.strike[i]!,
        years: input.years[i]!,
        rate: 0.04,
        yield: 0.01,
        vol: input.vol[i]!,
      });
      expect([out.price[i], out.delta[i], out.theta[i]]).toEqual([one.price, one.delta, one.theta]);
      expect(one.price).not.toBeNaN();
    }
  });
});

describe('touch', () => {
  it('without drift in the log it is twice the odds of ending beyond (reflection)', () => {
    const vol = 0.3;
    const drift = 0.5 * vol * vol;
    const touch = touchProbability(100, 120, 0.7, drift, vol);
    const beyond = priceContract({
      model: 'black-scholes-merton',
      side: 'call',
      spot: 100,
      strike: 120,
      years: 0.7,
      rate: drift,
      vol,
    }).itm;
    expect(touch).toBeCloseTo(2 * beyond, 14);
  });
  it('agrees with a fine random walk with a bridge between the steps', () => {
    // The bridge makes the discrete walk exact, so only the sampling error is left: 3.3 standard errors.
    const [spot, level, years, drift, vol, steps, walks] = [100, 92, 0.25, 0.05, 0.25, 8, 40_000];
    let state = 12345;
    const uniform = () => ((state = (Math.imul(state, 1664525) + 1013904223) >>> 0) + 0.5) / 4294967296;
    const dt = years / steps;
    let misses = 0;
    for (let w = 0; w < walks; w++) {
      let x = Math.log(spot / level);
      let survives = 1;
      for (let i = 0; i < steps && survives > 0; i++) {
        const z = Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
        const next = x + (drift - 0.5 * vol * vol) * dt + vol * Math.sqrt(dt) * z;
        survives *= next <= 0 ? 0 : 1 - Math.exp((-2 * x * next) / (vol * vol * dt));
        x = next;
      }
      misses += survives;
    }
    expect(Math.abs(1 - misses / walks - touchProbability(spot, level, years, drift, vol))).toBeLessThan(
      3.3 * Math.sqrt(0.25 / walks),
    );
  });
  it('does not exist without a vol or a positive price', () => {
    expect([
      touchProbability(100, 100, 1, 0, NaN),
      touchProbability(100, 120, 1, 0, NaN),
      touchProbability(0, 120, 1, 0, 0.2),
    ]).toEqual([NaN, NaN, NaN]);
  });
  it('stays a probability against an extreme drift', () => {
    for (const drift of [-3, -0.1, 0.1, 3]) {
      for (const vol of [0.001, 0.05, 4]) {
        for (const level of [50, 99.9, 100.1, 200]) {
          const touch = touchProbability(100, level, 1, drift, vol);
          expect(touch >= 0 && touch <= 1).toBe(true);
        }
      }
    }
  });
});

describe('leaving a corridor', () => {
  const deviation = Math.log(110 / 90);
  it('by images is what it is by sines, where the corridor is as wide as a deviation', () => {
    // The series change over there: either side of it they agree to what a step of 1e-9 moves.
    for (const drift of [-0.4, 0, 0.03, 0.5]) {
      const [under, over] = [1 - 1e-9, 1 + 1e-9].map((step) =>
        exitProbability(100, [90, 110], 1, drift, deviation * step),
      );
      expect(Math.abs(over! - under!)).toBeLessThan(1e-9);
    }
  });
  it('with one level far away is touching the other', () => {
    for (const vol of [0.1, 0.3]) {
      expect(exitProbability(100, [1e-9, 110], 1, 0.03, vol)).toBeCloseTo(touchProbability(100, 110, 1, 0.03, vol), 13);
      expect(exitProbability(100, [93, 1e9], 1, 0.03, vol)).toBeCloseTo(touchProbability(100, 93, 1, 0.03, vol), 13);
    }
  });
  it('has the mirror in the price: a path of 1/S leaves where S does, with the drift turned', () => {
    for (const vol of [0.05, 0.15, 0.4]) {
      const here = exitProbability(100, [92, 115], 0.8, 0.04, vol);
      const mirrored = exitProbability(1 / 100, [1 / 115, 1 / 92], 0.8, vol * vol - 0.04, vol);
      expect(mirrored).toBeCloseTo(here, 12);
    }
  });
  it('agrees with a random walk that watches between its steps', () => {
    // The bridge over each step counts either level by itself: with steps much shorter than the corridor both are not reached in one.
    const [spot, low, high, years, drift, vol, steps, walks] = [100, 90, 112, 0.5, 0.05, 0.2, 60, 20_000];
    let state = 4321;
    const uniform = () => ((state = (Math.imul(state, 1664525) + 1013904223) >>> 0) + 0.5) / 4294967296;
    const dt = years / steps;
    const [a, b] = [Math.log(low / spot), Math.log(high / spot)];
    const miss = (x: number, next: number) => 1 - Math.exp((-2 * x * next) / (vol * vol * dt));
    let stays = 0;
    for (let w = 0; w < walks; w++) {
      let x = 0;
      let survives = 1;
      for (let i = 0; i < steps && survives > 0; i++) {
        const z = Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
        const next = x + (drift - 0.5 * vol * vol) * dt + vol * Math.sqrt(dt) * z;
        survives *= next <= a || next >= b ? 0 : miss(x - a, next - a) * miss(b - x, b - next);
        x = next;
      }
      stays += survives;
    }
    const found = exitProbability(spot, [low, high], years, drift, vol);
    expect(Math.abs(1 - stays / walks - found)).toBeLessThan(3.3 * Math.sqrt(0.25 / walks));
  });
  it('is certain on a level or beyond, follows the drift without vol, and does not exist without a price', () => {
    expect(exitProbability(90, [90, 110], 1, 0, 0.2)).toBe(1);
    expect(exitProbability(120, [90, 110], 1, 0, 0.2)).toBe(1);
    expect(exitProbability(100, [90, 110], 1, 0.2, 0)).toBe(1);
    expect(exitProbability(100, [90, 110], 1, 0.02, 0)).toBe(0);
    expect([exitProbability(0, [90, 110], 1, 0, 0.2), exitProbability(100, [90, 110], 1, 0, NaN)]).toEqual([NaN, NaN]);
  });
  it('stays a probability, and more time makes it no smaller', () => {
    for (const drift of [-3, -0.1, 0.1, 3]) {
      for (const vol of [0.02, 0.2, 1, 4]) {
        const exits = [0.01, 0.1, 0.5, 1, 3].map((years) => exitProbability(100, [95, 130], years, drift, vol));
        expect(exits.every((exit) => exit >= 0 && exit <= 1)).toBe(true);
        expect(exits.every((exit, i) => i === 0 || exit >= exits[i - 1]! - 1e-12)).toBe(true);
      }
    }
  });
});
