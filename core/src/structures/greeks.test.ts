import { describe, expect, it } from 'vitest';
import type { ExpiryFit, UnderlyingKind } from '../chain';
import { priceContract, DAYS_PER_YEAR, type Exercise } from '../models';
import { curveVol, naturalCurve } from '../surface';
import {
  DYNAMICS,
  fillContract,
  makeColumns,
  MOVED_GREEKS,
  MovedExpiry,
  movedValues,
  unmoved,
  type MarketAround,
  type MovedGreek,
  type Scenario,
} from '.';

const SPOT = 100;
const RATE = 0.03;
const YEARS = 0.35;

const curve = naturalCurve({ theta: 0.016, rho: -0.5, phi: 4 }, YEARS, SPOT * Math.exp(0.01 * YEARS));
const fit = {
  ...{ years: YEARS, forward: SPOT * Math.exp(0.01 * YEARS), rate: RATE, discount: Math.exp(-RATE * YEARS), curve },
  ...{ atmVol: curveVol(curve, 0), aside: [] },
} as unknown as ExpiryFit;

function expiryOf(
  exercise: Exercise,
  more: Partial<MarketAround> = {},
  kind: UnderlyingKind = 'equity',
  volAt = (k: number) => curveVol(curve, k),
): MovedExpiry {
  const around = { on: { kind, exercise, spot: SPOT }, spot: SPOT, dividends: [], events: [], ...more };
  return new MovedExpiry(fit, around, volAt);
}

const events = [{ years: 0.2, variance: 0.004 }];
const dividends = [{ years: 0.25, amount: 1.5 }];

/** The Greeks by differences of values, of the fourth order. */
function differences(
  expiry: MovedExpiry,
  sign: number,
  strike: number,
  scenario: Scenario,
): Record<MovedGreek, number> {
  type Move = { price?: number; vol?: number; time?: number; rate?: number };
  const at = ({ price = 0, vol = 0, time = 0, rate = 0 }: Move) =>
    expiry.value(
      sign,
      strike,
      {
        ...{ ...scenario, price: scenario.price + price, elapsed: scenario.elapsed + time },
        ...{ rateShift: scenario.rateShift + rate, volShifts: new Map([[fit.years, vol]]) },
      },
      true,
    );
  const steps = { price: 0.25, vol: 2e-3, time: 1e-2 * (fit.years - scenario.elapsed), rate: 1e-3 };
  const slope = (of: (by: number) => number, step: number) =>
    (8 * (of(step) - of(-step)) - (of(2 * step) - of(-2 * step))) / (12 * step);
  const bend = (of: (by: number) => number, step: number) =>
    (16 * (of(step) + of(-step)) - of(2 * step) - of(-2 * step) - 30 * of(0)) / (12 * step * step);
  const along = (name: keyof Move, base: Move = {}) => slope((by) => at({ ...base, [name]: by }), steps[name]);
  const cross = (one: keyof Move, other: keyof Move) => slope((by) => along(one, { [other]: by }), steps[other]);
  return {
    delta: along('price'),
    gamma: bend((price) => at({ price }), steps.price),
    theta: along('time') / DAYS_PER_YEAR,
    vega: along('vol') * 0.01,
    rho: along('rate') * 0.01,
    vanna: cross('price', 'vol') * 0.01,
    volga: bend((vol) => at({ vol }), steps.vol) * 1e-4,
    charm: cross('price', 'time') / DAYS_PER_YEAR,
    veta: (cross('vol', 'time') * 0.01) / DAYS_PER_YEAR,
  };
}

const busy: Scenario = {
  ...{ ...unmoved(97), elapsed: 0.1, volShift: 0.02, skewShift: 0.01, rateShift: 0.005 },
  volScale: 'percent',
};

/** What a difference of the fourth order of values near 10 has lost, by Greek. */
const DIGITS: Record<MovedGreek, number> = {
  ...{ delta: 6, gamma: 6, theta: 7, vega: 7, rho: 7, vanna: 6, volga: 6, charm: 7, veta: 7 },
};

describe('Greeks along a scenario', () => {
  it('of what is held are what differences of its value tend to, by any dynamics, with announcements and dividends', () => {
    for (const dynamics of DYNAMICS) {
      const expiry = expiryOf('european', { events, dividends });
      const scenario = { ...busy, dynamics };
      for (const [sign, strike] of [
        [1, 90],
        [1, 101],
        [-1, 112],
        [-1, 84],
      ] as const) {
        const found = movedValues(expiry, sign, strike, scenario);
        const told = differences(expiry, sign, strike, scenario);
        expect(found.value).toBeCloseTo(expiry.value(sign, strike, scenario), 12);
        for (const name of MOVED_GREEKS)
          expect(found[name], `${name} of ${strike} by ${dynamics}`).toBeCloseTo(told[name], DIGITS[name]);
      }
    }
  });
  it('on a future move neither with its rate nor with its carry', () => {
    const expiry = expiryOf('european', {}, 'future');
    const found = movedValues(expiry, 1, 103, busy);
    const told = differences(expiry, 1, 103, busy);
    for (const name of MOVED_GREEKS) expect(found[name]).toBeCloseTo(told[name], DIGITS[name]);
    expect(found.rho).toBeCloseTo((-0.25 * found.value) / 100, 12);
  });
  it('with nothing moving are those of the model', () => {
    const flat = () => 0.21;
    for (const exercise of ['european', 'american'] as const) {
      const expiry = expiryOf(exercise, {}, 'equity', flat);
      for (const [side, strike] of [
        ['call', 95],
        ['put', 104],
        ['put', 96],
      ] as const) {
        const told = priceContract({
          ...{ model: exercise === 'american' ? 'american' : 'black-scholes-merton', side, spot: SPOT, strike },
          ...{ years: YEARS, rate: RATE, yield: RATE - 0.01, vol: 0.21 },
        });
        const found = movedValues(expiry, side === 'call' ? 1 : -1, strike, unmoved(SPOT));
        expect(found.value).toBeCloseTo(told.price, exercise === 'american' ? 4 : 12);
        for (const name of MOVED_GREEKS)
          expect(found[name], `${name} of ${side} ${strike}, ${exercise}`).toBeCloseTo(
            told[name],
            exercise === 'american' ? 4 : 10,
          );
      }
    }
  });
  it('of what may be exercised early are those of its value, along the price and up to where one exercises', () => {
    for (const [more, dynamics] of [
      [{}, 'strike'],
      [{ events }, 'moneyness'],
      [{ dividends }, 'strike'],
      [{ events, dividends }, 'delta'],
    ] as const) {
      const expiry = expiryOf('american', more);
      const scenario = { ...busy, dynamics };
      const prices = Float64Array.from({ length: 61 }, (_, i) => 70 + i);
      const out = makeColumns(61);
      for (const [sign, strike] of [
        [-1, 100],
        [1, 92],
      ] as const) {
        fillContract(expiry, sign, strike, scenario, prices, out, 'second');
        prices.forEach((price, i) => {
          const here = { ...scenario, price };
          const value = expiry.value(sign, strike, here);
          expect(Math.abs(out.value[i]! - value)).toBeLessThan(1e-5 * SPOT);
          const intrinsic = sign * (price - strike);
          // Differences must not reach over to where one exercises.
          if (value - intrinsic < 0.25) return;
          const told = differences(expiry, sign, strike, here);
          // With dividends each value is solved by itself, to 1e-6 of the price: too rough to be differenced twice.
          for (const name of 'dividends' in more ? (['delta', 'theta', 'vega', 'rho'] as const) : MOVED_GREEKS) {
            const size = Math.max(...prices.map((_, j) => Math.abs(out[name][j]!)));
            const near = 2e-3 * size;
            const alone = movedValues(expiry, sign, strike, here)[name];
            expect(
              Math.abs(out[name][i]! - told[name]),
              `${name} of ${strike} at ${price}, ${JSON.stringify(more)}`,
            ).toBeLessThan(near);
            expect(Math.abs(alone - told[name]), `${name} of ${strike} at ${price} alone`).toBeLessThan(near);
          }
        });
      }
    }
  });
  it('of what may be exercised early hold to both ends of the prices, wherever these are', () => {
    const out = makeColumns(2);
    for (const kind of ['equity', 'future'] as const) {
      const expiry = expiryOf('american', {}, kind);
      for (const sign of [1, -1]) {
        for (let step = 0; step < 60; step++) {
          const ends = Float64Array.of(70 + 0.37 * step, 90 + 1.03 * step);
          fillContract(expiry, sign, 90, unmoved(SPOT), ends, out, 'values');
          ends.forEach((price, i) => {
            const told = expiry.value(sign, 90, { ...unmoved(SPOT), price }, true);
            expect(Math.abs(out.value[i]! - told), `${kind} ${sign} at ${price}`).toBeLessThan(1e-5 * SPOT);
          });
        }
      }
    }
  });
  it('what is worth exercising moves with nothing but the price', () => {
    const expiry = expiryOf('american');
    const { value, delta, ...others } = movedValues(expiry, -1, 160, unmoved(SPOT));
    expect([value, delta]).toEqual([60, -1]);
    expect(Object.values(others).every((greek) => greek === 0)).toBe(true);
    // At a price of nothing a put is paid now.
    expect(movedValues(expiry, -1, 160, unmoved(0)).value).toBe(160);
  });
});
