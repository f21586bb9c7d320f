import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { normalCdf } from '../distributions';
import { priceContract } from '../models';
import { lognormalLaw } from '../odds';
import {
  evaluateGiven,
  outcomeOf,
  outcomeUnder,
  payoffOf,
  profileOf,
  usualDays,
  usualPrices,
  type GivenLeg,
  type GivenStructure,
} from '.';

const option = (
  sign: number,
  strike: number,
  quantity: number,
  more: { years?: number; vol?: number; entry?: number } = {},
) => ({ kind: 'option', sign, strike, quantity, years: 0.25, vol: 0.2, entry: 0, ...more }) as const;
const call = (strike: number, quantity: number, more = {}) => option(1, strike, quantity, more);
const put = (strike: number, quantity: number, more = {}) => option(-1, strike, quantity, more);
const structure = (legs: readonly GivenLeg[], more: Partial<GivenStructure> = {}): GivenStructure => ({
  ...{ spot: 100, rate: 0.03, yield: 0.01, multiplier: 1, legs, ...more },
});
const at = (given: GivenStructure, prices: readonly number[] = [], days: readonly number[] = [0]) =>
  evaluateGiven(given, Float64Array.from(prices), days);
/** Value of an option of these tests, by the contract's own model. */
const valueOf = ({ sign, strike, years, vol }: ReturnType<typeof option>, spot = 100) =>
  priceContract({
    ...{
      model: 'black-scholes-merton',
      side: sign > 0 ? 'call' : 'put',
      spot,
      strike,
      years,
      rate: 0.03,
      yield: 0.01,
      vol,
    },
  }).price;
const paid = <Leg extends ReturnType<typeof option>>(leg: Leg) => ({ ...leg, entry: valueOf(leg) });
const above = (level: number, vol: number, years = 0.25) => {
  const deviation = vol * Math.sqrt(years);
  return normalCdf((Math.log(100 / level) + 0.02 * years) / deviation - 0.5 * deviation);
};

describe('what legs of one expiry come to', () => {
  it('a bought vertical, in money: limits, break-even, odds as the difference of two normals', () => {
    const { entry, profile, outcome } = at(
      structure([call(100, 2, { entry: 4 }), call(110, -2, { entry: 1 })], { multiplier: 100 }),
    );
    expect(entry).toBe(600);
    expect(profile).toMatchObject({ maxProfit: 1400, maxLoss: 600, breakEvens: [103] });
    expect(outcome.profit).toBeCloseTo(above(103, 0.2), 12);
  });
  it('a sold strangle: no end to what it loses, whatever the price does first', () => {
    const { profile, outcome } = at(structure([put(90, -1, { entry: 1 }), call(110, -1, { entry: 2 })]));
    expect(profile).toMatchObject({ maxProfit: 3, maxLoss: Infinity, breakEvens: [87, 113] });
    expect(outcome.profit).toBeCloseTo(above(87, 0.2) - above(113, 0.2), 12);
  });
  it('a covered call: shares in their own units beside a contract of a hundred', () => {
    const { entry, greeks, profile } = at(
      structure([{ kind: 'underlying', quantity: 100, entry: 98 }, call(105, -1, { entry: 2 })], { multiplier: 100 }),
    );
    expect(entry).toBe(9600);
    expect(profile).toMatchObject({ maxProfit: 900, maxLoss: 9600, breakEvens: [96] });
    const { delta } = priceContract({
      ...{
        model: 'black-scholes-merton',
        side: 'call',
        spot: 100,
        strike: 105,
        years: 0.25,
        rate: 0.03,
        yield: 0.01,
        vol: 0.2,
      },
    });
    expect(greeks.delta).toBeCloseTo(100 - 100 * delta, 10);
  });
  it('a box is worth its width discounted, and stands still', () => {
    const legs = [call(95, 1), call(105, -1), put(95, -1), put(105, 1)];
    const { value, greeks, profile, curves } = at(structure(legs.map(paid)), [60, 100, 150]);
    expect(value).toBeCloseTo(10 * Math.exp(-0.03 * 0.25), 10);
    for (const name of ['delta', 'gamma', 'vega'] as const) expect(greeks[name]).toBeCloseTo(0, 10);
    expect(profile.breakEvens).toEqual([]);
    for (const { pnl } of curves[0]!.points) expect(pnl).toBeCloseTo(0, 10);
  });
  it('is expected to gain, by the law that it is priced on, what carrying its cost costs', () => {
    for (const legs of [
      [call(100, 1), put(100, 1)],
      [put(85, 1), put(95, -2)],
      [call(90, 1), call(100, -2), call(110, 1)],
    ]) {
      const { value, entry, outcome } = at(structure(legs.map((leg) => ({ ...leg, entry: 1 }))));
      expect(outcome.expected).toBeCloseTo(value * Math.exp(0.03 * 0.25) - entry, 9);
    }
  });
  it('its deviation and its worst twentieth are those of many drawn prices', () => {
    const legs = [put(85, 1), put(92, -1), call(108, -1), call(116, 1)].map(paid);
    const given = structure(legs);
    const { outcome, entry } = at(given);
    const forward = 100 * Math.exp(0.02 * 0.25);
    // Prices at the middles of as many equal shares of the law: what a draw comes to without its noise.
    const count = 200_000;
    let seed = 1;
    const uniform = () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
    const prices = Float64Array.from({ length: count }, () => {
      const normal = Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
      return forward * Math.exp(0.1 * normal - 0.005);
    });
    const drawn = outcomeOf(prices, (price) =>
      legs.reduce((sum, { sign, strike, quantity }) => sum + quantity * Math.max(0, sign * (price - strike)), -entry),
    );
    const error = outcome.deviation / Math.sqrt(count);
    expect(Math.abs(drawn.expected - outcome.expected)).toBeLessThan(4 * error);
    expect(Math.abs(drawn.deviation - outcome.deviation)).toBeLessThan(6 * error);
    expect(Math.abs(drawn.profit - outcome.profit)).toBeLessThan(4 * Math.sqrt(0.25 / count));
    // Of a twentieth of them.
    expect(Math.abs(drawn.worst5 - outcome.worst5)).toBeLessThan(30 * error);
  });
  it('a search finds what is exact, for any legs', () => {
    const leg = fc.record({
      sign: fc.constantFrom(-1, 1),
      strike: fc.integer({ min: 60, max: 150 }),
      quantity: fc.integer({ min: -3, max: 3 }),
    });
    const property = fc.property(
      fc.array(leg, { minLength: 1, maxLength: 6 }),
      fc.integer({ min: -20, max: 20 }),
      (legs, cents) => {
        const cost = cents + 0.37;
        const exact = payoffOf(legs, cost);
        const found = profileOf({
          profitAt: (price) =>
            legs.reduce(
              (sum, { quantity, sign, strike }) => sum + quantity * Math.max(0, sign * (price - strike)),
              -cost,
            ),
          knots: legs.map(({ strike }) => strike),
          quantity: legs.reduce((sum, { quantity, sign }) => sum + (sign > 0 ? quantity : 0), 0),
          reach: { spot: 100, forward: 100, deviation: 0.6 },
        });
        expect(found.maxProfit).toBeCloseTo(exact.maxProfit, 9);
        expect(found.maxLoss).toBeCloseTo(exact.maxLoss, 9);
        expect(found.breakEvens.length).toBe(exact.breakEvens.length);
        found.breakEvens.forEach((price, i) => expect(price).toBeCloseTo(exact.breakEvens[i]!, 8));
        expect(found.gains.length).toBe(exact.gains.length);
      },
    );
    fc.assert(property, { numRuns: 200, seed: 3 });
  });
});

describe('what legs of several expiries come to', () => {
  const near = call(100, -1, { years: 0.1 });
  const far = call(100, 1, { years: 0.35, vol: 0.22 });
  const calendar = structure([near, far].map(paid));

  it('a calendar: most at the strike, two break-evens, as on a fine grid', () => {
    const { profile, entry, horizonDays } = at(calendar);
    expect(horizonDays).toBeCloseTo(36.5, 12);
    const profitAt = (price: number) => valueOf({ ...far, years: 0.25 }, price) - Math.max(0, price - 100) - entry;
    const grid = Array.from({ length: 40_001 }, (_, i) => 60 + i / 500);
    const values = grid.map(profitAt);
    const most = Math.max(...values);
    // Two formulas, to rounding.
    expect(profile.maxProfit).toBeGreaterThan(most - 1e-12);
    expect(profile.maxProfit).toBeCloseTo(most, 4);
    expect(profile.maxLoss).toBeLessThanOrEqual(entry + 1e-9);
    expect(profile.breakEvens).toHaveLength(2);
    const crossings = grid.filter((_, i) => i > 0 && values[i - 1]! * values[i]! < 0);
    profile.breakEvens.forEach((price, i) => {
      expect(profitAt(price)).toBeCloseTo(0, 9);
      expect(Math.abs(price - crossings[i]!)).toBeLessThan(0.003);
    });
    expect(profile.gains).toEqual([{ from: profile.breakEvens[0], to: profile.breakEvens[1] }]);
  });
  it('its odds take the vol of what expires first, unless another is given', () => {
    const { profile, outcome } = at(calendar);
    const [low, high] = profile.breakEvens as [number, number];
    expect(outcome.profit).toBeCloseTo(above(low, 0.2, 0.1) - above(high, 0.2, 0.1), 12);
    const wide = at({ ...calendar, vol: 0.4 });
    expect(wide.profile.breakEvens).toEqual(profile.breakEvens);
    expect(wide.outcome.profit).toBeCloseTo(above(low, 0.4, 0.1) - above(high, 0.4, 0.1), 12);
  });
  it('its break-evens move apart with the vol of what is left', () => {
    const more = at({ ...calendar, legs: [calendar.legs[0]!, { ...calendar.legs[1]!, vol: 0.26 } as GivenLeg] });
    const [low, high] = at(calendar).profile.breakEvens as [number, number];
    expect(more.profile.breakEvens[0]!).toBeLessThan(low);
    expect(more.profile.breakEvens[1]!).toBeGreaterThan(high);
  });
  it('what has no end is told by quantities alone', () => {
    expect(at(structure([near, far, far].map(paid))).profile.maxProfit).toBe(Infinity);
    expect(at(structure([near, near, far].map(paid))).profile.maxLoss).toBe(Infinity);
    const jelly = [near, put(100, 1, { years: 0.1 }), far, put(100, -1, { years: 0.35, vol: 0.22 })];
    const { profile } = at(structure(jelly.map(paid)));
    expect([profile.maxProfit, profile.maxLoss].every(Number.isFinite)).toBe(true);
  });
  it('is worth after some days what its legs are then', () => {
    const { curves, entry } = at(calendar, [90, 100, 112], [0, 20, 36.5, 60]);
    for (const { afterDays, points } of curves) {
      for (const { price, pnl } of points) {
        const left = (years: number) => years - afterDays / 365;
        const value = (leg: ReturnType<typeof option>) =>
          left(leg.years) > 1e-9 ? valueOf({ ...leg, years: left(leg.years) }, price) : Math.max(0, price - leg.strike);
        expect(pnl).toBeCloseTo(value(far) - value(near) - entry, 9);
      }
    }
  });
});

describe('edges', () => {
  it('a structure of the underlying alone has a break-even, and no horizon', () => {
    const { profile, horizonDays, outcome, curves } = at(
      structure([{ kind: 'underlying', quantity: -10, entry: 101 }]),
      [90, 110],
    );
    expect(horizonDays).toBeNull();
    expect(profile).toMatchObject({ breakEvens: [101], maxProfit: 1010, maxLoss: Infinity });
    expect(outcome.profit).toBeNaN();
    expect(curves[0]!.points).toMatchObject([
      { pnl: 110, delta: -10 },
      { pnl: -90, delta: -10 },
    ]);
  });
  it('one that expires now ends at its forward for certain', () => {
    const { outcome, profile } = at(structure([call(95, 1, { years: 0, entry: 3 })]));
    expect(profile.breakEvens).toEqual([98]);
    expect(outcome).toMatchObject({ profit: 1, expected: 2, deviation: 0, worst5: 2 });
  });
  it('a stretch of exactly nothing is no profit, and its ends are break-evens', () => {
    const { profile } = at(structure([call(100, 1, { entry: 1 }), call(105, -1, { entry: 1 })]));
    expect(profile.breakEvens).toEqual([0, 100]);
    expect(profile.gains).toEqual([{ from: 100, to: Infinity }]);
    // Twice the same strike, and strikes inside of the stretch, are none.
    const inside = payoffOf(
      [100, 110, 120].flatMap((strike) => [
        { quantity: 1, sign: -1, strike },
        { quantity: -1, sign: -1, strike },
      ]),
      -1,
    );
    expect(inside.breakEvens).toEqual([]);
    const floor = payoffOf(
      [
        { quantity: 1, sign: 1, strike: 130 },
        ...[80, 90].flatMap((strike) => [
          { quantity: 1, sign: 1, strike },
          { quantity: -1, sign: 1, strike },
        ]),
      ],
      0,
    );
    expect(floor.breakEvens).toEqual([0, 130]);
  });
  it('the worst twentieth of what loses the same most of the time is that loss', () => {
    expect(at(structure([call(120, 1, { entry: 0.4 })])).outcome.worst5).toBeCloseTo(-0.4, 9);
    const sold = at(structure([put(100, -1, { entry: 4 })]));
    // By hand: the mean of 100 − S over the lowest twentieth, E[S; S < q] = F·N(z − s) for N(z) = 0.05.
    const forward = 100 * Math.exp(0.005);
    const worst = 4 - (100 - (forward * normalCdf(-1.6448536269514722 - 0.1)) / 0.05);
    expect(sold.outcome.worst5).toBeCloseTo(worst, 8);
  });
  it('ends with vols that nobody means, and finds what is near among prices that are far', () => {
    const wild = { years: 90, vol: 80 };
    const legs = [call(100, -1, { years: 0.1, entry: 2 }), call(100, 1, { ...wild, entry: 99 })];
    const found = at(structure(legs, { yield: 0 }));
    expect(found.profile.maxLoss).toBeLessThan(97.1);
    const long = at(
      structure([call(100, 1, { years: 4, vol: 2, entry: 70 }), call(120, -1, { years: 5, vol: 2, entry: 71 })]),
    );
    expect(long.profile.breakEvens.length).toBeGreaterThan(0);
    for (const price of long.profile.breakEvens) expect(Number.isFinite(price)).toBe(true);
  });
  it('draws within three deviations, on four dates', () => {
    const prices = usualPrices(structure([call(100, 1)]));
    expect([prices.length, prices[40]]).toEqual([81, 100]);
    expect(prices[80]).toBeCloseTo(100 * Math.exp(0.3), 9);
    expect(usualDays(structure([call(100, 1)]))).toEqual([0, 91.25 / 3, (2 * 91.25) / 3, 91.25]);
  });
  it('a law counts for what it says of the ends alone', () => {
    const profile = profileOf({
      profitAt: () => -1,
      knots: [],
      quantity: 0,
      reach: { spot: 100, forward: 100, deviation: 0.1 },
    });
    expect(outcomeUnder(lognormalLaw(0.1), { forward: 100, spread: 0.1 }, () => -1, profile, [])).toMatchObject({
      profit: 0,
    });
  });
});
