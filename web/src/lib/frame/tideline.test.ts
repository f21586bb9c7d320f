import { describe, expect, it } from 'vitest';
import { monthStarts, nearestMoment, positions, tidePath } from './tideline';

describe('tideline', () => {
  it('places moments by time, and one alone at the right', () => {
    expect(positions([0, 10, 40], 120, 10)).toEqual([10, 35, 110]);
    expect(positions([5], 120, 10)).toEqual([110]);
  });
  it('draws the line of what there is, high vol above, with gaps', () => {
    const points = [0.2, 0.3, NaN, 0.25].map((iv30, instant) => ({ instant, iv30 }));
    expect(tidePath(points, [0, 1, 2, 3], 0, 10)).toBe('M0.0 10.0L1.0 0.0M3.0 5.0');
  });
  it('finds the nearest moment', () => {
    expect([
      nearestMoment([10, 35, 110], 22),
      nearestMoment([10, 35, 110], 23),
      nearestMoment([10, 35, 110], 500),
    ]).toEqual([0, 1, 2]);
  });
  it('labels months that have room', () => {
    const days = ['2031-01-30', '2031-02-03', '2031-02-04', '2031-03-03'];
    expect(monthStarts(days, [0, 10, 12, 100], 30)).toEqual([
      { at: 0, day: '2031-01-30' },
      { at: 3, day: '2031-03-03' },
    ]);
  });
});
