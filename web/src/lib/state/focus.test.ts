import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EXPIRIES, makeSnapshot } from '$lib/testing/snapshot';
import { centreOf, moveExpiry, moveStrike, nearestIndex, resolveFocus } from './focus';

const snapshot = makeSnapshot();
const nothing = { expiry: null, strike: null, side: null };

describe('resolving the focus', () => {
  it('chooses near 30 days, at the money, on the out-of-the-money side', () => {
    expect(resolveFocus(snapshot, nothing)).toEqual({
      slice: 1,
      index: 6,
      expiry: '2031-04-17',
      strike: 100,
      side: 'put',
    });
  });
  it('takes what is named, and the nearest of what there is not', () => {
    expect(resolveFocus(snapshot, { expiry: '2031-06-19', strike: 93.2, side: 'call' })).toMatchObject({
      slice: 2,
      strike: 94,
      side: 'call',
    });
    expect(resolveFocus(snapshot, { expiry: '2031-04-03', strike: 1000, side: null })).toMatchObject({
      expiry: '2031-04-17',
      strike: 112,
      side: 'call',
    });
    expect(resolveFocus(snapshot, { expiry: '2032-01-01', strike: 1, side: null })).toMatchObject({
      expiry: '2031-06-19',
      strike: 88,
      side: 'put',
    });
  });
  it('is nothing where there is nothing', () => {
    expect(resolveFocus({ ...snapshot, slices: [] }, nothing)).toBeNull();
  });
  it('always lies in the snapshot', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(null, ...EXPIRIES, '2030-01-01', '2035-01-01'),
        fc.option(fc.double({ min: -10, max: 500, noNaN: true })),
        fc.constantFrom(null, 'call' as const, 'put' as const),
        (expiry, strike, side) => {
          const focus = resolveFocus(snapshot, { expiry, strike, side })!;
          expect(snapshot.slices[focus.slice]!.strike[focus.index]).toBe(focus.strike);
          expect(snapshot.slices[focus.slice]!.expiry).toBe(focus.expiry);
          // Resolving what was resolved changes nothing.
          expect(resolveFocus(snapshot, focus)).toEqual(focus);
        },
      ),
    );
  });
});

describe('moving it', () => {
  const focus = resolveFocus(snapshot, nothing)!;
  it('along strikes, and stops at the ends', () => {
    expect(moveStrike(snapshot, focus, 1)).toEqual({ expiry: '2031-04-17', strike: 102, side: 'put' });
    expect(moveStrike(snapshot, focus, -100).strike).toBe(88);
    expect(moveStrike(snapshot, focus, 100).strike).toBe(112);
  });
  it('along expiries at the nearest strike, and stops at the ends', () => {
    expect(moveExpiry(snapshot, focus, 1)).toEqual({ expiry: '2031-06-19', strike: 100, side: 'put' });
    expect(moveExpiry(snapshot, focus, -5).expiry).toBe('2031-03-27');
  });
});

describe('helpers', () => {
  it('the nearest of a list; the first of two as near', () => {
    expect([nearestIndex([1, 3, 9], 4), nearestIndex([1, 3], 2), nearestIndex([], 2)]).toEqual([1, 0, 0]);
  });
  it('the price stands in for a forward that is missing', () => {
    const slice = snapshot.slices[0]!;
    expect(centreOf(snapshot, slice)).toBeCloseTo(100.3, 6);
    expect(centreOf(snapshot, { ...slice, fit: { ...slice.fit, forward: NaN } })).toBe(100);
  });
});
