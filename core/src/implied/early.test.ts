import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { americanExpiry, priceContract, type Contract } from '../models';
import { impliedAmericanVols, impliedVol } from '.';

const put = { model: 'american', side: 'put', spot: 100, strike: 110, years: 1, rate: 0.05 } as const;

describe('implied vol with early exercise', () => {
  it('price → vol → price, wherever the price determines the vol', () => {
    fc.assert(
      fc.property(
        fc.record({
          model: fc.constantFrom('american' as const, 'american' as const, 'binomial' as const),
          side: fc.constantFrom('call' as const, 'put' as const),
          strike: fc.double({ min: 70, max: 130, noNaN: true }),
          years: fc.double({ min: 0.02, max: 2, noNaN: true }),
          rate: fc.double({ min: -0.01, max: 0.07, noNaN: true }),
          yield: fc.double({ min: -0.01, max: 0.07, noNaN: true }),
          vol: fc.double({ min: 0.08, max: 0.9, noNaN: true }),
        }),
        (terms) => {
          const contract: Contract = { ...terms, spot: 100, steps: 101 };
          const { price, vega } = priceContract(contract);
          const found = impliedVol({ ...contract, price });
          if ('reason' in found) {
            // Exercised now: every vol up to some gives this price.
            expect([found.reason, vega < 1e-6]).toEqual(['below-intrinsic', true]);
            return;
          }
          const again = priceContract({ ...contract, vol: found.vol }).price;
          expect(Math.abs(again - price)).toBeLessThan(2e-11 * 100);
          // Prices carry some 1e-12 of the spot: a vol cannot be had closer than they move with it.
          expect(Math.abs(found.vol - terms.vol) * 100 * vega).toBeLessThan(1e-8);
        },
      ),
      { numRuns: 120, seed: 21 },
    );
  });
  it('has a reason where there is none', () => {
    expect(impliedVol({ ...put, price: 10 })).toEqual({ reason: 'below-intrinsic' });
    expect(impliedVol({ ...put, price: 110 })).toEqual({ reason: 'above-maximum' });
    expect(impliedVol({ ...put, price: 12, years: 0 })).toEqual({ reason: 'expired' });
    expect(impliedVol({ ...put, model: 'binomial', side: 'call', price: 100 })).toEqual({ reason: 'above-maximum' });
    // Worth more at the end than now, for the yield.
    expect(impliedVol({ ...put, rate: 0, yield: 0.1, price: 19 })).toEqual({ reason: 'below-intrinsic' });
  });
  it('just over the value of exercising, and far up', () => {
    for (const price of [10.0001, 60, 109]) {
      const found = impliedVol({ ...put, price });
      expect(priceContract({ ...put, vol: 'vol' in found ? found.vol : NaN }).price).toBeCloseTo(price, 9);
    }
  });
  it('cash dividends are taken out of the spot', () => {
    const contract = { ...put, dividends: [{ years: 0.5, amount: 3 }] };
    const { price } = priceContract({ ...contract, vol: 0.3 });
    expect(impliedVol({ ...contract, price })).toMatchObject({ vol: expect.closeTo(0.3, 9) });
    const closed = { ...contract, model: 'black-scholes-merton' } as const;
    expect(impliedVol({ ...closed, price: priceContract({ ...closed, vol: 0.3 }).price })).toMatchObject({
      vol: expect.closeTo(0.3, 13),
    });
  });
});

describe('a side of an expiry', () => {
  it('mids, bids and asks by strikes are those of single contracts', () => {
    const terms = { spot: 100, years: 0.5, rate: 0.05, yield: 0.03 };
    const expiry = americanExpiry(terms, 0.15, 0.45);
    const strike = Float64Array.from({ length: 15 }, (_, i) => 79 + 3 * i);
    for (const side of ['call', 'put'] as const) {
      const sign = side === 'call' ? 1 : -1;
      const half = 0.04;
      const mid = strike.map(
        (k) => priceContract({ model: 'american', side, strike: k, vol: 0.3 - 0.001 * (k - 100), ...terms }).price,
      );
      const prices = { bid: mid.map((price) => price - half), mid, ask: mid.map((price) => price + half) };
      const guess = (name: 'bid' | 'mid' | 'ask') =>
        strike.map((k, i) => {
          const european = impliedVol({
            model: 'black-scholes-merton',
            side,
            strike: k,
            price: prices[name][i]!,
            ...terms,
          });
          return 'vol' in european ? european.vol : NaN;
        });
      const vols = { bid: guess('bid'), mid: guess('mid'), ask: guess('ask') };
      impliedAmericanVols(expiry, sign, strike, prices, vols);
      strike.forEach((k, i) => {
        for (const name of ['bid', 'mid', 'ask'] as const) {
          const single = impliedVol({ model: 'american', side, strike: k, price: prices[name][i]!, ...terms });
          if (!('vol' in single)) expect(vols[name][i]).toBeNaN();
          // A hundredth of a vol point, where early exercise leaves no more than cents of time value.
          else expect(Math.abs(vols[name][i]! - single.vol), `${side} ${k} ${name}`).toBeLessThan(1e-4);
        }
      });
    }
  });
});
