import { describe, expect, it } from 'vitest';
import { monthStarts, positions } from './moments';

describe('tideline', () => {
  it('places moments by time, and one alone at the right', () => {
    expect(positions([0, 10, 40], 120, 10)).toEqual([10, 35, 110]);
    expect(positions([5], 120, 10)).toEqual([110]);
  });
  it('labels months that have room', () => {
    const days = ['2031-01-30', '2031-02-03', '2031-02-04', '2031-03-03'];
    expect(monthStarts(days, [0, 10, 12, 100], 30)).toEqual([
      { at: 0, day: '2031-01-30' },
      { at: 3, day: '2031-03-03' },
    ]);
  });
});
