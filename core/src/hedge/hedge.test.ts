import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ListedSlice } from '../structures';
import {
  HEDGE_GREEKS,
  neutralize,
  neutralizeWhole,
  suggestHedges,
  waysToChoose,
  type Hedge,
  type HedgeGreeks,
  type HedgeRequest,
} from '.';
import { solveSquare } from './linear';

const greeks = (given: Partial<HedgeGreeks>): HedgeGreeks =>
  ({ ...Object.fromEntries(HEDGE_GREEKS.map((name) => [name, 0])), ...given }) as HedgeGreeks;
const option = (id: string, given: Partial<HedgeGreeks>) => ({ id, ...greeks(given) });

function hedgeOf(request: Omit<HedgeRequest, 'whole'> & { whole?: boolean }): Hedge {
  const found = neutralize({ whole: false, ...request });
  if ('refused' in found) throw new Error(found.refused);
  return found;
}
const tradesOf = ({ steps }: Hedge) => steps.map(({ id, quantity }) => [id, quantity]);

describe('a hedge', () => {
  // J. Hull, "Options, Futures, and Other Derivatives": the portfolio that is delta neutral with a gamma of −5000 and a vega of −8000
  // (from memory).
  const exposure = greeks({ gamma: -5000, vega: -8000 });
  const first = option('first', { delta: 0.6, gamma: 0.5, vega: 2 });
  const second = option('second', { delta: 0.5, gamma: 0.8, vega: 1.2 });

  it('of vega with one option leaves gamma as it becomes, and delta to the underlying', () => {
    const found = hedgeOf({ exposure, instruments: [first], neutralize: ['delta', 'vega'] });
    expect(tradesOf(found)).toEqual([
      ['first', 4000],
      ['underlying', -2400],
    ]);
    expect(found.steps[0]).toMatchObject({
      position: { delta: 2400, gamma: 2000, vega: 8000 },
      cumulative: { delta: 2400, gamma: -3000, vega: 0 },
    });
    expect(found.residual).toMatchObject({ delta: 0, gamma: -3000, vega: 0 });
  });
  it('of gamma and vega takes two options', () => {
    const found = hedgeOf({ exposure, instruments: [first, second], neutralize: ['delta', 'gamma', 'vega'] });
    expect(found.steps.map(({ id }) => id)).toEqual(['first', 'second', 'underlying']);
    expect(found.steps.map(({ quantity }) => quantity)).toEqual(
      [400, 6000, -3240].map((n) => expect.closeTo(n, 8) as number),
    );
    for (const name of HEDGE_GREEKS) expect(found.residual[name]).toBeCloseTo(0, 8);
  });
  it('of the problem of J. Hull on options on sterling (from memory): two options, and 1710 of it sold', () => {
    const book = greeks({ delta: -450, gamma: -6000, vega: -4000 });
    const traded = option('traded', { delta: 0.6, gamma: 1.5, vega: 0.8 });
    const other = option('other', { delta: 0.1, gamma: 0.5, vega: 0.6 });
    const trades = (instruments: HedgeRequest['instruments'], neutralize: HedgeRequest['neutralize']) =>
      hedgeOf({ exposure: book, instruments, neutralize }).steps.map(({ quantity }) => quantity);
    expect(trades([traded], ['delta', 'gamma'])).toEqual([4000, -1950]);
    expect(trades([traded], ['delta', 'vega'])).toEqual([5000, -2550]);
    expect(trades([traded, other], ['delta', 'gamma', 'vega'])).toEqual(
      [3200, 2400, -1710].map((n) => expect.closeTo(n, 8) as number),
    );
  });
  it('of 500 sold options takes 400, 200 and 380 units, by hand', () => {
    // −500 × 0.02 + 400 × 0.02 + 200 × 0.01 = 0; −500 × 0.1 + 400 × 0.05 + 200 × 0.15 = 0; −500 × 0.6 − 400 × 0.4 + 200 × 0.4 + 380 = 0.
    const sold = greeks({ delta: -500 * 0.6, gamma: -500 * 0.02, vega: -500 * 0.1 });
    const put = option('put', { delta: -0.4, gamma: 0.02, vega: 0.05 });
    const call = option('call', { delta: 0.4, gamma: 0.01, vega: 0.15 });
    const found = hedgeOf({ exposure: sold, instruments: [put, call], neutralize: ['delta', 'gamma', 'vega'] });
    expect(found.steps.map(({ quantity }) => quantity)).toEqual(
      [400, 200, 380].map((n) => expect.closeTo(n, 8) as number),
    );
  });
  it('without delta among what is wanted leaves the underlying alone; of delta alone no option', () => {
    expect(tradesOf(hedgeOf({ exposure, instruments: [first], neutralize: ['vega'] }))).toEqual([['first', 4000]]);
    const owed = greeks({ delta: 12.5, gamma: 3 });
    expect(tradesOf(hedgeOf({ exposure: owed, instruments: [first], neutralize: ['delta'] }))).toEqual([
      ['underlying', -12.5],
    ]);
    const future = option('underlying', { delta: 50 });
    expect(tradesOf(hedgeOf({ exposure: owed, instruments: [future], neutralize: ['delta'] }))).toEqual([
      ['underlying', -0.25],
    ]);
  });
  it('in whole numbers rounds options first, halves away from nothing, then the underlying', () => {
    const owed = greeks({ delta: 3.2, gamma: -1.25 });
    const found = hedgeOf({ exposure: owed, instruments: [first], neutralize: ['delta', 'gamma'], whole: true });
    // 2.5 are wanted: 3, whose delta of 1.8 makes 5.
    expect(tradesOf(found)).toEqual([
      ['first', 3],
      ['underlying', -5],
    ]);
    expect(found.residual.gamma).toBeCloseTo(0.25, 12);
    expect(found.residual.delta).toBeCloseTo(0, 12);
  });
  it('takes of more options than are needed those with the least in total', () => {
    const rich = option('rich', { delta: 0.5, gamma: 4, vega: 1 });
    const found = hedgeOf({ exposure, instruments: [first, second, rich], neutralize: ['gamma', 'vega'] });
    const total = (one: Hedge) => one.steps.reduce((sum, { quantity }) => sum + Math.abs(quantity), 0);
    for (const pair of [
      [first, second],
      [first, rich],
      [second, rich],
    ])
      expect(total(found)).toBeLessThanOrEqual(
        total(hedgeOf({ exposure, instruments: pair, neutralize: ['gamma', 'vega'] })) + 1e-9,
      );
    expect(found.residual.gamma).toBeCloseTo(0, 8);
  });
  it('says why there is none, whatever the units', () => {
    const refusal = (instruments: HedgeRequest['instruments'], names: HedgeRequest['neutralize']) =>
      neutralize({ exposure, instruments, neutralize: names, whole: false });
    expect(refusal([first], ['gamma', 'vega'])).toMatchObject({
      refused: expect.stringContaining('one option cannot') as string,
    });
    const twice = option('twice', { delta: 0.1, gamma: 1, vega: 4 });
    expect(refusal([first, twice], ['gamma', 'vega'])).toEqual({
      refused: 'first and twice say the same of gamma and vega',
    });
    // Of three the pair that says the same, though vega is much the larger in all of them.
    const [other, again] = [option('other', { gamma: 1e-6, vega: 9 }), option('again', { gamma: 2e-6, vega: 18 })];
    expect(refusal([other, again], ['gamma', 'vega'])).toEqual({
      refused: 'other and again say the same of gamma and vega',
    });
    const three = [
      option('a', { gamma: 1e-9, vega: 1, theta: 1 }),
      option('b', { gamma: 3e-9, vega: 1, theta: 1 }),
      option('c', { gamma: 6e-9, vega: 2, theta: 2 }),
    ];
    expect(refusal(three, ['gamma', 'vega', 'theta'])).toEqual({
      refused: 'b and c say the same of gamma and vega and theta',
    });
    expect(refusal([option('stock', { delta: 1 })], ['gamma'])).toEqual({ refused: 'no instrument has any gamma' });
    // Nearly the same: whatever would come out is noise.
    const nearly = option('nearly', { gamma: 1e-6 * (1 + 1e-13), vega: 4e-6 });
    expect(refusal([first, nearly], ['gamma', 'vega'])).toHaveProperty('refused');
    const tiny = option('tiny', { gamma: 1e-9, vega: 1e-3 });
    expect(refusal([first, tiny], ['gamma', 'vega'])).not.toHaveProperty('refused');
  });
  it('brings to nothing whatever can be', () => {
    const size = fc.double({ min: -10, max: 10, noNaN: true });
    const any = fc.record({ delta: size, gamma: size, vega: size, theta: size }).map(greeks);
    fc.assert(
      fc.property(any, fc.array(any, { minLength: 3, maxLength: 6 }), (owed, given) => {
        const instruments = given.map((one, i) => ({ ...one, id: String(i) }));
        const found = neutralize({
          exposure: owed,
          instruments,
          neutralize: ['delta', 'gamma', 'vega', 'theta'],
          whole: false,
        });
        if ('refused' in found) return;
        const traded = found.steps.reduce((sum, { quantity }) => sum + Math.abs(quantity), 1);
        for (const name of ['delta', 'gamma', 'vega', 'theta'] as const)
          expect(Math.abs(found.residual[name])).toBeLessThan(1e-9 * 10 * traded);
        expect(found.steps.at(-1)?.cumulative ?? owed).toEqual(found.residual);
      }),
    );
  });
});

describe('a hedge in whole numbers', () => {
  it('looks two around what is wanted for what leaves the least, and says what that saves', () => {
    const instruments = [
      option('a', { delta: 0.5, gamma: 3, vega: 5 }),
      option('b', { delta: 0.3, gamma: 1, vega: 4 }),
    ];
    const exposure = greeks({ gamma: -10, vega: -23.5 });
    const found = neutralizeWhole({ exposure, instruments, neutralize: ['delta', 'gamma', 'vega'] });
    if ('refused' in found) throw new Error(found.refused);
    const left = (a: number, b: number) =>
      Math.max(Math.abs(-10 + 3 * a + b) / 10, Math.abs(-23.5 + 5 * a + 4 * b) / 23.5);
    const [a, b] = found.exact.steps.map(({ quantity }) => quantity);
    expect([a, b]).toEqual([expect.closeTo(16.5 / 7, 12), expect.closeTo(20.5 / 7, 12)]);
    expect(found.leftRounded).toBeCloseTo(left(2, 3), 12);
    let least = Infinity;
    for (let i = 0; i <= 4; i++) for (let j = 1; j <= 5; j++) least = Math.min(least, left(i, j));
    expect(found.leftFound).toBeCloseTo(least, 12);
    expect(found.found.steps.every(({ quantity }) => Number.isInteger(quantity))).toBe(true);
    expect(neutralizeWhole({ exposure, instruments: [], neutralize: ['gamma'] })).toHaveProperty('refused');
  });
  it('goes by cost where that is said', () => {
    const dear = { ...option('dear', { gamma: 2 }), cost: 9 };
    const cheap = { ...option('cheap', { gamma: 1 }), cost: 1 };
    const exposure = greeks({ gamma: -4 });
    expect(tradesOf(hedgeOf({ exposure, instruments: [dear, cheap], neutralize: ['gamma'] }))).toEqual([['cheap', 4]]);
  });
});

describe('suggestions', () => {
  const strike = Float64Array.of(90, 95, 100, 105, 110);
  const slice = (days: number, spread: number, curve: object | null = {}) =>
    ({
      strike,
      call: { bid: strike.map(() => 4 - spread), ask: strike.map(() => 4 + spread) },
      put: { bid: strike.map(() => 3), ask: strike.map((level) => (level === 95 ? 3.01 : 4)) },
      fit: { days, forward: 101, curve },
    }) as unknown as ListedSlice;
  it('are the tightest market near the forward, out of the money, at some distances in time', () => {
    const slices = [slice(1, 0), slice(10, 1), slice(12, 0.1), slice(22, 0.001), slice(50, 1, null), slice(60, 1)];
    expect(suggestHedges(slices)).toEqual([
      { slice: 1, index: 1, side: 'put' },
      { slice: 3, index: 3, side: 'call' },
      { slice: 5, index: 1, side: 'put' },
    ]);
    expect(suggestHedges([])).toEqual([]);
    // And of an expiry that is asked for, whatever its distance; one that is not there adds nothing.
    expect(suggestHedges(slices, [2, 3, -1]).map(({ slice }) => slice)).toEqual([1, 2, 3, 5]);
  });
});

describe('square equations', () => {
  it('are solved whatever the sizes of their rows and columns, and refused where they say one thing twice', () => {
    expect(
      solveSquare(
        [
          [2e8, 1e-8],
          [1e8, 3e-8],
        ],
        [4e8, 7e8],
      ),
    ).toEqual([expect.closeTo(1, 12), expect.closeTo(2e16, -3)]);
    expect(
      solveSquare(
        [
          [1, 2],
          [2, 4],
        ],
        [1, 2],
      ),
    ).toBeNull();
    expect(
      solveSquare(
        [
          [1, 2],
          [2, 4 + 1e-12],
        ],
        [1, 2],
      ),
    ).toBeNull();
    expect(
      solveSquare(
        [
          [0, 2],
          [0, 4],
        ],
        [1, 2],
      ),
    ).toBeNull();
    expect(
      solveSquare(
        [
          [0, 1],
          [1, 0],
        ],
        [3, 4],
      ),
    ).toEqual([4, 3]);
  });
  it('choose as many ways as the binomial coefficient', () => {
    expect([waysToChoose(2, 6), waysToChoose(0, 5), waysToChoose(3, 2)]).toEqual([15, 1, 0]);
  });
});
