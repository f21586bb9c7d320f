import { describe, expect, it } from 'vitest';
import { tradedStructures, type TradedLeg } from '.';

let count = 0;
const trade = (size: number, ...legs: Partial<TradedLeg>[]): TradedLeg[] => {
  const group = `g${count++}`;
  return legs.map((leg) => ({
    ...{ group, time: count, expiry: '2031-04-17', settlement: null, strike: 100, side: 'call', size },
    ...{ price: 2, theory: 2, ...leg },
  }));
};
const told = (prints: readonly TradedLeg[]) =>
  tradedStructures(prints).map(
    ({ kind, legs }) => `${kind}: ${legs.map((leg) => `${leg.quantity}${leg.side[0]}${leg.strike}`).join(' ')}`,
  );

describe('trades of several legs', () => {
  it('are known by their legs, and go the way of what was paid over theory', () => {
    expect(told(trade(5, { strike: 100, price: 2.1 }, { strike: 110, price: 0.9, theory: 1 }))).toEqual([
      'vertical: 1c100 -1c110',
    ]);
    expect(told(trade(5, { strike: 100, price: 1.9 }, { strike: 110, price: 1.1, theory: 1 }))).toEqual([
      'vertical: -1c100 1c110',
    ]);
    expect(told(trade(5, { price: 2.1 }, { side: 'put', price: 2.05 }))).toEqual(['straddle: 1c100 1p100']);
    expect(told(trade(5, { price: 1.9 }, { side: 'put', price: 1.95 }))).toEqual(['straddle: -1c100 -1p100']);
    expect(told(trade(5, { price: 2.1 }, { side: 'put', price: 1.9 }))).toEqual(['synthetic: 1c100 -1p100']);
    expect(told(trade(5, { strike: 110, price: 2.1 }, { strike: 90, side: 'put', price: 1.8 }))).toEqual([
      'risk reversal: -1p90 1c110',
    ]);
    expect(told(trade(5, { strike: 110, price: 2.1 }, { strike: 90, side: 'put', price: 2.1 }))).toEqual([
      'strangle: 1p90 1c110',
    ]);
    const later = { expiry: '2031-05-15', price: 3.2, theory: 3 };
    expect(told(trade(5, {}, later))).toEqual(['calendar: -1c100 1c100']);
    expect(told(trade(5, {}, { ...later, strike: 110 }))).toEqual(['diagonal: -1c100 1c110']);
  });
  it('of three and four strikes have wings against a body', () => {
    const fly = [{ strike: 90, price: 2.2 }, { strike: 100, size: 10, price: 2 }, { strike: 110 }];
    expect(told(trade(5, ...fly))).toEqual(['butterfly: 1c90 -2c100 1c110']);
    const iron: Partial<TradedLeg>[] = [
      ...[
        { strike: 80, side: 'put' as const },
        { strike: 90, side: 'put' as const, price: 2.3 },
      ],
      ...[{ strike: 110, price: 2.3 }, { strike: 120 }],
    ];
    expect(told(trade(7, ...iron))).toEqual(['iron condor: -1p80 1p90 1c110 -1c120']);
    expect(told(trade(7, { strike: 90 }, { strike: 100, side: 'put' }, { strike: 90, side: 'put' }))).toHaveLength(1);
  });
  it('that are the same are one, with what was paid in the mean by size; the most traded comes first', () => {
    const [most, other] = tradedStructures([
      ...trade(10, { strike: 100, price: 2.1 }, { strike: 110, price: 0.9, theory: 1 }),
      ...trade(30, { strike: 100, price: 2.5 }, { strike: 110, price: 0.9, theory: 1 }),
      ...trade(8, { price: 2.1 }, { side: 'put', price: 2.05 }),
    ]);
    expect(most).toMatchObject({ kind: 'vertical', trades: 2, size: 40 });
    expect(most!.price).toBeCloseTo((10 * 1.2 + 30 * 1.6) / 40, 12);
    expect(most!.theory).toBeCloseTo(1, 12);
    expect(other).toMatchObject({ kind: 'straddle', trades: 1, size: 8 });
  });
  it('whose other legs are not in view say nothing; without theory nothing is known of what it was worth', () => {
    expect(told([...trade(5, {}), ...trade(5, { group: '' }, { group: '' })])).toEqual([]);
    const [found] = tradedStructures(trade(5, { strike: 100, theory: NaN }, { strike: 110, theory: NaN }));
    expect(found!.theory).toBeNaN();
    expect(found!.price).toBe(0);
  });
});
