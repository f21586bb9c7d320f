import type { Side } from '@umwelt/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EXPIRIES, makeSnapshot } from '$lib/testing/snapshot';
import type { FittedSlice } from './snapshot';
import { centreOf, moveExpiry, moveStrike, namedExpiries, nearestIndex, resolveFocus } from './focus';

const snapshot = makeSnapshot();
const nothing = { expiry: null, settlement: null, strike: null, side: null };
const on = (expiry: string | null, strike: number | null, side: Side | null, settlement: 'am' | null = null) => ({
  ...{ expiry, settlement, strike, side },
});
const option = { symbol: snapshot.symbol, settlement: 'pm' };

describe('resolving the focus', () => {
  it('chooses near 30 days, at the money, on the out-of-the-money side', () => {
    expect(resolveFocus(snapshot, nothing)).toEqual({
      ...option,
      slice: 1,
      index: 6,
      expiry: '2031-04-17',
      strike: 100,
      side: 'put',
    });
  });
  it('takes what is named, and the nearest of what there is not', () => {
    expect(resolveFocus(snapshot, on('2031-06-19', 93.2, 'call'))).toMatchObject({
      slice: 2,
      strike: 94,
      side: 'call',
    });
    expect(resolveFocus(snapshot, on('2031-04-03', 1000, null))).toMatchObject({
      expiry: '2031-04-17',
      strike: 112,
      side: 'call',
    });
    expect(resolveFocus(snapshot, on('2032-01-01', 1, null))).toMatchObject({
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
          const focus = resolveFocus(snapshot, on(expiry, strike, side))!;
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
    expect(moveStrike(snapshot, focus, 1)).toEqual({ ...option, expiry: '2031-04-17', strike: 102, side: 'put' });
    expect(moveStrike(snapshot, focus, -100).strike).toBe(88);
    expect(moveStrike(snapshot, focus, 100).strike).toBe(112);
  });
  it('along expiries at the nearest strike, and stops at the ends', () => {
    expect(moveExpiry(snapshot, focus, 1)).toEqual({ ...option, expiry: '2031-06-19', strike: 100, side: 'put' });
    expect(moveExpiry(snapshot, focus, -5).expiry).toBe('2031-03-27');
  });
});

describe('two series of one day', () => {
  const [first, second, third] = snapshot.slices as [FittedSlice, FittedSlice, FittedSlice];
  const morning = { ...second, settlement: 'am' as const, fit: { ...second.fit, settlement: 'am' as const } };
  const both = { ...snapshot, slices: [first, morning, second, third] };
  const day = second.expiry;
  it('are two expiries: each is meant by its name, and the keys walk over both', () => {
    expect(resolveFocus(both, on(day, 100, 'put'))!.slice).toBe(2);
    expect(resolveFocus(both, on(day, 100, 'put', 'am'))!.slice).toBe(1);
    let focus = resolveFocus(both, on(first.expiry, 100, 'put'))!;
    const walked = [focus.slice];
    for (let step = 0; step < 3; step++) {
      focus = resolveFocus(both, moveExpiry(both, focus, 1))!;
      walked.push(focus.slice);
    }
    expect(walked).toEqual([0, 1, 2, 3]);
    expect(resolveFocus(both, moveStrike(both, resolveFocus(both, on(day, 100, 'put', 'am'))!, 1))).toMatchObject({
      ...{ slice: 1, strike: 102, settlement: 'am' },
    });
  });
  it('where there is one alone the day means it, as an address of before does', () => {
    const alone = { ...snapshot, slices: [first, morning, third] };
    expect(resolveFocus(alone, on(day, 100, 'put'))).toMatchObject({ slice: 1, settlement: 'am' });
    expect([...namedExpiries(alone.slices, [day, third.expiry])]).toEqual([`${day}am`, third.expiry]);
    expect([...namedExpiries(both.slices, [day, `${day}am`, '2040-01-01'])]).toEqual([day, `${day}am`]);
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
