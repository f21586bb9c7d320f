import Big from 'big.js';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isUnderlying, type ContractId } from '../contracts';
import { interestOn } from './interest';
import { cashOf, positionAt, type BookFill, type LedgerFacts, type TermsChange } from './ledger';
import { option } from './testing';

const SHARE: ContractId = { symbol: 'X', underlying: true };
const END = 1000;

function factsOf(more: { changes?: readonly TermsChange[]; settled?: number | null } = {}): LedgerFacts {
  const { settled = null, changes = [] } = more;
  return {
    multiplierOf: (contract) => new Big(isUnderlying(contract) ? 1 : 100),
    changesOf: () => changes,
    endOf: () => END,
    settledAt: () => (settled === null ? null : new Big(settled)),
  };
}

const fill = (time: number, contract: ContractId, quantity: number, price: number, fee = 0): BookFill => ({
  ...{ time, contract, quantity: new Big(quantity), price: new Big(price), fee: new Big(fee) },
});

const CALL = option(100, 'call');
const PUT = option(100, 'put');

describe('lots', () => {
  it('the oldest are closed first, and profit is exact', () => {
    const fills = [fill(1, CALL, 2, 0.1), fill(2, CALL, 3, 0.2, 1.5), fill(3, CALL, -4, 0.3)];
    const { legs, realized, fees, closings } = positionAt(fills, factsOf(), 10);
    // 2 × (0.3 − 0.1) × 100 + 2 × (0.3 − 0.2) × 100: a sum of doubles says 60.00000000000001.
    expect(realized.toFixed()).toBe('60');
    expect(fees.toFixed()).toBe('1.5');
    expect(legs[0]!.quantity.toFixed()).toBe('1');
    expect(legs[0]!.cost.toFixed()).toBe('20');
    expect(closings.map(({ quantity, entry }) => [quantity.toFixed(), entry.toFixed()])).toEqual([
      ['2', '0.1'],
      ['2', '0.2'],
    ]);
  });
  it('more than is held turns it round', () => {
    const { legs } = positionAt([fill(1, PUT, 2, 1), fill(2, PUT, -5, 2)], factsOf(), 10);
    expect(legs[0]!.quantity.toFixed()).toBe('-3');
    expect(legs[0]!.cost.toFixed()).toBe('-600');
  });
  it('what is later is not known yet', () => {
    const fills = [fill(1, CALL, 1, 5), fill(5, CALL, -1, 7)];
    expect(positionAt(fills, factsOf(), 4).closed).toBeNull();
    expect(positionAt(fills, factsOf(), 5)).toMatchObject({ opened: 1, closed: 5 });
    expect(positionAt(fills, factsOf(), 0).opened).toBeNull();
  });
});

describe('the end of an expiry', () => {
  it('a call pays what the price is over its strike', () => {
    const { realized, closed, closings } = positionAt([fill(1, CALL, -2, 4)], factsOf({ settled: 103.25 }), END);
    // Sold at 4, settled at 3.25: 2 × 0.75 × 100.
    expect(realized.toFixed()).toBe('150');
    expect(closed).toBe(END);
    expect(closings[0]!.by).toBe('expiry');
  });
  it('out of the money nothing is left of it', () => {
    const { realized, legs } = positionAt([fill(1, PUT, 1, 4)], factsOf({ settled: 103.25 }), END);
    expect(realized.toFixed()).toBe('-400');
    expect(legs[0]!.lots).toEqual([]);
  });
  it('without a price it is waited for, not guessed', () => {
    const { legs, realized, closed } = positionAt([fill(1, CALL, 1, 4)], factsOf(), END + 5);
    expect(legs[0]).toMatchObject({ isAwaiting: true });
    expect(realized.toFixed()).toBe('0');
    expect(closed).toBeNull();
    expect(positionAt([fill(1, CALL, 1, 4)], factsOf(), END - 1).legs[0]!.isAwaiting).toBe(false);
  });
  it('assigned early it goes at nothing, and the underlying comes at the strike', () => {
    const fills = [
      fill(1, CALL, -1, 6),
      { ...fill(2, CALL, 1, 0), isAssigned: true },
      fill(2, SHARE, -100, 100),
      fill(3, SHARE, 100, 105),
    ];
    const { realized, closings } = positionAt(fills, factsOf(), 10);
    // 6 were taken in, 5 lost on the shares.
    expect(realized.toFixed()).toBe('100');
    expect(closings.map(({ by }) => by)).toEqual(['assignment', 'trade']);
  });
});

describe('changes of terms', () => {
  const split = (amount: number): TermsChange => ({ symbol: 'X', time: 5, kind: 'split', amount: new Big(amount) });
  it('a split brings more contracts at lower strikes, and no profit', () => {
    const facts = factsOf({ changes: [split(2)] });
    const { legs, realized } = positionAt([fill(1, CALL, 3, 4)], facts, 10);
    expect(legs[0]!.contract).toMatchObject({ strike: 50 });
    expect(legs[0]!.quantity.toFixed()).toBe('6');
    expect(legs[0]!.cost.toFixed()).toBe('1200');
    expect(realized.toFixed()).toBe('0');
    // Traded on in new terms it is the same leg.
    const closed = positionAt([fill(1, CALL, 3, 4), fill(7, option(50, 'call'), -6, 3)], facts, 10);
    expect(closed.realized.toFixed()).toBe('600');
    expect(closed.legs).toHaveLength(1);
  });
  it('a special dividend lowers strikes, and is paid to who holds the underlying', () => {
    const special: TermsChange = { symbol: 'X', time: 5, kind: 'special', amount: new Big('3.2') };
    const { legs, income } = positionAt(
      [fill(1, CALL, 1, 4), fill(1, SHARE, 100, 99)],
      factsOf({ changes: [special] }),
      10,
    );
    expect(legs[0]!.contract).toMatchObject({ strike: 96.8 });
    expect(income.toFixed()).toBe('320');
  });
  it('cash is paid to who holds the underlying when it leaves the price, and owed by who has sold it', () => {
    const cash: TermsChange = { symbol: 'X', time: 5, kind: 'cash', amount: new Big('0.28') };
    const facts = factsOf({ changes: [cash] });
    expect(positionAt([fill(1, SHARE, 100, 99)], facts, 5).income.toFixed()).toBe('28');
    expect(positionAt([fill(1, SHARE, -100, 99)], facts, 5).income.toFixed()).toBe('-28');
    expect(positionAt([fill(6, SHARE, 100, 99)], facts, 9).income.toFixed()).toBe('0');
  });
  it('two contracts that have become one keep the money of both', () => {
    // Bought in old terms, and before them in terms that the split makes the same.
    const fills = [fill(1, CALL, 1, 4), fill(2, option(50, 'call'), 1, 40), fill(7, option(50, 'call'), -3, 2)];
    const facts = factsOf({ changes: [{ ...split(2), time: 3 }] });
    const { legs } = positionAt(fills, facts, 10);
    const paid = legs.reduce((sum, { flowed }) => sum.plus(flowed), new Big(0));
    expect(paid.toFixed()).toBe('-3800');
  });
});

describe('profit adds up', () => {
  const trade = fc.record({
    time: fc.integer({ min: 1, max: 900 }),
    which: fc.constantFrom(CALL, PUT, SHARE, option(110, 'call')),
    quantity: fc.integer({ min: -9, max: 9 }).filter((n) => n !== 0),
    cents: fc.integer({ min: 0, max: 100_000 }),
    fee: fc.integer({ min: 0, max: 500 }),
  });
  const changes = fc.constantFrom<TermsChange[]>([], [{ symbol: 'X', time: 400, kind: 'split', amount: new Big(2) }]);
  it('realized, open and dividends less fees are what flowed and what is left, to the cent, for any history', () => {
    fc.assert(
      fc.property(
        fc.array(trade, { maxLength: 20 }),
        changes,
        fc.integer({ min: 0, max: 1200 }),
        (trades, changed, until) => {
          const fills = trades.map(({ time, which, quantity, cents, fee }) =>
            fill(time, which, quantity, cents / 100, fee / 100),
          );
          const state = positionAt(fills, factsOf({ changes: changed, settled: 104.5 }), until);
          const unit = new Big('7.25');
          const value = state.legs.reduce(
            (sum, { quantity, multiplier }) => sum.plus(quantity.times(multiplier).times(unit)),
            new Big(0),
          );
          const cost = state.legs.reduce((sum, leg) => sum.plus(leg.cost), new Big(0));
          const whole = cashOf(state.flows).plus(value);
          const parts = state.realized.plus(value.minus(cost)).minus(state.fees).plus(state.income);
          expect(parts.minus(whole).abs().lt('1e-9')).toBe(true);
          const byLeg = state.legs.reduce((sum, { flowed }) => sum.plus(flowed), new Big(0));
          expect(byLeg.minus(cashOf(state.flows)).abs().lt('1e-9')).toBe(true);
        },
      ),
      { numRuns: 300 },
    );
  });
  it('legs keep their numbers as time goes on', () => {
    fc.assert(
      fc.property(fc.array(trade, { maxLength: 12 }), fc.integer({ min: 1, max: 900 }), (trades, at) => {
        const fills = trades.map(({ time, which, quantity, cents }) => fill(time, which, quantity, cents / 100));
        const [early, late] = [positionAt(fills, factsOf(), at), positionAt(fills, factsOf(), 900)];
        for (const { ids, contract } of early.legs)
          expect(late.legs.find((leg) => leg.ids.includes(ids[0]!))?.contract).toEqual(contract);
      }),
    );
  });
});

describe('interest', () => {
  const YEAR = 365 * 86_400_000;
  it('grows a balance at the rate of each time', () => {
    const rates = [
      { time: 0, rate: 0.04 },
      { time: YEAR, rate: 0.02 },
    ];
    expect(interestOn([{ time: 0, amount: 1000 }], rates, 2 * YEAR)).toBeCloseTo(1000 * (Math.exp(0.06) - 1), 9);
    // What was paid out in between earns no more.
    const half = [
      { time: 0, amount: 1000 },
      { time: YEAR, amount: -1000 },
    ];
    expect(interestOn(half, rates, 2 * YEAR)).toBeCloseTo(1000 * (Math.exp(0.04) - 1) * Math.exp(0.02), 9);
  });
  it('a debt costs, and without rates nothing is earned', () => {
    expect(interestOn([{ time: 0, amount: -100 }], [{ time: 0, rate: 0.05 }], YEAR)).toBeLessThan(-5);
    expect(interestOn([{ time: 0, amount: 100 }], [], YEAR)).toBe(0);
  });
});
