import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { priceContract } from '../models';
import { payoffOf, priceStructure, profitAt, type PricedLeg } from '.';

const leg = (quantity: number, strike: number, vol = 0.2): PricedLeg => {
  const { price, delta, gamma, theta, vega } = priceContract({
    ...{ model: 'black-76', side: 'call', forward: 100, strike, years: 0.25, rate: 0.03, vol },
  });
  const deviations = Math.log(strike / 100) / (0.2 * 0.5);
  return { quantity, bid: price - 0.05, ask: price + 0.05, theory: price, delta, gamma, theta, vega, deviations };
};

describe('a structure', () => {
  it('costs a half spread of each leg more at worst, as much less at best', () => {
    const priced = priceStructure([leg(1, 100), leg(-2, 105)]);
    expect(priced.mid).toBeCloseTo(priced.value, 12);
    expect(priced.worst - priced.mid).toBeCloseTo(0.15, 12);
    expect(priced.mid - priced.best).toBeCloseTo(0.15, 12);
    const [one, two] = [leg(1, 100), leg(1, 105)];
    expect(priced.delta).toBeCloseTo(one.delta - 2 * two.delta, 12);
  });
  it('gains by skew what its legs do when their vols tilt by a point between the 25-delta wings', () => {
    const tilted = (quantity: number, strike: number) => {
      const z = Math.log(strike / 100) / 0.1;
      return leg(quantity, strike, 0.2 + (0.01 * z) / (2 * 0.6744897501960817)).theory * quantity;
    };
    const legs = [leg(1, 106), leg(-1, 94)];
    const gained = tilted(1, 106) + tilted(-1, 94) - priceStructure(legs).value;
    expect(priceStructure(legs).skew).toBeCloseTo(gained, 3);
    // A straddle at the forward has none.
    expect(priceStructure([leg(1, 100)]).skew).toBeCloseTo(0, 12);
    expect(priceStructure([leg(1, 100)]).curvature).toBeCloseTo(0, 12);
  });
  it('without a quote has no cost, but a value', () => {
    const priced = priceStructure([{ ...leg(1, 100), ask: NaN }, leg(-1, 105)]);
    expect(priced.worst).toBeNaN();
    expect(priced.value).toBeGreaterThan(0);
  });
});

const call = (quantity: number, strike: number) => ({ quantity, sign: 1, strike });
const put = (quantity: number, strike: number) => ({ quantity, sign: -1, strike });

describe('what legs pay', () => {
  it('a vertical: between nothing and its width, even at the strike and what it cost', () => {
    expect(payoffOf([call(1, 100), call(-1, 110)], 4)).toEqual({
      ...{ breakEvens: [104], maxProfit: 6, maxLoss: 4, gains: [{ from: 104, to: Infinity }] },
    });
    expect(payoffOf([put(-1, 95), put(1, 90)], -1.5)).toEqual({
      ...{ breakEvens: [93.5], maxProfit: 1.5, maxLoss: 3.5, gains: [{ from: 93.5, to: Infinity }] },
    });
  });
  it('a sold strangle: gains between its break-evens, loses without an end', () => {
    expect(payoffOf([call(-1, 110), put(-1, 90)], -3)).toEqual({
      ...{ breakEvens: [87, 113], maxProfit: 3, maxLoss: Infinity, gains: [{ from: 87, to: 113 }] },
    });
  });
  it('a bought call gains without an end; a butterfly between its wings', () => {
    expect(payoffOf([call(1, 100)], 5)).toMatchObject({ breakEvens: [105], maxProfit: Infinity, maxLoss: 5 });
    expect(payoffOf([call(1, 90), call(-2, 100), call(1, 110)], 2)).toEqual({
      ...{ breakEvens: [92, 108], maxProfit: 8, maxLoss: 2, gains: [{ from: 92, to: 108 }] },
    });
  });
  it('what costs nothing and is never under it has no loss', () => {
    const free = payoffOf([call(1, 100), call(-1, 110)], 0);
    expect([free.maxLoss, free.maxProfit]).toEqual([0, 10]);
    expect(free.gains).toEqual([{ from: 100, to: Infinity }]);
  });
  it('is nothing at every break-even, and of one sign between', () => {
    const legs = fc.array(
      fc.record({
        quantity: fc.integer({ min: -3, max: 3 }).filter((n) => n !== 0),
        sign: fc.constantFrom(1, -1),
        strike: fc.integer({ min: 50, max: 150 }),
      }),
      { minLength: 1, maxLength: 4 },
    );
    fc.assert(
      fc.property(
        legs,
        fc.integer({ min: -20, max: 20 }).map((n) => n + 0.37),
        (given, cost) => {
          const { breakEvens, gains, maxProfit, maxLoss } = payoffOf(given, cost);
          for (const price of breakEvens) expect(profitAt(given, cost, price)).toBeCloseTo(0, 9);
          for (let price = 1; price < 300; price += 3.3) {
            const profit = profitAt(given, cost, price);
            if (Math.abs(profit) < 1e-9) continue;
            expect(gains.some(({ from, to }) => price > from && price < to)).toBe(profit > 0);
            expect(profit).toBeLessThanOrEqual(maxProfit + 1e-9);
            expect(-profit).toBeLessThanOrEqual(maxLoss + 1e-9);
          }
        },
      ),
    );
  });
});
