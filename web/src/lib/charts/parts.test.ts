import { describe, expect, it } from 'vitest';
import { TOKENS } from '$lib/testing/snapshot';
import { depthColor } from './depth';
import { HeldRange } from './figure';
import { linePath } from './line-path';

describe('depth', () => {
  it('near is shallow, far is deep, and the ends hold', () => {
    expect(depthColor(0.01, TOKENS)).toBe('#b97a00');
    expect(depthColor(5, TOKENS)).toBe('#b97a00');
    expect(depthColor(365, TOKENS)).toBe('#4a1a66');
    expect(depthColor(3650, TOKENS)).toBe('#4a1a66');
    // The middle of the logarithms is the middle of the colours.
    expect(depthColor(Math.sqrt(5 * 365), TOKENS)).toBe('#1f7aa8');
  });
});

describe('a small line', () => {
  it('fills its box, high values above, and leaves gaps', () => {
    expect(linePath([0.2, 0.3, NaN, 0.25], [0, 1, 2, 3], 0, 10)).toBe('M0.0 10.0L1.0 0.0M3.0 5.0');
    expect(linePath([1, 3, NaN, 2], [0, 10, 20, 30], 0, 10)).toBe('M0.0 10.0L10.0 0.0M30.0 5.0');
    expect(linePath([5], [30], 0, 10)).toBe('M30.0 10.0');
    expect(linePath([], [], 0, 10)).toBe('');
  });
});

describe('ranges that hold still', () => {
  it('grow for what does not fit, do not shrink, and start anew for another purpose', () => {
    const range = new HeldRange();
    expect(range.of('a', [0, 10], 0.1)).toEqual([-1, 11]);
    expect(range.of('a', [4, 5], 0.1)).toEqual([-1, 11]);
    expect(range.of('a', [4, 20], 0.1)).toEqual([-1, 21.6]);
    expect(range.of('b', [4, 5], 0)).toEqual([4, 5]);
    expect(range.of('b', [NaN], 0)).toEqual([4, 5]);
    expect(new HeldRange().of('a', [7, 7], 0.1)).toEqual([6.3, 7.7]);
  });
});
