import { describe, expect, it } from 'vitest';
import { makeSnapshot } from '$lib/testing/snapshot';
import { STRIP_SERIES, standingOf } from './strip';

describe('the strip', () => {
  it('tells an extreme of its range, and is silent where there is too little', () => {
    const values = [3, NaN, 1, 4, 2, 9];
    expect(values.map((_, at) => standingOf(values, at))).toEqual([
      'within',
      'within',
      'lowest',
      'within',
      'within',
      'highest',
    ]);
    expect(standingOf([1, 2, 3], 0)).toBe('within');
    expect(standingOf([2, 2, 2, 2, 2], 0)).toBe('within');
    expect(standingOf(values, -1)).toBe('within');
  });
  it('reads measures of a moment, and writes what is missing as a dash', () => {
    const { measures } = makeSnapshot();
    const [price, iv30] = STRIP_SERIES.map(({ read, write }) => write(read(measures), 2));
    expect([price, iv30]).toEqual(['100.00', '20.0']);
    expect(STRIP_SERIES.map(({ read }) => read({ ...measures, price: null, iv30: null } as never))[1]).toBeNaN();
  });
});
