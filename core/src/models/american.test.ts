import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  americanValues,
  binomialValues,
  earlyExercise,
  priceAmerican,
  priceBinomial,
  priceContract,
  type AmericanInput,
  type AmericanSetting,
  type BinomialInput,
} from '.';

const PUT = -1;
const CALL = 1;

function american(input: AmericanInput, setting: AmericanSetting = 'precise'): number {
  const column = (value: number) => Float64Array.of(value);
  const price = column(0);
  const { sign, spot, strike, years, rate, vol } = input;
  const columns = {
    sign: column(sign),
    spot: column(spot),
    strike: column(strike),
    years: column(years),
    rate: column(rate),
    yield: column(input.yield),
    vol: column(vol),
  };
  priceAmerican(columns, price, 1, setting);
  return price[0]!;
}

const european = (input: AmericanInput): number =>
  priceContract({ model: 'black-scholes-merton', side: input.sign > 0 ? 'call' : 'put', ...input }).price;

const base: AmericanInput = { sign: PUT, spot: 100, strike: 100, years: 1, rate: 0.05, yield: 0.02, vol: 0.25 };
const inTree = (input: AmericanInput, more: Partial<BinomialInput> = {}): BinomialInput => ({
  ...input,
  isAmerican: true,
  ...more,
});

/** Leisen and Reimer's trees, extrapolated: what is left of their error is of the second order. */
function tree(input: AmericanInput, steps = 2001): number {
  return 2 * priceBinomial(inTree(input), 2 * steps - 1) - priceBinomial(inTree(input), steps);
}

const ordinary = fc.record({
  sign: fc.constantFrom(CALL, PUT),
  spot: fc.constant(100),
  strike: fc.double({ min: 60, max: 160, noNaN: true }),
  years: fc.double({ min: 1 / 365, max: 3, noNaN: true }),
  rate: fc.double({ min: 0, max: 0.12, noNaN: true }),
  yield: fc.double({ min: 0, max: 0.12, noNaN: true }),
  vol: fc.double({ min: 0.05, max: 1.5, noNaN: true }),
});

describe('American options, published values', () => {
  // F. Longstaff and E. Schwartz, "Valuing American options by simulation" (2001), table 1, finite differences, from
  // memory: puts with strike 40, rate 6 %, four decimals of the price are given as three.
  it.each([
    [36, 0.2, 1, 4.478],
    [36, 0.2, 2, 4.84],
    [36, 0.4, 1, 7.101],
    [36, 0.4, 2, 8.508],
    [38, 0.2, 1, 3.25],
    [40, 0.2, 1, 2.314],
    [40, 0.4, 2, 6.92],
    [44, 0.2, 1, 1.11],
    [44, 0.4, 2, 5.647],
  ])('Longstaff and Schwartz: spot %d, vol %d, %d years', (spot, vol, years, price) => {
    const got = american({ sign: PUT, spot, strike: 40, years, rate: 0.06, yield: 0, vol });
    // Their grid and 50 exercise dates a year leave some thousandths.
    expect(Math.abs(got - price)).toBeLessThan(0.012);
  });
  it('the perpetual put in closed form (R. Merton, 1973), from a long life', () => {
    const [rate, vol, strike, spot] = [0.08, 0.3, 100, 90];
    const power = (-2 * rate) / (vol * vol);
    const boundary = (strike * power) / (power - 1);
    const perpetual = (strike - boundary) * (spot / boundary) ** power;
    const at = (years: number) => american({ sign: PUT, spot, strike, years, rate, yield: 0, vol });
    expect(at(60)).toBeLessThan(perpetual);
    expect(perpetual - at(60)).toBeLessThan(0.02);
    expect(perpetual - at(60)).toBeLessThan(perpetual - at(20));
  });
});

describe('American options', () => {
  it('agree with extrapolated trees, of either sign of rate and yield', () => {
    const cases: Partial<AmericanInput>[] = [
      {},
      { sign: CALL, yield: 0.07 },
      { rate: 0.1, yield: 0.1, vol: 0.5, years: 3 },
      { yield: -0.03, vol: 0.2 },
      { rate: 0, yield: -0.05, vol: 0.3 },
      { rate: 0.001, yield: -0.05 },
      { sign: CALL, rate: -0.02, yield: 0.03 },
      { rate: 0.03, yield: 0.03, vol: 0.05, years: 0.01 },
      { strike: 110, rate: 0.02, yield: 0.3, vol: 0.2 },
    ];
    for (const change of cases) {
      const input = { ...base, ...change };
      // The extrapolated tree is itself no closer than 1e-7 of spot.
      expect(Math.abs(american(input) - tree(input)) / input.spot, JSON.stringify(change)).toBeLessThan(1e-7);
    }
  });

  it('fast is within 1e-6 of spot of precise, from a day to three years', () => {
    fc.assert(
      fc.property(ordinary, (input) => {
        expect(Math.abs(american(input, 'fast') - american(input)) / input.spot).toBeLessThan(1e-6);
      }),
      { numRuns: 300, seed: 4 },
    );
  });

  it('are worth no less than exercising now or at the end, and no more than what they can earn', () => {
    fc.assert(
      fc.property(ordinary, (input) => {
        const { sign, spot, strike } = input;
        const price = american(input);
        expect(price).toBeGreaterThanOrEqual(Math.max(0, sign * (spot - strike)) - 1e-12);
        expect(price).toBeGreaterThanOrEqual(european(input) - 1e-8 * spot);
        expect(price).toBeLessThanOrEqual(sign > 0 ? spot : strike);
      }),
      { numRuns: 200, seed: 5 },
    );
  });

  it('a call is a put with spot and strike, rate and yield exchanged (McDonald and Schroder, 1998), also in the tree', () => {
    for (const change of [{}, { strike: 120, yield: 0.08 }, { vol: 0.6, rate: 0.01 }]) {
      const call = { ...base, ...change, sign: CALL };
      const put = { ...call, sign: PUT, spot: call.strike, strike: call.spot, rate: call.yield, yield: call.rate };
      expect(american(call)).toBe(american(put));
      expect(priceBinomial(inTree(call), 1001)).toBeCloseTo(american(put), 3);
    }
  });

  it('are homogeneous in spot and strike', () => {
    const price = american(base);
    expect(american({ ...base, spot: 1e4, strike: 1e4 })).toBeCloseTo(100 * price, 8);
  });

  it('without a reason to be exercised early are European: calls without yield, puts without rate', () => {
    for (const input of [
      { ...base, sign: CALL, yield: 0 },
      { ...base, rate: 0 },
      { ...base, rate: -0.03, yield: 0.01 },
    ]) {
      expect(earlyExercise(input.sign, input.rate, input.yield)).toBe('never');
      expect(Math.abs(american(input) - european(input))).toBeLessThan(1e-12);
    }
  });

  it('two boundaries are said, and no number is made up for them', () => {
    expect(earlyExercise(PUT, -0.01, -0.05)).toBe('between');
    expect(american({ ...base, rate: -0.01, yield: -0.05 })).toBeNaN();
    expect(earlyExercise(CALL, -0.05, -0.01)).toBe('between');
    expect(earlyExercise(PUT, 0.05, 0.02)).toBe('single');
  });

  it('no time or no vol: the best moment along the forward; far away and next to expiry: no NaN', () => {
    expect(american({ ...base, years: 0, strike: 110 })).toBe(10);
    expect(american({ ...base, vol: 0, strike: 110 })).toBe(10);
    // Worth more at the end: the spot falls along its forward faster than the strike is discounted.
    const late = american({ ...base, vol: 0, rate: 0.01, yield: 0.2 });
    expect(late).toBeCloseTo(100 * Math.exp(-0.01) - 100 * Math.exp(-0.2), 12);
    fc.assert(
      fc.property(
        fc.record({
          sign: fc.constantFrom(CALL, PUT),
          spot: fc.double({ min: 1e-3, max: 1e5, noNaN: true }),
          strike: fc.double({ min: 1e-3, max: 1e5, noNaN: true }),
          years: fc.double({ min: 1 / 525_600, max: 30, noNaN: true }),
          rate: fc.double({ min: 0, max: 0.5, noNaN: true }),
          yield: fc.double({ min: 0, max: 0.5, noNaN: true }),
          vol: fc.double({ min: 1e-3, max: 4, noNaN: true }),
        }),
        (input) => {
          for (const setting of ['fast', 'precise'] as const) {
            const price = american(input, setting);
            expect(price).toBeGreaterThanOrEqual(0);
            expect(price).toBeLessThanOrEqual(Math.max(input.spot, input.strike));
          }
        },
      ),
      { numRuns: 500, seed: 6 },
    );
  });
});

describe('Greeks of American options', () => {
  const inputs: AmericanInput[] = [
    base,
    { ...base, sign: CALL, yield: 0.06 },
    { ...base, strike: 90, vol: 0.4, years: 0.3 },
    { ...base, sign: CALL, strike: 120, yield: 0.04, years: 2 },
  ];
  it('are the differences of prices, and of Greeks', () => {
    for (const input of inputs) {
      const values = americanValues(input);
      const at = (change: Partial<AmericanInput>) => americanValues({ ...input, ...change });
      const h = 0.05;
      const [down, up] = [at({ spot: input.spot - h }), at({ spot: input.spot + h })];
      expect(values.delta).toBeCloseTo((up.price - down.price) / (2 * h), 5);
      expect(values.gamma).toBeCloseTo((up.delta - down.delta) / (2 * h), 5);
      expect(values.speed).toBeCloseTo((up.gamma - down.gamma) / (2 * h), 5);
      expect(values.vanna).toBeCloseTo((up.vega - down.vega) / (2 * h), 5);
      // A day less: theta, charm, color and veta are what it changes.
      const day = 1 / 365 / 100;
      const [older, younger] = [at({ years: input.years - day }), at({ years: input.years + day })];
      const perDay = (name: 'price' | 'delta' | 'gamma' | 'vega') => 100 * 0.5 * (older[name] - younger[name]);
      expect(values.theta).toBeCloseTo(perDay('price'), 5);
      expect(values.charm).toBeCloseTo(perDay('delta'), 5);
      expect(values.color).toBeCloseTo(perDay('gamma'), 5);
      expect(values.veta).toBeCloseTo(perDay('vega'), 5);
    }
  });
  it('without early exercise are those of the European formula', () => {
    const input = { ...base, sign: CALL, yield: 0 };
    const values = americanValues(input);
    const closed = priceContract({ model: 'black-scholes-merton', side: 'call', ...input });
    for (const [name, value] of Object.entries(values)) {
      expect(value, name).toBeCloseTo(closed[name as keyof typeof closed], 7);
    }
  });
  it('agree with those of the tree', () => {
    for (const input of inputs) {
      const [values, nodes] = [americanValues(input), binomialValues(inTree(input), 2001)];
      // A parabola through nodes σ√Δt apart leaves an error of the order of Δt.
      expect(nodes.delta).toBeCloseTo(values.delta, 3);
      const finer = binomialValues(inTree(input), 4001);
      expect(Math.abs(finer.delta - values.delta)).toBeLessThan(0.7 * Math.abs(nodes.delta - values.delta) + 1e-6);
      expect(nodes.gamma).toBeCloseTo(values.gamma, 4);
      expect(nodes.theta).toBeCloseTo(values.theta, 4);
      expect(nodes.vega).toBeCloseTo(values.vega, 3);
      expect(nodes.rho).toBeCloseTo(values.rho, 3);
    }
  });
  it('of what is worth exercising now: nothing moves it but the price', () => {
    const { price, delta, ...others } = americanValues({ ...base, spot: 60 });
    expect([price, delta]).toEqual([40, -1]);
    expect(new Set(Object.values(others))).toEqual(new Set([0]));
  });
});

describe('the binomial tree', () => {
  it('converges to the European formula with the second power of its steps', () => {
    for (const sign of [CALL, PUT]) {
      const input = { ...base, sign, strike: 107 };
      const error = (steps: number) =>
        Math.abs(priceBinomial(inTree(input, { isAmerican: false }), steps) - european(input));
      expect(error(101)).toBeLessThan(1e-3);
      expect(error(1001)).toBeLessThan(error(101) / 50);
    }
  });
  it('escrowed dividends: the European is that of the spot less their present value', () => {
    const dividends = [
      { years: 0.25, amount: 1.5 },
      { years: 0.75, amount: 2 },
      { years: 0, amount: 50 },
      { years: 1, amount: 50 },
    ];
    const value = 1.5 * Math.exp(-0.05 * 0.25) + 2 * Math.exp(-0.05 * 0.75);
    const got = priceBinomial(inTree(base, { isAmerican: false, dividends }), 2001);
    expect(got).toBeCloseTo(european({ ...base, spot: 100 - value }), 5);
    expect(priceBinomial(inTree(base, { dividends: [{ years: 0.5, amount: 200 }] }))).toBeNaN();
  });
  it('a call is exercised the moment before a large dividend, cum it', () => {
    const input = { ...base, sign: CALL, strike: 80, yield: 0, rate: 0.03, vol: 0.1 };
    const dividends = [{ years: 0.5, amount: 15 }];
    const got = priceBinomial(inTree(input, { dividends }), 2001);
    // Exercised just before it: the spot now less the strike half a year later, and the little that the vol adds.
    const exercised = 100 - 80 * Math.exp(-0.03 * 0.5);
    // The last moment of the tree before it is up to a step earlier: so much less interest on the strike.
    expect(got).toBeGreaterThan(exercised - (80 * 0.03) / 2001);
    expect(got).toBeLessThan(exercised + 0.1);
    expect(got).toBeGreaterThan(priceBinomial(inTree(input, { dividends, isAmerican: false }), 2001) + 5);
  });
  it('its delta, gamma and theta without early exercise are those of the formula', () => {
    const input = { ...base, sign: CALL };
    const nodes = binomialValues(inTree(input, { isAmerican: false }), 2001);
    const closed = priceContract({ model: 'black-scholes-merton', side: 'call', ...input });
    for (const name of ['price', 'delta', 'gamma', 'theta', 'vega', 'rho'] as const) {
      expect(nodes[name], name).toBeCloseTo(closed[name], name === 'delta' ? 3 : 4);
    }
  });
});
