import { describe, expect, it } from 'vitest';
import { emptySide, type BasisChoice, type ExpiryFit } from '../chain';
import { curveVol, naturalCurve } from '../surface';
import {
  MOVED_GREEKS,
  curvesOnMarket,
  evaluateOnMarket,
  inOwnTerms,
  inTermsOf,
  inViewTerms,
  legInTermsOf,
  unmoved,
  type ListedSlice,
  type MarketLeg,
  type MarketStructure,
  type PlacedLeg,
} from '.';

const STRIKES = Float64Array.from({ length: 41 }, (_, i) => 60 + 2 * i);
const choice: BasisChoice = { basis: 'curve', realizedVol: 0.18, indexVol: 0.22 };

/** An expiry of options on a future, quoted a little around what is not asked about here. */
function sliceOf(years: number, theta: number, future: number): ListedSlice {
  const curve = naturalCurve({ theta, rho: -0.4, phi: 3 }, years, future);
  const fit = {
    ...{ expiry: `years ${years}`, settlement: 'pm', years, forward: future, rate: 0.03, curve },
    ...{ atmVol: curveVol(curve, 0), sessions: Math.round(252 * years), aside: [], discount: Math.exp(-0.03 * years) },
  } as unknown as ExpiryFit;
  const side = { ...emptySide(41), bid: STRIKES.map((strike) => 0.02 * strike), ask: STRIKES.map((k) => 0.03 * k) };
  return { expiry: fit.expiry, settlement: 'pm', strike: STRIKES, call: side, put: side, fit };
}

/** A delivery: its price, and its expiries. */
interface Delivery {
  spot: number;
  slices: ListedSlice[];
}

const NEAR: Delivery = { spot: 100, slices: [sliceOf(0.1, 0.004, 100)] };
const FAR: Delivery = { spot: 80, slices: [sliceOf(0.1, 0.003, 80), sliceOf(0.4, 0.011, 80)] };
const RATIO = FAR.spot / NEAR.spot;

const placed = (slice: number, side: 'call' | 'put', strike: number, quantity: number): PlacedLeg => ({
  ...{ symbol: 'X', expiry: '', settlement: 'pm', side, strike, quantity },
  ...{ slice, index: STRIKES.indexOf(strike) },
});

/** Legs on one delivery's market, perhaps with another's in its terms. */
function structureOf(market: Delivery, legs: readonly MarketLeg[], exercise: 'american' | 'european' = 'european') {
  const { spot, slices } = market;
  return {
    ...{ slices, legs, ownVols: legs.map(() => 0.2), fill: 'worst', choice, fee: 0.1 },
    around: { on: { kind: 'future', exercise, spot }, spot, dividends: [], events: [] },
    ...{ scenario: unmoved(spot), past: () => null },
  } as MarketStructure;
}

const both = { spot: NEAR.spot, slices: [...NEAR.slices, ...inTermsOf(FAR.slices, RATIO)] };
const led = (leg: PlacedLeg, entry?: number) => legInTermsOf(leg, RATIO, NEAR.slices.length, entry);

describe('another delivery among the legs', () => {
  it.each(['european', 'american'] as const)(
    'is worth and costs what it does on its own market, by equal returns; %s',
    (exercise) => {
      const put = placed(1, 'put', 86, -2);
      const own = evaluateOnMarket(structureOf(FAR, [put], exercise));
      const among = evaluateOnMarket(structureOf(both, [led(put)], exercise));
      const digits = exercise === 'european' ? 10 : 5;
      expect(among.values.value).toBeCloseTo(own.values.value, digits);
      expect(among.cost.worst).toBeCloseTo(own.cost.worst, 10);
      expect(among.fees).toBeCloseTo(0.2, 12);
      // A move of the one by 1 is one of the other by the ratio.
      expect(among.values.delta).toBeCloseTo(RATIO * own.values.delta, digits - 2);
      expect(among.values.gamma).toBeCloseTo(RATIO * RATIO * own.values.gamma, digits - 3);
      for (const name of ['theta', 'vega', 'rho', 'veta', 'volga'] as const)
        expect(among.values[name], name).toBeCloseTo(own.values[name], digits - 3);
      const told = inOwnTerms(among.legs[0]!, RATIO);
      for (const [name, value] of Object.entries(own.legs[0]!)) {
        if (typeof value === 'number') expect(told[name as 'value'], name).toBeCloseTo(value, digits - 3);
      }
      // By the price in view, contracts sum to the whole.
      const seen = inViewTerms(told, RATIO);
      for (const name of MOVED_GREEKS) expect(-2 * seen[name], name).toBeCloseTo(among.values[name], 9);
    },
  );
  it('loses and gains along the price as it does along its own', () => {
    const legs = [placed(0, 'call', 84, 1), placed(1, 'put', 76, -3)];
    const prices = Float64Array.of(60, 90, 100, 115, 150);
    const among = structureOf(both, [led(legs[0]!, 2.5), led(legs[1]!)]);
    const own = structureOf(FAR, [{ ...legs[0]!, entry: 2.5 }, legs[1]!]);
    const scenario = { volShift: 0.02, skewShift: 0.01, dynamics: 'moneyness' as const };
    const curves = ([structure, at]: readonly [MarketStructure, Float64Array]) =>
      curvesOnMarket(
        { ...structure, scenario: { ...structure.scenario, ...scenario } },
        evaluateOnMarket(structure).entry,
        at,
        [0, 0.05, 0.1],
      );
    const told = curves([among, prices]);
    curves([own, prices.map((price) => price * RATIO)]).forEach(({ pnl, delta }, i) => {
      const near = (values: Float64Array, digits: number) =>
        Array.from(values, (value) => expect.closeTo(value, digits) as number);
      expect([...told[i]!.pnl]).toEqual(near(pnl, 9));
      expect([...told[i]!.delta]).toEqual(
        near(
          delta.map((value) => RATIO * value),
          7,
        ),
      );
    });
  });
  it('beside a leg of this one sums with it; break-evens and limits are by the price of this one', () => {
    const near = placed(0, 'call', 100, -1);
    const far = placed(0, 'call', 80, 1);
    const { profile, values, entry } = evaluateOnMarket(structureOf(both, [near, led(far)]));
    const alone = [structureOf(NEAR, [near]), structureOf(FAR, [far])].map(evaluateOnMarket);
    expect(values.value).toBeCloseTo(alone[0]!.values.value + alone[1]!.values.value, 10);
    expect(entry).toBeCloseTo(alone[0]!.entry + alone[1]!.entry, 10);
    // Both strikes are at the money: over it the sold call runs away from eight tenths of one that is bought.
    expect(profile.maxLoss).toBe(Infinity);
    const bought = (price: number) => Math.max(0, RATIO * price - 80) - Math.max(0, price - 100) - entry;
    for (const price of profile.breakEvens) expect(bought(price)).toBeCloseTo(0, 9);
  });
});
