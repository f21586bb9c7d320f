import { describe, expect, it } from 'vitest';
import { emptySide, valueContract, type BasisChoice, type ExpiryFit, type UnderlyingKind } from '../chain';
import { normalInverse } from '../distributions';
import { priceContract, type Exercise } from '../models';
import { curveLaw, oddsUnder } from '../odds';
import { curveVol, naturalCurve } from '../surface';
import {
  curvesOnMarket,
  evaluateOnMarket,
  gridOnMarket,
  reactionsOnMarket,
  MovedExpiry,
  movedValues,
  tiedTo,
  unmoved,
  type ListedSlice,
  type MarketAround,
  type MarketLeg,
  type MarketStructure,
} from '.';

const SPOT = 100;
const RATE = 0.03;
const STRIKES = Float64Array.from({ length: 41 }, (_, i) => 60 + 2 * i);

function sliceOf(years: number, theta: number, forward: number, day: string): ListedSlice {
  const curve = naturalCurve({ theta, rho: -0.5, phi: 4 }, years, forward);
  const fit = {
    ...{ expiry: day, settlement: 'pm', years, forward, rate: RATE, discount: Math.exp(-RATE * years), curve },
    ...{ atmVol: curveVol(curve, 0), sessions: Math.round(252 * years), aside: [] },
  } as unknown as ExpiryFit;
  return { expiry: day, settlement: 'pm', strike: STRIKES, call: emptySide(41), put: emptySide(41), fit };
}

const forwardOf = (years: number, yearly = 0.02) => SPOT * Math.exp(yearly * years);
const near = sliceOf(0.1, 0.004, forwardOf(0.1), '2031-04-17');
const far = sliceOf(0.35, 0.016, forwardOf(0.35), '2031-07-17');
const slices = [near, far];

const aroundOf = (
  exercise: Exercise = 'european',
  more: Partial<MarketAround> = {},
  kind: UnderlyingKind = 'equity',
): MarketAround => ({ on: { kind, exercise, spot: SPOT }, spot: SPOT, dividends: [], events: [], ...more });

const choice: BasisChoice = { basis: 'curve', realizedVol: 0.18, indexVol: 0.22 };

const leg = (slice: number, side: 'call' | 'put', strike: number, quantity: number): MarketLeg => ({
  ...{ symbol: 'X', expiry: slices[slice]!.expiry, settlement: 'pm', side, strike, quantity },
  ...{ slice, index: STRIKES.indexOf(strike) },
});
const structureOf = (legs: readonly MarketLeg[], more: Partial<MarketStructure> = {}): MarketStructure => ({
  ...{ slices, around: aroundOf(), legs, ownVols: legs.map(() => 0.2), fill: 'mid', choice },
  ...{ scenario: unmoved(SPOT), past: () => null, ...more },
});
const onCurve = ({ fit }: ListedSlice, around: MarketAround) =>
  new MovedExpiry(fit, around, (k) => curveVol(fit.curve!, k));

describe('places by price and vol', () => {
  const legs = [leg(0, 'put', 94, -1), leg(1, 'call', 106, 2), { underlying: true, quantity: 0.5 } as const];
  for (const exercise of ['european', 'american'] as const) {
    const structure = structureOf(legs, { around: aroundOf(exercise) });
    it(`a grid has what the structure is evaluated at there: ${exercise}`, () => {
      const { entry, stress } = evaluateOnMarket(structure);
      const grid = gridOnMarket(structure, entry, 0.08);
      for (const [i, factor] of stress.volFactors.entries()) {
        for (const [j, move] of stress.moves.entries()) {
          const scenario = { ...unmoved(SPOT * Math.exp(0.08 * move)), volFactor: factor };
          const { values } = evaluateOnMarket({ ...structure, scenario });
          const { pnl, delta, vega } = grid[i]![j]!;
          expect(pnl).toBeCloseTo(values.value - entry, 10);
          expect([delta, vega]).toEqual([expect.closeTo(values.delta, 10), expect.closeTo(values.vega, 10)]);
        }
      }
    });
    it(`reactions of legs sum to those of the structure: ${exercise}`, () => {
      const valueAt = (change: Partial<MarketStructure['scenario']>) =>
        evaluateOnMarket({ ...structure, scenario: { ...structure.scenario, ...change } }).values.value;
      const reactions = reactionsOnMarket(structure, 0.08);
      const sumOf = (of: (one: (typeof reactions)[number]) => number) =>
        legs.reduce((sum, { quantity }, i) => sum + quantity * of(reactions[i]!), 0);
      // A point of the risk reversal, as a scenario tilts by it.
      expect(sumOf(({ skew }) => skew)).toBeCloseTo(
        (valueAt({ skewShift: 0.01 }) - valueAt({ skewShift: -0.01 })) / 2,
        4,
      );
      // Two deviations down with vols five points lower come first, two up with vols higher last.
      const [down, up] = [
        valueAt({ price: SPOT * Math.exp(-0.16), volShift: -0.05 }),
        valueAt({ price: SPOT * Math.exp(0.16), volShift: 0.05 }),
      ];
      expect(sumOf(({ changes }) => changes[0]!)).toBeCloseTo(down - valueAt({}), 6);
      expect(sumOf(({ changes }) => changes.at(-1)!)).toBeCloseTo(up - valueAt({}), 6);
      expect(reactions.at(-1)!.skew).toBe(0);
      expect(reactions.at(-1)!.changes[7]).toBe(0);
    });
  }
});

describe('an expiry under scenarios', () => {
  it('left as it is gives the numbers of the chain', () => {
    for (const exercise of ['european', 'american'] as const) {
      const around = aroundOf(exercise);
      const expiry = onCurve(far, around);
      for (const [sign, strike] of [
        [1, 92],
        [-1, 108],
        [-1, 92],
      ] as const) {
        const known = { own: new Float64Array(41).fill(NaN), mid: new Float64Array(41).fill(1) };
        const told = valueContract(STRIKES.indexOf(strike), STRIKES, far.fit, around.on, choice, known, sign);
        const moved = movedValues(expiry, sign, strike, unmoved(SPOT));
        const digits = exercise === 'european' ? 9 : 3;
        expect(moved.value).toBeCloseTo(told.theory, exercise === 'european' ? 11 : 3);
        expect(moved.delta).toBeCloseTo(told.delta, exercise === 'european' ? 6 : 3);
        expect(moved.gamma).toBeCloseTo(told.gamma, exercise === 'european' ? 6 : 3);
        expect(moved.theta).toBeCloseTo(told.theta, exercise === 'european' ? 6 : 3);
        expect(moved.vega).toBeCloseTo(told.vega, Math.min(digits, 6));
      }
    }
  });
  it('American contracts with known dividends are worth what the yield of each price makes them', () => {
    const around = aroundOf('american', { dividends: [{ years: 0.12, amount: 2.5 }] });
    const expiry = onCurve(far, around);
    for (const price of [80, 97, 100, 118]) {
      const scenario = unmoved(price);
      const carryYield = RATE - Math.log(expiry.forward(scenario) / price) / 0.35;
      for (const [sign, strike] of [
        [1, 84],
        [1, 100],
        [-1, 116],
      ] as const) {
        const alone = priceContract({
          ...{ model: 'american', side: sign > 0 ? 'call' : 'put', spot: price, strike, years: 0.35, rate: RATE },
          ...{ yield: carryYield, vol: expiry.vol(strike, scenario) },
        }).price;
        expect(Math.abs(expiry.value(sign, strike, scenario) - alone)).toBeLessThan(1e-5 * price);
      }
    }
  });
  it('calls less puts are worth the forward, whatever happens', () => {
    const around = aroundOf('european', {
      dividends: [{ years: 0.2, amount: 2 }],
      events: [{ years: 0.15, variance: 0.004 }],
    });
    const expiry = onCurve(far, around);
    for (const dynamics of ['strike', 'moneyness', 'delta'] as const) {
      const scenario = {
        ...unmoved(90),
        ...{ elapsed: 0.16, dynamics, volShift: 0.04, skewShift: 0.02, rateShift: 0.01 },
        volScale: 'root' as const,
      };
      for (const strike of [70, 90, 120]) {
        const parity = expiry.value(1, strike, scenario) - expiry.value(-1, strike, scenario);
        expect(parity).toBeCloseTo(Math.exp(-0.04 * 0.19) * (expiry.forward(scenario) - strike), 10);
      }
    }
  });
  it('with vols by moneyness is worth twice as much at twice the price and strike, so Euler gives its delta', () => {
    const expiry = onCurve(far, aroundOf());
    const scenario = { ...unmoved(104), dynamics: 'moneyness', elapsed: 0.1 } as const;
    const step = 1e-3;
    for (const strike of [90, 104, 118]) {
      const { value, delta } = movedValues(expiry, 1, strike, scenario);
      const byStrike =
        (expiry.value(1, strike + step, scenario) - expiry.value(1, strike - step, scenario)) / (2 * step);
      expect(104 * delta).toBeCloseTo(value - strike * byStrike, 5);
      // Under a falling skew a strike that keeps its vol has the larger delta of a call.
      const still = movedValues(expiry, 1, strike, { ...scenario, dynamics: 'strike' });
      expect(still.delta - delta).not.toBeCloseTo(0, 2);
    }
  });
  it('keeps by delta the vol of as many deviations', () => {
    const expiry = onCurve(far, aroundOf());
    const scenario = { ...unmoved(SPOT), dynamics: 'delta', elapsed: 0.35 * 0.75 } as const;
    const forward = expiry.forward(scenario);
    // A quarter of the time is left: what lies half as far has the same deviations.
    expect(expiry.vol(forward * Math.exp(-0.05), scenario)).toBeCloseTo(curveVol(far.fit.curve!, -0.1), 12);
  });
  it('an announcement takes its variance with it', () => {
    const variance = 0.006;
    const around = aroundOf('european', { events: [{ years: 0.2, variance }] });
    const expiry = onCurve(far, around);
    const at = (elapsed: number, more = {}) => {
      const scenario = { ...unmoved(SPOT), elapsed, ...more };
      return expiry.vol(SPOT, scenario) ** 2 * (0.35 - elapsed);
    };
    const total = curveVol(far.fit.curve!, Math.log(SPOT / far.fit.forward)) ** 2 * 0.35;
    expect(at(0)).toBeCloseTo(total, 12);
    const share = 1 - variance / 0.016;
    expect(at(0.2 + 1e-9)).toBeCloseTo((total * share * 0.15) / 0.35, 9);
    expect(at(0.2 - 1e-9) - at(0.2 + 1e-9)).toBeCloseTo((total * variance) / 0.016, 9);
    expect(at(0.3, { hasEvents: false })).toBeCloseTo((total * 0.05) / 0.35, 12);
  });
  it('announcements carry no more than there is, and leave the vols of now as they are', () => {
    const expiry = onCurve(
      far,
      aroundOf('european', {
        events: [
          { years: 0.2, variance: 5 },
          { years: 0.3, variance: 5 },
        ],
      }),
    );
    const vol = (elapsed: number) => expiry.vol(SPOT, { ...unmoved(SPOT), elapsed });
    expect(vol(0)).toBeCloseTo(curveVol(far.fit.curve!, Math.log(SPOT / far.fit.forward)), 12);
    // Half of all of it is left for the last eighth of a year.
    expect(vol(0.2 + 1e-9) ** 2 * 0.15).toBeCloseTo((vol(0) ** 2 * 0.35) / 2, 8);
  });
  it('a dividend leaves the price on its day and changes no forward', () => {
    const expiry = onCurve(far, aroundOf('european', { dividends: [{ years: 0.2, amount: 3 }] }));
    expect(expiry.forward(unmoved(SPOT))).toBeCloseTo(far.fit.forward, 12);
    const before = expiry.forward({ ...unmoved(103), elapsed: 0.2 - 1e-9 });
    expect(expiry.forward({ ...unmoved(100), elapsed: 0.2 + 1e-9 })).toBeCloseTo(before, 6);
  });
  it('leans by the points of risk reversal that are asked for, and levels off', () => {
    const expiry = onCurve(far, aroundOf());
    const moved = { ...unmoved(SPOT), skewShift: 0.03 };
    const at = (z: number) => far.fit.forward * Math.exp(z * far.fit.atmVol * Math.sqrt(0.35));
    const gained = (z: number) => expiry.vol(at(z), moved) - expiry.vol(at(z), unmoved(SPOT));
    const wing = normalInverse(0.75);
    expect(gained(wing) - gained(-wing)).toBeCloseTo(0.03, 12);
    expect(Math.abs(gained(-8))).toBeLessThan(0.07);
  });
  it('shifts of vol: parallel, by the root of time, as a share, for one expiry', () => {
    const vols = (more: object) =>
      [near, far].map((slice) => onCurve(slice, aroundOf()).vol(SPOT, { ...unmoved(SPOT), ...more }));
    const [a, b] = vols({}) as [number, number];
    expect(vols({ volShift: 0.02 })).toEqual([a + 0.02, b + 0.02]);
    expect(vols({ volShift: 0.1, volScale: 'percent' })[1]).toBeCloseTo(1.1 * b, 12);
    expect(vols({ volShift: 0.02, volScale: 'root' })[0]).toBeCloseTo(a + 0.02 * Math.sqrt(30 / 36.5), 12);
    expect(vols({ volShifts: new Map([[0.35, 0.01]]) })).toEqual([a, b + 0.01]);
  });
});

describe('a structure on its market', () => {
  const condor = [leg(1, 'put', 84, 1), leg(1, 'put', 92, -1), leg(1, 'call', 110, -1), leg(1, 'call', 118, 1)].map(
    (one) => ({ ...one, entry: { 84: 0.7, 92: 1.6, 110: 1.2, 118: 0.4 }[(one as { strike: number }).strike] }),
  );

  it('is expected to gain by the law of its curve what carrying its cost costs', () => {
    const found = evaluateOnMarket(structureOf(condor));
    const { expected } = found.odds.find(({ basis }) => basis === 'curve')!;
    expect(expected).toBeCloseTo(found.values.value * Math.exp(RATE * 0.35) - found.entry, 7);
    expect(found.entry).toBeCloseTo(-1.7, 12);
    expect(found.profile.maxProfit).toBeCloseTo(1.7, 12);
    expect(found.profile.breakEvens.map((price) => price.toFixed(9))).toEqual(['90.300000000', '111.700000000']);
    expect(found.capitalAtRisk).toBeCloseTo(6.3, 12);
  });
  it('its odds are those of the law between its break-evens, and the zones sum to one', () => {
    const { odds } = evaluateOnMarket(structureOf(condor));
    const law = curveLaw(far.fit.curve!);
    const under = (level: number) => oddsUnder(law, far.fit.forward, level);
    const curve = odds.find(({ basis }) => basis === 'curve')!;
    expect(curve.profit).toBeCloseTo(under(111.7) - under(90.3), 12);
    expect(curve.mostProfit).toBeCloseTo(under(110) - under(92), 9);
    for (const { zones, touch } of odds) {
      expect(zones.reduce((sum, { probability }) => sum + probability, 0)).toBeCloseTo(1, 12);
      expect(touch.map(({ level }) => level)).toEqual([90.3, 92, 110, 111.7]);
    }
    expect(odds.map(({ basis }) => basis)).toEqual(['curve', 'own', 'level', 'index', 'realized']);
  });
  it('a moved law of the curve tends to that of the curve as what moves it goes to nothing', () => {
    const still = evaluateOnMarket(structureOf(condor)).odds[0]!;
    const moved = evaluateOnMarket(structureOf(condor, { scenario: { ...unmoved(SPOT), volShift: 1e-9 } })).odds[0]!;
    for (const name of ['profit', 'expected', 'deviation', 'worst5'] as const)
      expect(moved[name]).toBeCloseTo(still[name], 5);
  });
  it('a calendar is valued at the first expiry with what is left of the second, which moves with vol', () => {
    const legs = [leg(0, 'call', 100, -1), leg(1, 'call', 100, 1)];
    const typed = legs.map((one, i) => ({ ...one, entry: [2.4, 4.6][i] }));
    const found = evaluateOnMarket(structureOf(typed));
    expect(found.horizon).toBe(0.1);
    expect(found.profile.breakEvens).toHaveLength(2);
    const prices = Float64Array.from(found.profile.breakEvens);
    const [curve] = curvesOnMarket(structureOf(typed), found.entry, prices, [0.1]);
    for (const pnl of curve!.pnl) expect(pnl).toBeCloseTo(0, 8);
    const more = evaluateOnMarket(structureOf(typed, { scenario: { ...unmoved(SPOT), volShift: 0.03 } }));
    expect(more.profile.breakEvens[1]! - more.profile.breakEvens[0]!).toBeGreaterThan(
      found.profile.breakEvens[1]! - found.profile.breakEvens[0]!,
    );
    // The market asks what it asked.
    expect(more.entry).toBe(found.entry);
  });
  it('without a quote is entered at its theory, and says so; the underlying at its price', () => {
    const { legs, cost } = evaluateOnMarket(structureOf([leg(1, 'call', 100, 1), { underlying: true, quantity: -1 }]));
    expect(legs.map(({ enteredBy }) => enteredBy)).toEqual(['theory', 'fill']);
    expect(legs[0]!.entry).toBe(legs[0]!.value);
    expect(legs[1]!.entry).toBe(SPOT);
    expect(cost.mid).toBeNaN();
  });
  it('what it loses without an end is put at risk by its worst stress', () => {
    const { capitalAtRisk, stress, profile } = evaluateOnMarket(
      structureOf([{ ...leg(1, 'call', 110, -1), entry: 1 }]),
    );
    expect(profile.maxLoss).toBe(Infinity);
    expect(capitalAtRisk).toBe(-Math.min(...stress.pnl.flat()));
    expect(stress.pnl[2]![3]).toBeCloseTo(1 - evaluateOnMarket(structureOf([leg(1, 'call', 110, 1)])).values.value, 12);
  });
  it('the stress multiplies the vols of the scenario', () => {
    const shifted = { ...unmoved(SPOT), volShift: 0.04 };
    const { stress } = evaluateOnMarket(structureOf(condor, { scenario: shifted }));
    const half = evaluateOnMarket(structureOf(condor, { scenario: { ...shifted, volFactor: 0.5 } }));
    expect(stress.volFactors[0]).toBe(0.5);
    expect(stress.pnl[0]![3]).toBeCloseTo(half.values.value - half.entry, 12);
  });
  it('twenty past moves stand where their law has them', () => {
    const ends = Float64Array.from({ length: 400 }, (_, i) => 0.2 * ((2 * (i + 0.5)) / 400 - 1));
    const sample = { ends, highs: ends, lows: ends, reach: { highs: ends, lows: ends }, independent: 40 };
    const { odds, dots } = evaluateOnMarket(structureOf(condor, { past: () => sample }));
    const past = odds.find(({ basis }) => basis === 'past')!;
    expect(dots).toHaveLength(20);
    expect(Math.abs(dots.filter(({ profit }) => profit > 0).length / 20 - past.profit)).toBeLessThanOrEqual(0.05);
    expect(dots[0]!.price).toBeCloseTo(far.fit.forward * Math.exp(-0.19), 1);
  });
  it('tied to a price moves with gamma alone, and is worth there what the legs are', () => {
    const structure = structureOf(condor);
    const at = tiedTo(structure, SPOT);
    const { values } = evaluateOnMarket(structure);
    expect(at.value).toBeCloseTo(values.value, 12);
    expect(at.units).toBeCloseTo(-values.delta, 12);
    expect(at.now).toBeCloseTo(at.value, 12);
    const off = tiedTo(structure, SPOT + 0.5);
    // Second order in what the price is off by, to its third.
    expect(off.now - off.value).toBeCloseTo(0.5 * values.gamma * 0.25, 4);
    expect(tiedTo(structureOf([{ underlying: true, quantity: 2 }]), 90)).toEqual({
      ...{ price: 90, value: 180, delta: 2, units: -2, now: 180 },
    });
  });
  it('fees of its contracts are part of every cost, and the underlying has none', () => {
    const [free, paid] = [0, 0.05].map((fee) =>
      evaluateOnMarket(structureOf([...condor, { underlying: true, quantity: 1, entry: SPOT }], { fee })),
    );
    const contracts = condor.reduce((sum, { quantity }) => sum + Math.abs(quantity), 0);
    expect(paid!.fees).toBeCloseTo(0.05 * contracts, 12);
    expect(paid!.entry - free!.entry).toBeCloseTo(0.05 * contracts, 12);
    expect(free!.odds[0]!.expected - paid!.odds[0]!.expected).toBeCloseTo(0.05 * contracts, 9);
    expect(paid!.values).toEqual(free!.values);
  });
  it('a sold call may be assigned for a dividend over its time value, a sold put for the interest on its strike', () => {
    const quoted = (side: 'call' | 'put', at: number, mid: number) => {
      const known = emptySide(41);
      known.bid[at] = mid - 0.01;
      known.ask[at] = mid + 0.01;
      return { ...far, [side]: known };
    };
    const at = STRIKES.indexOf(90);
    const around = aroundOf('american', { dividends: [{ years: 0.2, amount: 0.6 }] });
    const call = structureOf([leg(1, 'call', 90, -1)], { around, slices: [near, quoted('call', at, 10.5)] });
    expect(evaluateOnMarket(call).assignments).toEqual([
      { leg: 0, earns: 'dividend', amount: 0.6, timeValue: expect.closeTo(0.5, 9) as number },
    ]);
    const none = { ...call, around: aroundOf('american') };
    expect(evaluateOnMarket(none).assignments).toEqual([]);
    expect(
      evaluateOnMarket({ ...call, around: aroundOf('european', { dividends: around.dividends }) }).assignments,
    ).toEqual([]);
    expect(evaluateOnMarket({ ...call, legs: [leg(1, 'call', 90, 1)] }).assignments).toEqual([]);
    const over = STRIKES.indexOf(130);
    const put = structureOf([leg(1, 'put', 130, -1)], { around, slices: [near, quoted('put', over, 30.4)] });
    const [found] = evaluateOnMarket(put).assignments;
    expect(found).toMatchObject({ leg: 0, earns: 'interest' });
    expect(found!.amount).toBeCloseTo(130 * (1 - Math.exp(-RATE * 0.35)), 12);
  });
  it('over when all of it has expired', () => {
    const found = evaluateOnMarket(structureOf(condor, { scenario: { ...unmoved(96), elapsed: 0.36 } }));
    expect([found.horizon, found.odds]).toEqual([null, []]);
    expect(found.values).toMatchObject({ value: 0, delta: 0, gamma: 0 });
  });
});
