import type { NamedLeg } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { legOf } from './books';
import { contractWords, nameOfLegs, priceOf, quoteIn, ticketOfLegs, type TicketRow } from './tickets';

const leg = (strike: number, side: 'call' | 'put', quantity: number, expiry = '2031-04-17'): NamedLeg => ({
  ...{ symbol: 'X', expiry, settlement: 'pm', strike, side, quantity },
});
const row = (more: Partial<TicketRow>): TicketRow => ({
  ...{ contract: { symbol: 'X', underlying: true }, quantity: 1, bid: 1, ask: 1.1 },
  ...more,
});

describe('a ticket', () => {
  it('bought at the ask and sold at the bid, at the middle, or the other way', () => {
    const prices = (quantity: number) =>
      (['worst', 'mid', 'best'] as const).map((fill) => priceOf(row({ quantity }), fill));
    expect(prices(2)).toEqual([1.1, 1.05, 1]);
    expect(prices(-2)).toEqual([1, 1.05, 1.1]);
    expect(priceOf(row({ price: 7 }), 'worst')).toBe(7);
    expect(priceOf(row({ bid: NaN }), 'mid')).toBeNaN();
  });
  it('names what is about to be held', () => {
    const named = (legs: NamedLeg[], held = 0) => nameOfLegs('X', legs, held);
    expect(named([leg(90, 'put', 1)])).toBe('X bought puts');
    expect(named([leg(90, 'put', -1), leg(110, 'call', -1)])).toBe('X sold strangle');
    expect(named([leg(100, 'put', 1), leg(100, 'call', 1)])).toBe('X bought straddle');
    expect(named([leg(100, 'put', -1), leg(100, 'put', 1, '2031-05-15')])).toBe('X put calendar');
    expect(named([leg(100, 'call', 1), leg(110, 'call', -1)])).toBe('X call vertical');
    expect(named([leg(90, 'put', 1), leg(95, 'put', -1), leg(105, 'call', -1), leg(110, 'call', 1)])).toBe(
      'X iron condor',
    );
    expect(named([leg(110, 'call', -1)], 100)).toBe('X with the underlying');
    expect(named([], 100)).toBe('X itself');
    expect(named([leg(90, 'put', 1), leg(95, 'put', -2), leg(99, 'put', 1)])).toBe('X of 3 legs');
  });
  it('says contracts in words and in requests', () => {
    const contract = {
      symbol: 'X',
      expiry: '2031-03-20',
      settlement: 'am' as const,
      strike: 4000,
      side: 'put' as const,
    };
    expect(contractWords(contract).replace(/\u2009/g, ' ')).toContain('4 000 put');
    expect(legOf(contract)).toEqual(contract);
    expect(legOf({ symbol: 'X', underlying: true })).toEqual({ symbol: 'X', underlying: true });
  });
  it('takes quotes of the snapshot, and none of what is not listed', () => {
    const side = { bid: Float64Array.of(2), ask: Float64Array.of(2.2) };
    const slice = { expiry: '2031-04-17', settlement: 'pm', strike: Float64Array.of(100), call: side, put: side };
    const snapshot = { price: 101, slices: [slice] } as never;
    const contract = { ...leg(100, 'put', 1), settlement: 'pm' as const };
    expect(quoteIn(snapshot, contract)).toEqual({ bid: 2, ask: 2.2 });
    expect(quoteIn(snapshot, { ...contract, strike: 105 })).toEqual({ bid: NaN, ask: NaN });
    expect(quoteIn(snapshot, { symbol: 'X', underlying: true })).toEqual({ bid: 101, ask: 101 });
    // A leg of another delivery has the quotes of that one, or none.
    const here = { symbol: 'X', asof: '2031-03-13T16:45:00Z', price: 101, slices: [] } as never;
    const far = { ...leg(100, 'put', -2), symbol: 'Y' };
    const rowsOf = (others?: ReadonlyMap<string, never>) => ticketOfLegs(here, [far], 50, 50, others).rows;
    expect(rowsOf()[0]).toMatchObject({ bid: NaN, quantity: -2 });
    expect(rowsOf(new Map([['Y', snapshot]]))[0]).toMatchObject({ bid: 2, ask: 2.2 });
    expect(rowsOf()[1]).toMatchObject({ quantity: 1, bid: 101 });
  });
});
