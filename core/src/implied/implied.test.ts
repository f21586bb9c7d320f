import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import reference from '../../fixtures/reference.json';
import { normalInverse } from '../distributions';
import { priceContract, type Contract } from '../models';
import { combineForwards, impliedVol, impliedVols, parityForward, quoteReason, reasonName } from '.';

describe('implied vol', () => {
  it.each(reference.impliedVols)(
    '$strike $years at $vol, price by mpmath',
    ({ side, forward, strike, years, price, vol }) => {
      const result = impliedVol({ model: 'black-76', side: side as 'call', forward, strike, years, rate: 0, price });
      expect('vol' in result && Math.abs(result.vol / vol - 1)).toBeLessThan(2e-14);
    },
  );

  it('price → vol → price over a wide grid, both sides', () => {
    fc.assert(
      fc.property(
        fc.record({
          moneyness: fc.double({ min: -1.2, max: 1.2, noNaN: true }),
          years: fc.double({ min: 0.001, max: 3, noNaN: true }),
          rate: fc.double({ min: -0.03, max: 0.1, noNaN: true }),
          vol: fc.double({ min: 0.02, max: 3, noNaN: true }),
        }),
        ({ moneyness, years, rate, vol }) => {
          const strike = 100 * Math.exp(moneyness);
          for (const side of ['call', 'put'] as const) {
            const terms = { model: 'black-scholes-merton', side, spot: 100, strike, years, rate, yield: 0.02 } as const;
            const { price, vega } = priceContract({ ...terms, vol });
            const result = impliedVol({ ...terms, price });
            const bound = side === 'call' ? 100 * Math.exp(-0.02 * years) : strike * Math.exp(-rate * years);
            // A price within rounding of one of its bounds does not determine the vol; a reason is right.
            if (!('vol' in result)) expect(vega * 100 * vol).toBeLessThan(1e-12 * bound + 1e-13);
            else {
              const again = priceContract({ ...terms, vol: result.vol }).price;
              expect(Math.abs(again - price)).toBeLessThan(6e-15 * (100 + strike));
              if (vega * 100 * vol > 1e-4 * bound) expect(Math.abs(result.vol / vol - 1)).toBeLessThan(1e-9);
            }
          }
        },
      ),
      { numRuns: 500 },
    );
  });

  it('the normal model comes back too, with negative strikes', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: 0.2, max: 40, noNaN: true }),
        (deviations, vol) => {
          const contract: Contract = {
            model: 'bachelier',
            side: 'put',
            forward: 2,
            strike: 2 - deviations * vol * 0.7,
            years: 0.49,
            rate: 0.02,
            vol,
          };
          const { price } = priceContract(contract);
          const result = impliedVol({ ...contract, price });
          expect('vol' in result && Math.abs(result.vol / vol - 1)).toBeLessThan(1e-11);
        },
      ),
    );
  });

  it('gives reasons, never a made-up number', () => {
    const base = { model: 'black-scholes-merton', side: 'call', spot: 100, strike: 90, years: 0.5, rate: 0 } as const;
    expect(impliedVol({ ...base, price: 10 })).toEqual({ reason: 'below-intrinsic' });
    expect(impliedVol({ ...base, price: -1 })).toEqual({ reason: 'below-intrinsic' });
    expect(impliedVol({ ...base, price: 100 })).toEqual({ reason: 'above-maximum' });
    expect(impliedVol({ ...base, side: 'put', price: 90 })).toEqual({ reason: 'above-maximum' });
    expect(impliedVol({ ...base, years: 0, price: 12 })).toEqual({ reason: 'expired' });
    expect(() => impliedVol({ ...base, spot: undefined, price: 12 })).toThrow('needs spot');
  });

  it('batches answer item by item and leave NaN where there is nothing', () => {
    const out = new Float64Array(3);
    const fill = (...values: number[]) => Float64Array.from(values);
    impliedVols(
      fill(100, 100, 100),
      fill(100, 100, 90),
      fill(1, 1, 1),
      fill(7.965567455405804, 0, 5),
      fill(1, 1, 1),
      out,
      3,
    );
    // 100·(2N(0.1) − 1), the at-the-money price at 20 %.
    expect(out[0]).toBeCloseTo(0.2, 12);
    expect([out[1], out[2]]).toEqual([NaN, NaN]);
  });
});

describe('quotes', () => {
  it('are judged one by one', () => {
    const judged = [
      [0, 1],
      [NaN, 1],
      [2, 1],
      [1, 1],
      [1, NaN],
      [0.1, 0.5],
      [1, 1.2],
    ].map(([bid, ask]) => reasonName(quoteReason(bid!, ask!)));
    expect(judged).toEqual(['zero-bid', 'zero-bid', 'crossed', 'crossed', 'crossed', 'wide', 'usable']);
  });
});

describe('parity forward', () => {
  const strike = Float64Array.from({ length: 15 }, (_, i) => 86 + 2 * i);
  const quotes = (forward: number, discount: number, shift = (_: number) => 0) => {
    const side = (sign: 1 | -1, half: number) =>
      strike.map((k, i) => {
        const model = priceContract({
          model: 'black-76',
          side: sign > 0 ? 'call' : 'put',
          forward,
          strike: k,
          years: 0.3,
          rate: -Math.log(discount) / 0.3,
          vol: 0.25,
        });
        return model.price + half + (sign > 0 ? shift(i) : 0);
      });
    return { strike, callBid: side(1, -0.05), callAsk: side(1, 0.05), putBid: side(-1, -0.05), putAsk: side(-1, 0.05) };
  };
  it('finds the forward that the quotes were made with', () => {
    const found = parityForward(quotes(101.37, 0.985), 0.985, 100);
    expect(found?.forward).toBeCloseTo(101.37, 10);
    expect(found?.strikesUsed).toBe(11);
  });
  it('is not moved by a stale strike', () => {
    const found = parityForward(
      quotes(101.37, 0.985, (i) => (i === 7 ? 4 : 0)),
      0.985,
      100,
    );
    expect(found?.forward).toBeCloseTo(101.37, 10);
    expect(found?.strikesUsed).toBe(10);
  });
  it('two bad strikes of five do not outvote the others, with or without carry', () => {
    const estimate = (forward: number) => ({ forward, width: 0.05 });
    const good = [100, 100.01, 99.99].map(estimate);
    const bad = [101.1, 102.3].map(estimate);
    expect(combineForwards([...good, ...bad])!.forward).toBeCloseTo(100, 10);
    // One opinion against another: the one that carry is with, and no forward by parity where that is a single strike.
    const two = [estimate(100), estimate(100.01), estimate(101), estimate(101.01)];
    expect(combineForwards(two, { forward: 100.1, width: 0.2 })!.forward).toBeCloseTo(100.005, 10);
    expect(combineForwards([estimate(100), estimate(101)], { forward: 100.1, width: 0.2 })).toBeNull();
    expect(combineForwards([estimate(100), estimate(101), estimate(102), estimate(103)])).toBeNull();
  });
  it('says how well it is known: the error is as large as stated', () => {
    // Mids that are off by normal shares of their half spreads; a seeded source, so that the test cannot flicker.
    let state = 20_310_313;
    const uniform = () => ((state = (state * 48_271) % 2_147_483_647) + 0.5) / 2_147_483_648;
    for (const [miss, strikes] of [
      [0.15, 11],
      [0.2, 5],
      [0.3, 11],
    ] as const) {
      let squares = 0;
      const runs = 2000;
      for (let run = 0; run < runs; run++) {
        const found = combineForwards(
          Array.from({ length: strikes }, () => {
            const width = 0.02 + 0.1 * uniform();
            return { forward: 100 + miss * width * normalInverse(uniform()), width };
          }),
        )!;
        squares += ((found.forward - 100) / found.uncertainty) ** 2 / runs;
      }
      // What is usual has a say: quieter quotes than usual are trusted a little less, wilder ones a little more.
      const expected = miss / Math.sqrt((4 * 0.2 ** 2 + (strikes - 1) * miss ** 2) / (4 + strikes - 1));
      expect(Math.abs(Math.sqrt(squares) / expected - 1), `misses of ${miss}`).toBeLessThan(0.1);
      expect(Math.abs(Math.sqrt(squares) - 1), `misses of ${miss}`).toBeLessThan(0.2);
    }
  });
  it('without a rate, or with a wrong one, strikes agree on the discount that they say themselves', () => {
    for (const wrong of [1, 0.93]) {
      const found = parityForward(quotes(101.37, 0.96), wrong, 100)!;
      expect(found.forward).toBeCloseTo(101.37, 8);
    }
  });
  it('does not exist for a single strike', () => {
    const all = quotes(100, 1);
    const one = Object.fromEntries(Object.entries(all).map(([name, values]) => [name, values.slice(0, 1)]));
    expect(parityForward(one as typeof all, 1, 100)).toBeNull();
  });
});
