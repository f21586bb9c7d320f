import { describe, expect, it } from 'vitest';
import { rowsInView } from './rows-in-view';

describe('rows in view', () => {
  it('are all that can be seen, each in a slot that it keeps while it is', () => {
    expect(rowsInView(0, 90, 30, 100)).toEqual([0, 1, 2, 3, 4, 5]);
    expect(rowsInView(0, 90, 30, 4)).toEqual([0, 1, 2, 3]);
    expect(rowsInView(0, 90, 30, 0)).toEqual([]);
    let before = rowsInView(0, 600, 30, 5000);
    for (let scrolled = 0; scrolled < 5000 * 30; scrolled += 47) {
      const rows = rowsInView(scrolled, 600, 30, 5000);
      const seen = new Set(rows);
      expect(seen.size).toBe(before.length);
      const [first, last] = [Math.floor(scrolled / 30), Math.min(4999, Math.floor((scrolled + 599) / 30))];
      for (let row = first; row <= last; row++) expect(seen.has(row)).toBe(true);
      rows.forEach((row, slot) => {
        if (before.includes(row)) expect(before[slot]).toBe(row);
      });
      before = rows;
    }
  });
});
