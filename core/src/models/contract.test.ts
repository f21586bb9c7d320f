import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  americanExpiry,
  americanValues,
  exerciseBoundary,
  priceBinomial,
  priceContract,
  pricingModel,
  smallTree,
  type Contract,
  type ContractValues,
} from '.';

const put: Contract = { model: 'american', side: 'put', spot: 100, strike: 100, years: 1, rate: 0.05, vol: 0.25 };
const dividends = [
  { years: 0.2, amount: 1.2 },
  { years: 0.7, amount: 1.2 },
];
const NAMES = [
  'price',
  'delta',
  'gamma',
  'theta',
  'vega',
  'rho',
  'vanna',
  'volga',
  'charm',
  'speed',
  'color',
  'veta',
  'zomma',
] as const;

describe('published American values', () => {
  it('Andersen, Lake and Offengenden (2016), table 2, from memory: the premium at r = q = 5 %, 25 %, a year', () => {
    const contract = { ...put, yield: 0.05 };
    const premium = priceContract(contract).price - priceContract({ ...contract, model: 'black-scholes-merton' }).price;
    expect(premium).toBeCloseTo(0.106952702747, 10);
  });
  it('Hull, section 21.1 (from memory): the put on 50 at 10 % and 40 % for five months, 4.28', () => {
    const contract: Contract = { ...put, spot: 50, strike: 50, years: 5 / 12, rate: 0.1, vol: 0.4 };
    expect(priceContract(contract).price).toBeCloseTo(4.28, 2);
    expect(priceContract({ ...contract, model: 'binomial', steps: 500 }).price).toBeCloseTo(4.283, 2);
  });
});

describe('which model answers', () => {
  it('cash dividends in the life, and two boundaries, go to the tree', () => {
    expect(pricingModel(put)).toBe('american');
    expect(pricingModel({ ...put, dividends })).toBe('binomial');
    expect(pricingModel({ ...put, dividends: [{ years: 1.5, amount: 1 }] })).toBe('american');
    expect(pricingModel({ ...put, rate: -0.01, yield: -0.05 })).toBe('binomial');
    expect(pricingModel({ ...put, model: 'black-scholes-merton', dividends })).toBe('black-scholes-merton');
  });
  it('two boundaries: no NaN, and worth no less than exercising now or at the end', () => {
    const contract: Contract = { ...put, rate: -0.01, yield: -0.05, strike: 110 };
    const values = priceContract(contract);
    for (const name of NAMES) expect(values[name], name).not.toBeNaN();
    expect(values.price).toBeGreaterThan(10);
    expect(values.price).toBeGreaterThan(priceContract({ ...contract, model: 'black-scholes-merton' }).price);
  });
  it('the price it is written on has to be there', () => {
    expect(() => priceContract({ ...put, spot: undefined })).toThrow('american needs spot');
    expect(() => priceContract({ ...put, model: 'black-76' })).toThrow('black-76 needs forward');
  });
});

describe('cash dividends', () => {
  const closed: Contract = { ...put, model: 'black-scholes-merton', side: 'call', strike: 104, yield: 0.01, dividends };
  it('the closed form is that of the spot less their present value; all Greeks are its differences', () => {
    const value = 1.2 * Math.exp(-0.05 * 0.2) + 1.2 * Math.exp(-0.05 * 0.7);
    const values = priceContract(closed);
    const stripped = { ...closed, spot: 100 - value, dividends: undefined };
    expect(values.price).toBe(priceContract(stripped).price);
    expect(values.touch).toBeNaN();
    const at = (change: Partial<Contract>) => priceContract({ ...closed, ...change });
    const slope = (change: (h: number) => Partial<Contract>, h: number, name: keyof ContractValues) =>
      (at(change(h))[name] - at(change(-h))[name]) / (2 * h);
    expect(values.rho).toBeCloseTo(slope((h) => ({ rate: 0.05 + h }), 1e-5, 'price') * 0.01, 8);
    // A day later everything is a day nearer, the dividends too.
    const later = (h: number) => ({
      years: 1 - h,
      dividends: dividends.map(({ years, amount }) => ({ years: years - h, amount })),
    });
    for (const [name, of] of [
      ['theta', 'price'],
      ['charm', 'delta'],
      ['color', 'gamma'],
      ['veta', 'vega'],
    ] as const) {
      expect(values[name], name).toBeCloseTo(slope(later, 1e-5, of) / 365, 8);
    }
  });
  it('the European tree converges to it in every Greek', () => {
    const values = priceContract(closed);
    const tree = priceContract({ ...closed, model: 'binomial', exercise: 'european', steps: 4001 });
    for (const name of NAMES) {
      expect(Math.abs(tree[name] - values[name]), name).toBeLessThan(2e-3 * Math.abs(values[name]) + 1e-7);
    }
  });
  it('what is exercised in the tree moves with the price alone', () => {
    const {
      price,
      delta,
      touch: _,
      itm: __,
      ...rest
    } = priceContract({ ...put, spot: 50, dividends: [dividends[0]!], yield: -0.3 });
    expect(price).toBeGreaterThan(0);
    expect(delta).toBeLessThan(0);
    const exercised = priceContract({ ...put, model: 'binomial', spot: 40 });
    expect([exercised.price, exercised.delta, exercised.gamma, exercised.theta, exercised.vega]).toEqual([
      60, -1, 0, 0, 0,
    ]);
    expect(Object.values(rest).every(Number.isFinite)).toBe(true);
  });
});

describe('the Black–Scholes equation', () => {
  it('ties theta to delta and gamma, to 1e-10 of the spot a year', () => {
    fc.assert(
      fc.property(
        fc.record({
          side: fc.constantFrom('call' as const, 'put' as const),
          strike: fc.double({ min: 60, max: 160, noNaN: true }),
          years: fc.double({ min: 0.01, max: 3, noNaN: true }),
          rate: fc.double({ min: -0.03, max: 0.1, noNaN: true }),
          yield: fc.double({ min: -0.03, max: 0.1, noNaN: true }),
          vol: fc.double({ min: 0.05, max: 1, noNaN: true }),
        }),
        (terms) => {
          const { price, delta, gamma, theta } = priceContract({ ...put, ...terms, model: 'black-scholes-merton' });
          const drift = (terms.rate - terms.yield) * 100 * delta;
          const left = theta * 365 + drift + 0.5 * terms.vol ** 2 * 1e4 * gamma - terms.rate * price;
          expect(Math.abs(left) / 100).toBeLessThan(1e-10);
        },
      ),
      { numRuns: 200, seed: 11 },
    );
  });
});

describe('no vol, no time', () => {
  it('early exercise: the best moment along the forward, its delta and its decay', () => {
    const certain = priceContract({ ...put, vol: 0, spot: 90, rate: 0.01, yield: 0.2 });
    expect(certain.price).toBeCloseTo(100 * Math.exp(-0.01) - 90 * Math.exp(-0.2), 12);
    expect(certain.delta).toBeCloseTo(-Math.exp(-0.2), 12);
    expect(certain.theta).toBeCloseTo((0.01 * 100 * Math.exp(-0.01) - 0.2 * 90 * Math.exp(-0.2)) / 365, 9);
    expect(certain.rho).toBeCloseTo(-Math.exp(-0.01), 6);
    expect(priceContract({ ...put, years: 0, spot: 90 })).toMatchObject({ price: 10, delta: -1, gamma: 0, vega: 0 });
    expect(priceContract({ ...put, years: 0, dividends, spot: 90 })).toMatchObject({ price: 10, delta: -1 });
  });
  it('a call is exercised before the dividend that takes its value, without vol too', () => {
    const call: Contract = { ...put, side: 'call', strike: 90, vol: 0, dividends: [{ years: 0.5, amount: 30 }] };
    expect(priceContract(call).price).toBeCloseTo(100 - 90 * Math.exp(-0.05 * 0.5), 12);
  });
});

describe('far from the money', () => {
  // By mpmath at 60 digits, from the formula.
  it.each([
    [100.5, 1 / 525_600, 0.2, 3.5377763681284384e-76],
    [110, 0.01, 0.1, 1.2371095650861113e-22],
    [300, 0.25, 0.2, 1.0414364983650452e-27],
    [1e7, 1, 1, 2.1024337474764413e-27],
  ])('a call struck at %d keeps its digits', (strike, years, vol, price) => {
    const call: Contract = { ...put, model: 'black-scholes-merton', side: 'call', strike, years, vol, yield: 0.01 };
    // The bell's exponent, d²/2 ≈ 170 and more, has half a digit of rounding that is multiplied by itself.
    expect(Math.abs(priceContract(call).price / price - 1)).toBeLessThan(2e-13);
  });
  it('forwards over strikes by 1e5 and under, a minute to go: finite and inside their bounds', () => {
    for (const model of ['black-scholes-merton', 'american', 'binomial'] as const) {
      for (const [spot, strike] of [
        [1e5, 1],
        [1, 1e5],
        [100, 100],
      ] as const) {
        for (const years of [1 / 525_600, 1, 30]) {
          const values = priceContract({ ...put, model, spot, strike, years, steps: 101 });
          for (const name of NAMES) expect(values[name], `${model} ${spot}/${strike} ${years} ${name}`).not.toBeNaN();
          expect(values.price).toBeGreaterThanOrEqual(0);
          expect(values.price).toBeLessThanOrEqual(strike);
        }
      }
    }
  });
  it('the normal model keeps its digits too: 1e-40 of the forward', () => {
    const contract: Contract = { model: 'bachelier', side: 'call', forward: 0, strike: 13, years: 1, rate: 0, vol: 1 };
    // n(13)(1 − 13·R(13)/n(0)…), by its asymptotic series to the smallest term, agrees to eleven digits.
    let term = 1;
    let series = 0;
    for (let k = 1; k < 60; k++) {
      const next = (-term * (2 * k + 1)) / 169;
      series += term;
      if (Math.abs(next) > Math.abs(term)) break;
      term = next;
    }
    const density = Math.exp(-0.5 * 169) / Math.sqrt(2 * Math.PI);
    expect(priceContract(contract).price / ((density * series) / 169)).toBeCloseTo(1, 11);
  });
});

describe('American contracts of one expiry', () => {
  it('are those of the precise setting within 1e-5 of the spot, Greeks too', () => {
    fc.assert(
      fc.property(
        fc.record({
          sign: fc.constantFrom(1, -1),
          distance: fc.double({ min: -2, max: 2, noNaN: true }),
          years: fc.double({ min: 0.01, max: 2, noNaN: true }),
          rate: fc.double({ min: 0, max: 0.06, noNaN: true }),
          yield: fc.double({ min: -0.02, max: 0.06, noNaN: true }),
          vol: fc.double({ min: 0.12, max: 0.5, noNaN: true }),
        }),
        ({ sign, distance, vol, ...terms }) => {
          const strike = 100 * Math.exp(distance * vol * Math.sqrt(terms.years));
          const expiry = americanExpiry({ spot: 100, ...terms }, 0.1, 0.6);
          const exact = americanValues({ sign, spot: 100, strike, vol, ...terms });
          const [price, delta] = expiry.sheet(sign, strike, vol);
          expect(Math.abs(price - exact.price)).toBeLessThan(1e-3);
          expect(expiry.price(sign, strike, vol)).toBe(price);
          expect(Math.abs(delta - exact.delta)).toBeLessThan(2e-3);
        },
      ),
      { numRuns: 100, seed: 12 },
    );
  });
  it('outside its vols, without any, and with two boundaries it answers all the same', () => {
    const expiry = americanExpiry({ spot: 100, years: 0.5, rate: 0.05, yield: 0.01 }, 0.2, 0.3);
    const exact = americanValues({ sign: -1, spot: 100, strike: 105, years: 0.5, rate: 0.05, yield: 0.01, vol: 0.9 });
    expect(expiry.price(-1, 105, 0.9)).toBeCloseTo(exact.price, 3);
    expect(expiry.price(-1, 105, 0)).toBe(5);
    const between = americanExpiry({ spot: 100, years: 0.5, rate: -0.02, yield: -0.06 }, 0.2, 0.3);
    const tree = priceContract({ ...put, years: 0.5, rate: -0.02, yield: -0.06 }).price;
    expect(between.sheet(-1, 100, 0.25)[0]).toBeCloseTo(tree, 1);
  });
});

describe('inside the models', () => {
  const input = {
    sign: -1,
    spot: 100,
    strike: 104,
    years: 0.5,
    rate: 0.06,
    yield: 0.01,
    vol: 0.3,
    dividends: [{ years: 0.2, amount: 3 }],
  };
  it('a tree that can be read begins with the price of the tree', () => {
    for (const isAmerican of [true, false]) {
      for (const sign of [1, -1]) {
        const tree = smallTree({ ...input, sign, isAmerican }, 5);
        expect(tree.levels.map((level) => level.length)).toEqual([1, 2, 3, 4, 5, 6]);
        expect(tree.levels[0]![0]!.value).toBeCloseTo(priceBinomial({ ...input, sign, isAmerican }, 5), 10);
        expect(tree.levels[0]![0]!.price).toBeCloseTo(100, 10);
      }
    }
  });
  it('the boundary of a put rises to its limit, and on it holding is worth exercising', () => {
    const put_ = { sign: -1, spot: 100, strike: 100, years: 1, rate: 0.04, yield: 0.08, vol: 0.3 };
    const points = exerciseBoundary({ ...put_, model: 'american', side: 'put' });
    expect(points.at(-1)).toEqual({ years: 0, price: expect.closeTo(50, 10) });
    for (const { years, price } of points.slice(0, -1)) {
      const { delta } = americanValues({ ...put_, years, spot: price * 1.0001 });
      expect(delta).toBeCloseTo(-1, 2);
    }
  });
});
