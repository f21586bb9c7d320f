import { describe, expect, it } from 'vitest';
import { settledSince } from '.';

const DAYS = [
  { date: '2031-03-20', open: 99, close: 101 },
  { date: '2031-03-21', open: 102, close: 103 },
  { date: '2031-04-18', open: 51, close: 52 },
];
const on = (expiry: string, settlement: 'am' | 'pm' = 'pm') => ({ expiry, settlement });

describe('what an expiry settled at', () => {
  it('is the close of its day, of a morning series the open; nothing before that day has passed', () => {
    const settled = settledSince(DAYS, [], '2031-03-20');
    expect(settled(on('2031-03-20'))).toBe(101);
    expect(settled(on('2031-03-21'))).toBe(103);
    expect(settled(on('2031-03-21', 'am'))).toBe(102);
    expect(settled(on('2031-05-16'))).toBeNaN();
  });

  it('is not told across a split, and is where the split came before or comes after', () => {
    const settled = settledSince(DAYS, ['2031-04-01'], '2031-03-20');
    expect(settled(on('2031-03-21'))).toBe(103);
    expect(settled(on('2031-04-18'))).toBeNaN();
    expect(settledSince(DAYS, ['2031-04-01'], '2031-04-01')(on('2031-04-18'))).toBe(52);
  });
});
