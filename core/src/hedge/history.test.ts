import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { contractPrice } from '../models';
import { hedgedHistory, HEDGED_PARTS, type HedgedPast, type HedgeRule } from './history';
import { normalInverse } from '../distributions';
import { makeRandom } from '../odds';

const DAY = 86_400_000;

/** Normal numbers, the same each time. */
function seeded(seed: number): () => number {
  const random = makeRandom(seed);
  return () => normalInverse(random());
}
const RULE: HedgeRule = { when: 'moment', by: 'curve', worth: 'curve', cost: 0, slippage: 0 };

interface World {
  kind?: HedgedPast['on']['kind'];
  exercise?: 'european' | 'american';
  side?: 'call' | 'put';
  spot: number;
  strike: number;
  rate: number;
  yield?: number;
  vol: number;
  years: number;
  quantity?: number;
  /** Cash that is paid at so many steps. */
  paid?: ReadonlyMap<number, number>;
}

/** A contract along prices that come at even steps, the last at its expiry, by the model at one vol; with a half spread it is quoted. */
function pastAlong(world: World, prices: readonly number[], halfSpread = NaN): HedgedPast {
  const { kind = 'equity', exercise = 'european', side = 'call', strike, rate, vol, years, quantity = 1 } = world;
  const steps = prices.length - 1;
  const carryYield = kind === 'future' ? rate : (world.yield ?? 0);
  const column = (at: (i: number) => number) => Float64Array.from(prices, (_, i) => at(i));
  const left = column((i) => (i === steps ? 0 : years * (1 - i / steps)));
  const model = exercise === 'american' ? ('american' as const) : ('black-scholes-merton' as const);
  const forwardAt = (i: number) => {
    if (kind === 'future') return prices[i]!;
    const owed = [...(world.paid ?? [])].reduce(
      (sum, [at, amount]) => sum + (at > i ? amount * Math.exp((-rate * years * (at - i)) / steps) : 0),
      0,
    );
    return (prices[i]! - owed) * Math.exp((rate - carryYield) * left[i]!);
  };
  const mid = column((i) => {
    if (left[i] === 0 || Number.isNaN(halfSpread)) return NaN;
    const forward = forwardAt(i);
    const implied = rate - Math.log(forward / prices[i]!) / left[i]!;
    return contractPrice({ model, side, spot: prices[i]!, strike, years: left[i]!, rate, yield: implied, vol });
  });
  return {
    on: { kind, exercise },
    instant: column((i) => (i * years * 365 * DAY) / steps),
    session: Int32Array.from(prices, (_, i) => i),
    price: Float64Array.from(prices),
    paid: column((i) => world.paid?.get(i) ?? 0),
    forecast: column(() => 0.3),
    legs: [
      {
        quantity,
        contract: {
          sign: side === 'call' ? 1 : -1,
          strike,
          years: left,
          forward: column(forwardAt),
          rate: column(() => rate),
          atmVol: column(() => vol),
          curveVol: column(() => vol),
          bid: mid.map((value) => value - halfSpread),
          ask: mid.map((value) => value + halfSpread),
        },
      },
    ],
    held: 0,
  };
}

/** A geometric Brownian motion at the carry that is given; the cash leaves the price when it is paid. */
function walk(world: World, steps: number, normal: () => number, vol = world.vol): number[] {
  const { rate, spot, years, kind } = world;
  const drift = kind === 'future' ? 0 : rate - (world.yield ?? 0);
  const step = years / steps;
  const owed = (i: number) =>
    [...(world.paid ?? [])].reduce(
      (sum, [at, amount]) => sum + (at > i ? amount * Math.exp(-rate * step * (at - i)) : 0),
      0,
    );
  let stripped = spot - owed(0);
  return Array.from({ length: steps + 1 }, (_, i) => {
    if (i > 0) stripped *= Math.exp((drift - 0.5 * vol * vol) * step + vol * Math.sqrt(step) * normal());
    return stripped + owed(i);
  });
}

const HULL: World = { spot: 49, strike: 50, rate: 0.05, vol: 0.2, years: 20 / 52, quantity: -1 };

/** Mean and deviation of what hedging brings at so many steps. */
function brought(world: World, steps: number, paths: number, vol = world.vol) {
  const normal = seeded(7);
  const profits = Array.from({ length: paths }, () => {
    const history = hedgedHistory(pastAlong(world, walk(world, steps, normal, vol)), RULE)!;
    return history.steps.at(-1)!.profit;
  });
  const mean = profits.reduce((sum, one) => sum + one, 0) / paths;
  return { mean, deviation: Math.sqrt(profits.reduce((sum, one) => sum + (one - mean) ** 2, 0) / paths) };
}

describe('hedging along simulated prices', () => {
  it('costs what the model says, and its deviation over the price falls as in the table of J. Hull (from memory)', () => {
    const price = contractPrice({ ...HULL, model: 'black-scholes-merton', side: 'call' });
    expect(price).toBeCloseTo(2.4005, 3);
    // Weeks between trades, and the deviation of the cost over the price.
    for (const [weeks, measure] of [
      [5, 0.43],
      [4, 0.39],
      [2, 0.26],
      [1, 0.19],
      [0.5, 0.14],
      [0.25, 0.09],
    ] as const) {
      const { mean, deviation } = brought(HULL, 20 / weeks, 600);
      expect(Math.abs(mean) / price).toBeLessThan((4 * measure) / Math.sqrt(600));
      expect(deviation / price, `${weeks} weeks`).toBeGreaterThan(0.85 * measure);
      expect(deviation / price, `${weeks} weeks`).toBeLessThan(1.2 * measure);
    }
  });
  it.each<[string, World]>([
    ['an index with a yield', { ...HULL, kind: 'index', yield: 0.03 }],
    ['a future', { ...HULL, kind: 'future' }],
    ['cash that is paid on the way', { ...HULL, paid: new Map([[150, 1.5]]) }],
    ['a put that may be exercised early', { ...HULL, side: 'put', exercise: 'american', strike: 48 }],
  ])('comes to nothing on average, and nearly to nothing each time: %s', (_, world) => {
    const { mean, deviation } = brought(world, 300, 24);
    expect(Math.abs(mean)).toBeLessThan(4 * (deviation / Math.sqrt(24)) + 0.004);
    expect(deviation).toBeLessThan(0.2);
  });
  it('brings ½ Γ S² (realized less implied variance) where the price moves otherwise than was paid for', () => {
    const world = { ...HULL, quantity: 1 };
    const normal = seeded(11);
    for (const realized of [0.12, 0.3]) {
      const history = hedgedHistory(pastAlong(world, walk(world, 2000, normal, realized)), RULE)!;
      const { profit, gamma, theta } = history.steps.at(-1)!;
      expect(Math.sign(profit)).toBe(Math.sign(realized - 0.2));
      expect(Math.abs(profit - gamma - theta)).toBeLessThan(0.03);
      expect(Math.abs(history.realized - realized)).toBeLessThan(0.02);
      expect(history.implied).toBeCloseTo(0.2, 10);
      expect(Math.sign(history.expected)).toBe(Math.sign(profit));
    }
  });
});

describe('the parts of a history', () => {
  const normal = seeded(3);
  it('sum to what was gained, whatever the price does and the rule says', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -0.05, max: 0.05, noNaN: true }), { minLength: 2, maxLength: 30 }),
        fc.constantFrom('moment' as const, { band: 0.1 }),
        fc.constantFrom('own' as const, 'curve' as const, 'forecast' as const, { vol: 0.4 }),
        fc.constantFrom('mid' as const, 'curve' as const),
        (moves, when, by, worth) => {
          const prices = moves.reduce<number[]>((all, move) => [...all, all.at(-1)! * Math.exp(move)], [49]);
          const rule: HedgeRule = { when, by, worth, cost: 0.001, slippage: 1 };
          const history = hedgedHistory(pastAlong(HULL, prices, 0.05), rule);
          if (!history) return;
          for (const step of history.steps) {
            expect(HEDGED_PARTS.reduce((sum, name) => sum + step[name], 0)).toBeCloseTo(step.profit, 9);
          }
        },
      ),
    );
  });
  it('hold by hand: two moments, a sold call, no interest', () => {
    const world = { ...HULL, rate: 0, years: 0.25 };
    const past = pastAlong(world, [49, 50, 49.5], 0.02);
    const { steps } = hedgedHistory(past, { ...RULE, cost: 0.001, slippage: 1 })!;
    const value = (spot: number, years: number) =>
      contractPrice({ model: 'black-scholes-merton', side: 'call', strike: 50, rate: 0, vol: 0.2, spot, years });
    const delta = steps[0]!.hedge;
    // N(d₁) of ln(49/50)/0.1 + 0.05: −0.15203.
    expect(delta).toBeCloseTo(0.43958, 4);
    expect(steps[0]!.profit).toBeCloseTo(-0.02 - 0.001 * 49 * delta, 12);
    const gained = value(49, 0.25) - value(50, 0.125) + delta;
    const traded = Math.abs(steps[1]!.hedge - delta);
    expect(steps[1]!.profit).toBeCloseTo(steps[0]!.profit + gained - 0.001 * 50 * traded, 12);
    expect(steps[1]!.unhedged).toBeCloseTo(-0.02 + value(49, 0.25) - value(50, 0.125), 12);
    // The call ends worthless, and the hedge is sold.
    expect(steps[2]!.value).toBe(0);
    expect(steps[2]!.hedge).toBe(0);
  });
  it('quotes at the curve are worth the curve, European and American', () => {
    for (const exercise of ['european', 'american'] as const) {
      const world = { ...HULL, exercise, side: 'put' as const };
      const past = pastAlong(world, walk(world, 30, normal), 0);
      const [byCurve, byMid] = (['curve', 'mid'] as const).map((worth) =>
        hedgedHistory(past, { ...RULE, by: 'own', worth })!.steps.at(-1)!,
      );
      expect(byMid!.profit).toBeCloseTo(byCurve!.profit, 3);
    }
  });
  it('a band trades less often than every moment, and pays less for it', () => {
    const past = pastAlong(HULL, walk(HULL, 200, normal));
    const often = hedgedHistory(past, { ...RULE, cost: 0.001 })!;
    const seldom = hedgedHistory(past, { ...RULE, cost: 0.001, when: { band: 0.15 } })!;
    expect(seldom.trades).toBeLessThan(often.trades / 3);
    expect(seldom.steps.at(-1)!.cost).toBeGreaterThan(often.steps.at(-1)!.cost);
    for (const { structureDelta, hedge } of seldom.steps.slice(0, -1)) {
      expect(Math.abs(structureDelta + hedge)).toBeLessThanOrEqual(0.15);
    }
  });
});

describe('what is in the structure beside contracts', () => {
  it('of the underlying is hedged away whole, and a future takes no money', () => {
    for (const kind of ['equity', 'index', 'future'] as const) {
      const world = { ...HULL, kind };
      const past = pastAlong(world, walk(world, 40, seeded(9)));
      const [alone, beside] = [past, { ...past, held: 2 }].map((one) => hedgedHistory(one, RULE)!.steps.at(-1)!);
      expect(beside!.profit).toBeCloseTo(alone!.profit, 9);
      const moved = past.price.at(-1)! - past.price[0]!;
      // Money in shares costs interest; the price of a future is none.
      const gained = beside!.unhedged - alone!.unhedged;
      if (kind === 'future') expect(gained).toBeCloseTo(2 * moved, 9);
      else expect(gained).toBeLessThan(2 * moved);
    }
  });
  it('a leg that ends later is followed to the moment before the first one settles', () => {
    const past = pastAlong(HULL, walk(HULL, 20, seeded(4)));
    const { contract } = past.legs[0]!;
    const later = { ...contract, years: contract.years.map((years) => years + 0.1), forward: contract.forward.slice() };
    later.forward[20] = NaN;
    const both = { ...past, legs: [...past.legs, { quantity: 1, contract: later }] };
    const history = hedgedHistory(both, RULE)!;
    expect([history.steps.at(-1)!.at, history.skipped, history.hasEnded]).toEqual([19, 0, false]);
  });
});

describe('what is not known', () => {
  it('is left out and counted, and begins nothing', () => {
    const past = pastAlong(HULL, walk(HULL, 20, seeded(5)));
    const { contract } = past.legs[0]!;
    contract.forward[0] = contract.forward[1] = contract.curveVol[7] = NaN;
    const history = hedgedHistory(past, RULE)!;
    expect(history.steps[0]!.at).toBe(2);
    expect(history.skipped).toBe(1);
    expect(history.hasEnded).toBe(true);
    // A bid of nothing is no market: it is worth its curve then.
    const quoted = pastAlong(HULL, walk(HULL, 20, seeded(5)), 0.02);
    const byCurve = () => hedgedHistory(quoted, { ...RULE, worth: 'mid' })!;
    const before = byCurve();
    quoted.legs[0]!.contract.bid[9] = 0;
    const after = byCurve();
    expect(after.byCurve).toBe(before.byCurve + 1);
    expect(after.steps.at(-1)!.profit).toBeCloseTo(before.steps.at(-1)!.profit, 2);
    expect(hedgedHistory(quoted, RULE)!.byCurve).toBe(0);
    contract.curveVol.fill(NaN);
    expect(hedgedHistory({ ...past, legs: [{ quantity: 1, contract }] }, RULE)).toBeNull();
  });
});
