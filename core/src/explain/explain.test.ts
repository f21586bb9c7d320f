import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { priceContract, type Contract } from '../models';
import {
  comparable,
  explainMove,
  forwardOf,
  inputOf,
  INPUTS,
  isPricedOn,
  sideReading,
  solveInput,
  sweep,
  withInput,
  type Input,
} from '.';

// Hull, "Options, Futures, and Other Derivatives", example 15.6, from memory: 4.76.
const call: Contract = {
  model: 'black-scholes-merton',
  side: 'call',
  spot: 42,
  strike: 40,
  years: 0.5,
  rate: 0.1,
  vol: 0.2,
};

describe('inputs', () => {
  it('are read and put in; less time brings cash dividends nearer', () => {
    for (const input of INPUTS) expect(inputOf(withInput(call, input, 0.3), input)).toBe(0.3);
    const future: Contract = { ...call, model: 'black-76', forward: 41 };
    expect(inputOf(withInput(future, 'price', 43), 'price')).toBe(43);
    expect([isPricedOn(future, 'yield'), isPricedOn(call, 'yield')]).toEqual([false, true]);
    const dividends = [
      { years: 0.1, amount: 1 },
      { years: 0.3, amount: 1 },
    ];
    expect(withInput({ ...call, dividends }, 'years', 0.3).dividends).toEqual([
      { years: expect.closeTo(0.1, 12), amount: 1 },
    ]);
  });
});

describe('a side', () => {
  it('intrinsic, time value, break-even and its odds, by hand', () => {
    const reading = sideReading(call);
    expect(reading.price).toBeCloseTo(4.76, 2);
    expect(reading.intrinsic).toBe(2);
    expect(reading.timeValue).toBeCloseTo(reading.price - 2, 12);
    expect(reading.breakEven).toBeCloseTo(40 + reading.price, 12);
    expect(reading.breakEvenOdds).toBeCloseTo(priceContract({ ...call, strike: 40 + reading.price }).itm, 12);
    expect(reading.breakEvenOdds).toBeLessThan(reading.itm);
    // So many vol points more, and a day has passed for nothing.
    const undone = priceContract({ ...call, years: 0.5 - 1 / 365, vol: 0.2 + reading.volPerDay / 100 });
    expect(undone.price).toBeCloseTo(reading.price, 4);
    expect(reading.earlyPremium).toBeNaN();
  });
  it('of an American put: what early exercise is worth, and odds at expiry', () => {
    const put: Contract = { ...call, model: 'american', side: 'put' };
    const reading = sideReading(put);
    const european = priceContract({ ...put, model: 'black-scholes-merton' });
    expect(reading.earlyPremium).toBeCloseTo(reading.price - european.price, 12);
    expect(reading.itm).toBe(european.itm);
    expect(sideReading({ ...put, strike: 2, spot: 3, vol: 3 }).breakEvenOdds).toBeGreaterThan(0);
    expect(forwardOf(put)).toBeCloseTo(42 * Math.exp(0.05), 12);
  });
});

describe('solving for an input', () => {
  it('gives back what made the price, the delta, the odds', () => {
    const targets = {
      price: ['price', 'strike', 'vol', 'rate'],
      delta: ['strike', 'price'],
      itm: ['strike', 'price'],
    } as const;
    fc.assert(
      fc.property(
        fc.record({
          side: fc.constantFrom('call' as const, 'put' as const),
          strike: fc.double({ min: 30, max: 55, noNaN: true }),
          years: fc.double({ min: 0.02, max: 2, noNaN: true }),
          vol: fc.double({ min: 0.1, max: 0.8, noNaN: true }),
        }),
        (terms) => {
          const contract: Contract = { ...call, ...terms };
          const values = priceContract(contract);
          for (const [output, inputs] of Object.entries(targets) as ['price' | 'delta' | 'itm', readonly Input[]][]) {
            for (const input of inputs) {
              const moved = withInput(contract, input, inputOf(contract, input) * 1.07);
              const found = solveInput(moved, input, { output, value: values[output] });
              if (!('value' in found)) {
                // A price that rounding has merged with its bound has no vol.
                expect([input, values.vega < 1e-9]).toEqual(['vol', true]);
                continue;
              }
              const again = priceContract(withInput(contract, input, found.value));
              expect(Math.abs(again[output] - values[output]), `${input} of ${output}`).toBeLessThan(1e-10);
            }
          }
        },
      ),
      { numRuns: 40, seed: 31 },
    );
  });
  it('says in words why there is none', () => {
    expect(solveInput(call, 'vol', { output: 'price', value: 1 })).toEqual({
      problem: 'no vol gives this price: it is at or under its lower bound',
    });
    const found = solveInput(call, 'strike', { output: 'delta', value: 1.4 });
    expect('problem' in found && found.problem).toMatch(/^no strike gives this delta: it runs from .* to 1$/);
  });
  it('for American contracts and for the normal model', () => {
    const put: Contract = { ...call, model: 'american', side: 'put' };
    const strike = solveInput(put, 'strike', { output: 'delta', value: -0.4 });
    expect(priceContract({ ...put, strike: 'value' in strike ? strike.value : NaN }).delta).toBeCloseTo(-0.4, 9);
    const normal: Contract = { ...call, model: 'bachelier', forward: -1, strike: 0.5, vol: 2 };
    const forward = solveInput(normal, 'price', { output: 'itm', value: 0.6 });
    expect(priceContract({ ...normal, forward: 'value' in forward ? forward.value : NaN }).itm).toBeCloseTo(0.6, 12);
  });
});

describe('what moved', () => {
  const moved: Contract = { ...call, spot: 43, years: 0.5 - 7 / 365, vol: 0.22, rate: 0.09 };
  it('the parts add up to the whole, and the Greeks come near them', () => {
    const move = explainMove(call, moved);
    expect(move.steps.map(({ input }) => input)).toEqual(['price', 'years', 'vol', 'rate']);
    const sum = move.steps.reduce((total, { exact }) => total + exact, move.together);
    expect(sum).toBeCloseTo(move.after - move.before.price, 12);
    expect(move.after).toBeCloseTo(priceContract(moved).price, 12);
    for (const { input, exact, estimate } of move.steps) expect(Math.abs(exact - estimate), input).toBeLessThan(0.02);
    expect(Math.abs(move.together - move.togetherEstimate)).toBeLessThan(0.02);
  });
  it('dividends are one change, counted by their sum', () => {
    const cash: Contract = { ...call, yield: 0, dividends: [{ years: 0.25, amount: 0.5 }] };
    const { steps, together } = explainMove({ ...call, yield: 0.05 }, cash);
    expect(steps.map(({ input, from, to }) => [input, from, to])).toEqual([
      ['yield', 0.05, 0],
      ['dividends', 0, 0.5],
    ]);
    const alone = priceContract({ ...cash, yield: 0.05 }).price - priceContract({ ...call, yield: 0.05 }).price;
    expect(steps[1]!.exact).toBeCloseTo(alone, 12);
    const [before, after] = [priceContract({ ...call, yield: 0.05 }).price, priceContract(cash).price];
    expect(steps[0]!.exact + steps[1]!.exact + together).toBeCloseTo(after - before, 12);
    expect(explainMove(cash, { ...cash }).steps).toEqual([]);
  });
  it('small changes alone are what the Greeks say', () => {
    const tiny = (change: Partial<Contract>) => explainMove(call, { ...call, ...change }).steps[0]!;
    for (const change of [{ spot: 42.001 }, { vol: 0.20001 }, { years: 0.49999 }, { rate: 0.10001 }]) {
      const { exact, estimate } = tiny(change);
      expect(estimate / exact).toBeCloseTo(1, 4);
    }
    expect(explainMove(call, call).steps).toEqual([]);
  });
});

describe('along an input', () => {
  it('is the contract priced at each value', () => {
    const values = Float64Array.of(30, 40, 50);
    const deltas = sweep(call, { input: 'price', values, output: 'delta' });
    values.forEach((spot, i) => expect(deltas[i]).toBe(priceContract({ ...call, spot }).delta));
    const premium = sweep(
      { ...call, model: 'american', side: 'put' },
      { input: 'rate', values: Float64Array.of(0, 0.1), output: 'earlyPremium' },
    );
    expect(premium[0]).toBeCloseTo(0, 9);
    expect(premium[1]).toBeGreaterThan(0.05);
  });
});

describe('model against model', () => {
  it('the European ones agree, the American is worth more, the normal one comes near at the money', () => {
    const put: Contract = { ...call, side: 'put', strike: 44 };
    const prices = new Map(comparable(put).map(({ model, contract }) => [model, priceContract(contract).price]));
    const own = priceContract(put).price;
    expect(prices.get('black-scholes-merton')).toBeCloseTo(own, 12);
    expect(prices.get('black-76')).toBeCloseTo(own, 12);
    expect(prices.get('binomial')).toBeCloseTo(own, 3);
    expect(prices.get('american')).toBeGreaterThan(own + 0.1);
    expect(Math.abs(prices.get('bachelier')! - own)).toBeLessThan(0.05);
  });
  it('from the forward: its yield is the rate; prices under zero have the normal model alone', () => {
    const future: Contract = { ...call, model: 'black-76', forward: 42, spot: undefined };
    const own = priceContract(future).price;
    for (const { model, contract } of comparable(future)) {
      if (model === 'black-scholes-merton') expect(priceContract(contract).price).toBeCloseTo(own, 12);
    }
    const normal: Contract = { ...call, model: 'bachelier', forward: -3, vol: 1 };
    expect(comparable(normal).map(({ model }) => model)).toEqual(['bachelier']);
  });
});
