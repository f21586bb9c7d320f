import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isUnderlying } from '../contracts';
import { MOVED_GREEKS, movedValues, MovedExpiry, unmoved } from '../structures';
import { curveVol } from '../surface';
import { scenarioGrid, volPerMove, worstOf, type GridLeg } from './grid';
import { evensNow } from './evens';
import type { Mark } from './market';
import { limitUses, riskTree, RISK_SUMS, type HeldLeg, type Numeraire } from './risk';
import { option, testMarket } from './testing';
import Big from 'big.js';

const NONE = { delta: 0, gamma: 0, theta: 0, vega: 0, rho: 0, vanna: 0, volga: 0, charm: 0, veta: 0 };

const markOf = (more: Partial<Mark>): Mark => ({
  ...{ ...NONE, bid: NaN, ask: NaN, mid: NaN, theory: 1, vol: 0.2, days: 30 },
  ...more,
});

/** A leg of an underlying of the family whose units are a tenth of the index, or the index itself. */
const held = (symbol: string, price: number, quantity: number, money: number, mark: Partial<Mark>): HeldLeg => ({
  ...{ position: 1, contract: { ...option(100, 'call'), symbol }, family: 'INDEX', quantity, money, price },
  ...{ mark: markOf(mark), value: 10, sinceEntry: 3, sinceClose: 2, sinceGhost: 1 },
});

describe('families', () => {
  // By hand: an index at 4000 (× 10), its fund at 400 (× 100, a tenth of it), its future at 4020 (× 50).
  const index = held('INDEX', 4000, -2, 10, { delta: 0.4, gamma: 0.002, vega: 5 });
  const fund = held('FUND', 400, 3, 100, { delta: -0.5, gamma: 0.03, vega: 0.6 });
  const future = held('FUTURE', 4020, 1, 50, { delta: 0.25, gamma: 0.001, vega: 4 });
  const legs = [index, fund, future];
  const inIndex: Numeraire = { price: 4000, ratioOf: ({ contract }) => (contract.symbol === 'FUND' ? 0.1 : 1) };

  it('ratio 10 and multiplier 50 worked by hand: delta × r, gamma × r²', () => {
    const { sums, parts } = riskTree(legs, ['family', 'underlying'], inIndex);
    // −2·10·0.4·4000 = −32 000; 3·100·−0.5·0.1·4000 = −60 000; 1·50·0.25·4000 = 50 000.
    expect(sums.delta).toBeCloseTo(-42_000, 9);
    // S²Γ/100: −20·0.002·160 000 = −6400; 300·0.03·0.01·160 000 = 14 400; 50·0.001·160 000 = 8000.
    expect(sums.gamma).toBeCloseTo(16_000, 9);
    expect(sums.vega).toBeCloseTo(-100 + 180 + 200, 9);
    const [family] = parts;
    expect(family!.parts.map(({ name, sums: own }) => [name, own.delta])).toEqual([
      ['FUND', -60_000],
      ['FUTURE', 50_000],
      ['INDEX', -32_000],
    ]);
  });
  it('each in the price of its own: S·Δ and S²Γ/100', () => {
    const { sums } = riskTree(legs, ['family'], null);
    expect(sums.delta).toBeCloseTo(-32_000 + 300 * -0.5 * 400 + 50 * 0.25 * 4020, 9);
    expect(sums.gamma).toBeCloseTo((-20 * 0.002 * 4000 ** 2 + 300 * 0.03 * 400 ** 2 + 50 * 0.001 * 4020 ** 2) / 100, 9);
  });
  it('vega by √(30/T), and second orders by the price', () => {
    const leg = held('INDEX', 4000, 1, 10, { vega: 2, vanna: 0.01, charm: -0.002, volga: 0.3, days: 120 });
    const { sums } = riskTree([leg], ['family'], null);
    expect(sums.vegaRoot).toBeCloseTo(20 * Math.sqrt(30 / 120), 12);
    expect(sums.vanna).toBeCloseTo(10 * 0.01 * 4000, 9);
    expect(sums.charm).toBeCloseTo(10 * -0.002 * 4000, 9);
    expect(sums.volga).toBeCloseTo(3, 12);
  });
  it('sums are the same at each level, whatever is held', () => {
    const leg = fc.record({
      symbol: fc.constantFrom('INDEX', 'FUND', 'FUTURE'),
      quantity: fc.integer({ min: -50, max: 50 }),
      strike: fc.constantFrom(90, 100, 110),
      expiry: fc.constantFrom('2031-04-17', '2031-05-15'),
      delta: fc.double({ min: -1, max: 1, noNaN: true }),
      gamma: fc.double({ min: 0, max: 1, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(leg, { minLength: 1, maxLength: 30 }), (rows) => {
        const all = rows.map(({ symbol, quantity, strike, expiry, delta, gamma }) => ({
          ...held(symbol, 4000, quantity, 10, { delta, gamma, vega: gamma }),
          contract: { ...option(strike, 'call', expiry), symbol },
        }));
        const tree = riskTree(all, ['family', 'underlying', 'expiry', 'strike'], inIndex);
        const flat = riskTree(all, [], inIndex);
        const visit = (node: typeof tree): void => {
          if (node.parts.length === 0) return;
          for (const name of RISK_SUMS)
            expect(node.parts.reduce((sum, part) => sum + part.sums[name], 0)).toBe(node.sums[name]);
          node.parts.forEach(visit);
        };
        visit(tree);
        expect(tree.sums.delta).toBeCloseTo(flat.sums.delta, 6);
      }),
    );
  });
  it('what is not known is counted, and part of no sum; what was closed is part of profit alone', () => {
    const unknown = { ...index, mark: null, value: NaN };
    const closed = { ...index, mark: null, quantity: 0, value: 0 };
    const { sums, missing } = riskTree([unknown, closed, fund], ['family'], null);
    expect(missing).toBe(1);
    expect(sums.sinceEntry).toBe(6);
    expect(sums.delta).toBeCloseTo(300 * -0.5 * 400, 9);
  });
});

describe('limits', () => {
  const of = (delta: number) => riskTree([held('INDEX', 100, 1, 1, { delta: delta / 100, vega: 7 })], [], null).sums;
  it('are used as far as the book goes, whichever way', () => {
    const uses = limitUses(
      [
        { what: 'delta', most: 400 },
        { what: 'vega', most: 70 },
        { what: 'worst', most: 50 },
        { what: 'share', most: 0.5 },
      ],
      of(-300),
      [of(-100), of(300)],
      20,
    );
    expect(uses.map(({ used }) => Math.round(1e6 * used) / 1e6)).toEqual([300, 7, 20, 0.75]);
  });
});

describe('marks', () => {
  const european = testMarket({ spot: 100, years: 0.3, theta: 0.012, halfSpread: 0.1 });
  const american = testMarket({ spot: 100, years: 0.3, theta: 0.012, exercise: 'american', rate: 0.05, drift: 0.01 });
  it.each([
    ['european', european],
    ['american', american],
  ])('%s Greeks are the slopes of values', (_, market) => {
    for (const strike of [90, 100, 110]) {
      const contract = option(strike, strike < 100 ? 'put' : 'call');
      const mark = market.mark(contract)!;
      const { fit } = market.expiry(contract)!;
      const expiry = new MovedExpiry(fit, market.market.around, (k) => curveVol(fit.curve!, k));
      const other = movedValues(expiry, contract.side === 'call' ? 1 : -1, strike, unmoved(100));
      expect(mark.theory).toBeCloseTo(other.value, 4);
      // Vols stay with strikes, so these are the same.
      for (const name of MOVED_GREEKS.filter((one) => one !== 'rho')) {
        const scale = {
          delta: 1,
          gamma: 0.05,
          theta: 0.05,
          vega: 0.3,
          vanna: 0.02,
          volga: 0.01,
          charm: 0.01,
          veta: 0.01,
        }[name];
        expect(Math.abs(mark[name] - other[name]) / scale, `${name} of ${strike}`).toBeLessThan(0.01);
      }
    }
  });
  it('without a market a contract is worth its curve; without an expiry nothing is known', () => {
    expect(american.mark(option(100, 'call'))!.mid).toBeNaN();
    expect(european.mark(option(100, 'call'))!.mid).toBeCloseTo(european.mark(option(100, 'call'))!.theory, 12);
    expect(european.mark(option(100, 'call', '2031-09-18'))).toBeNull();
    // A strike that is not listed that day has its vol on the curve.
    expect(european.mark(option(97, 'call'))).toMatchObject({ bid: NaN });
    expect(european.mark({ symbol: 'X', underlying: true })).toMatchObject({ mid: 100, delta: 1, vega: 0 });
  });
});

describe('scenarios', () => {
  const market = testMarket({ spot: 100, years: 0.25, theta: 0.01 });
  const leg = (more: Partial<GridLeg>): GridLeg => ({
    ...{ position: 1, family: 'X', market, elapsed: 0, contract: option(100, 'put'), quantity: -3, money: 100 },
    ...{ beta: 1, volPerMove: 0, ...more },
  });
  const axes = { moves: [-0.1, 0, 0.1], volShifts: [0.05, 0, -0.05], volScale: 'parallel' as const };

  it('nothing moved now is nothing', () => {
    const { total } = scenarioGrid([leg({}), leg({ contract: option(110, 'call'), quantity: 2 })], axes);
    expect(total[1]![1]).toBe(0);
  });
  it('each cell is the value there less the value now', () => {
    const { total, positions, families } = scenarioGrid([leg({})], axes);
    const value = (price: number, volShift: number) =>
      market.value(option(100, 'put'), { ...unmoved(price), volShift });
    expect(total[0]![0]).toBeCloseTo(-300 * (value(90, 0.05) - value(100, 0)), 9);
    expect(positions.get(1)).toEqual(total);
    expect(families.get('X')).toEqual(total);
    expect(worstOf(total, axes)).toEqual({ move: -0.1, volShift: 0.05, pnl: total[0]![0] });
  });
  it('what has expired by then pays what it pays', () => {
    const { total } = scenarioGrid([leg({ elapsed: 0.3 })], axes);
    const now = market.value(option(100, 'put'), unmoved(100));
    expect(total.map((row) => row[0])).toEqual([1, 1, 1].map(() => -300 * (10 - now)));
  });
  it('the underlying moves by itself, and by its beta', () => {
    const share = { contract: { symbol: 'X', underlying: true } as const, quantity: 50, money: 1 };
    expect(scenarioGrid([leg(share)], axes).total[2]![0]).toBeCloseTo(-500, 9);
    expect(scenarioGrid([leg({ ...share, beta: 1.5 })], axes).total[2]![0]).toBeCloseTo(-750, 9);
  });
  it('vols move along with the price by what they did before', () => {
    const along = scenarioGrid([leg({ volPerMove: -0.6 })], { ...axes, volScale: 'along' });
    const shift = -0.6 * Math.log(0.9);
    const root = Math.sqrt(30 / (365 * 0.25));
    const there = market.value(option(100, 'put'), { ...unmoved(90), volShift: shift * root });
    expect(along.total[1]![0]).toBeCloseTo(-300 * (there - market.value(option(100, 'put'), unmoved(100))), 9);
  });
  it('what no curve tells is counted', () => {
    expect(scenarioGrid([leg({ contract: option(100, 'put', '2031-12-18') })], axes).missing).toBe(1);
  });
  it('the slope of vol on the price is found again', () => {
    const price = Float64Array.from({ length: 60 }, (_, i) => 100 * Math.exp(0.01 * Math.sin(i)));
    const vol = price.map((one) => 0.2 - 0.7 * Math.log(one / 100));
    expect(volPerMove(price, vol)).toBeCloseTo(-0.7, 9);
    expect(volPerMove(price.subarray(0, 5), vol)).toBe(0);
  });
});

describe('break-evens of now', () => {
  const market = testMarket({ spot: 100, years: 0.1, theta: 0.004 });
  const legOf = (contract: ReturnType<typeof option>, quantity: number) => ({
    ...{ ids: [0], contract, multiplier: new Big(100), lots: [], quantity: new Big(quantity) },
    ...{ cost: new Big(0), flowed: new Big(0), isAwaiting: false },
  });
  it('are where it is worth what was taken in', () => {
    const legs = [legOf(option(100, 'put'), -1), legOf(option(100, 'call'), -1)];
    const worthAt = (price: number) =>
      legs.reduce(
        (sum, { contract, quantity }) => sum + Number(quantity) * 100 * market.value(contract, unmoved(price)),
        0,
      );
    const taken = 1.3 * worthAt(100);
    const evens = evensNow(legs, market, taken, 0.063);
    expect(evens).toHaveLength(2);
    for (const even of evens) expect(worthAt(even)).toBeCloseTo(taken, 3);
    expect(isUnderlying(legs[0]!.contract)).toBe(false);
  });
});
