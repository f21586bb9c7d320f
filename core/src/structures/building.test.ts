import { describe, expect, it } from 'vitest';
import { emptySide, type ExpiryFit } from '../chain';
import type { NamedLeg } from '../contracts';
import {
  alongStrikes,
  gathered,
  middleOf,
  movedBy,
  nearestListed,
  rolled,
  scaled,
  split,
  withStrike,
  type ListedSlice,
} from '.';

const strikes = Float64Array.of(80, 85, 90, 95, 100, 105, 110, 115, 120);
const slices: ListedSlice[] = [
  { expiry: '2031-04-17', strike: strikes, years: 0.1 },
  { expiry: '2031-05-15', strike: strikes.filter((strike) => strike % 10 === 0), years: 0.18 },
].map(({ expiry, strike, years }) => ({
  ...{ expiry, settlement: 'pm', strike, call: emptySide(strike.length), put: emptySide(strike.length) },
  fit: { years } as ExpiryFit,
}));

const leg = (side: 'call' | 'put', strike: number, quantity: number, expiry = '2031-04-17'): NamedLeg => ({
  ...{ symbol: 'X', expiry, settlement: 'pm', side, strike, quantity },
});
const told = (legs: readonly NamedLeg[] | null) =>
  legs?.map(({ side, strike, quantity, expiry }) => `${quantity}${side.charAt(0)}${strike}@${expiry.slice(5)}`);

const condor = [leg('put', 85, 1), leg('put', 90, -1), leg('call', 110, -1), leg('call', 115, 1)];
const butterfly = [leg('call', 90, 1), leg('call', 100, -2), leg('call', 110, 1)];

describe('building', () => {
  it('knows what is the same on both sides', () => {
    expect(middleOf(condor)).toBe(100);
    expect(middleOf(butterfly)).toBe(100);
    expect(middleOf([leg('call', 100, 1), leg('put', 100, 1)])).toBe(100);
    expect(middleOf([leg('call', 100, 1), leg('call', 110, -1)])).toBeNull();
    expect(middleOf([leg('call', 100, -1), leg('call', 100, 1, '2031-05-15')])).toBeNull();
    expect(middleOf([leg('call', 100, 1)])).toBeNull();
  });
  it('a dragged leg takes its opposite along, or goes alone; the middle takes all', () => {
    expect(told(withStrike(condor, slices, 3, 121))).toEqual([
      '1p80@04-17',
      '-1p90@04-17',
      '-1c110@04-17',
      '1c120@04-17',
    ]);
    expect(told(withStrike(condor, slices, 3, 121, true))).toEqual([
      ...['1p85@04-17', '-1p90@04-17', '-1c110@04-17', '1c120@04-17'],
    ]);
    expect(told(withStrike(butterfly, slices, 1, 106))).toEqual(['1c95@04-17', '-2c105@04-17', '1c115@04-17']);
    expect(middleOf(withStrike(condor, slices, 1, 94))).toBe(100);
    // Both legs of a straddle go together.
    expect(told(withStrike([leg('call', 100, 1), leg('put', 100, 1)], slices, 0, 95))).toEqual([
      '1c95@04-17',
      '1p95@04-17',
    ]);
  });
  it('legs that meet are one, and what comes to nothing goes', () => {
    expect(told(withStrike([leg('call', 100, 1), leg('call', 110, -1)], slices, 1, 100))).toEqual([]);
    expect(told(gathered([leg('call', 100, 1), leg('call', 100, 2), leg('put', 100, 1)]))).toEqual([
      ...['3c100@04-17', '1p100@04-17'],
    ]);
  });
  it('the whole moves along strikes as far as they are listed, and back to what it was', () => {
    const on = alongStrikes(condor, slices, 1)!;
    expect(told(on)).toEqual(['1p90@04-17', '-1p95@04-17', '-1c115@04-17', '1c120@04-17']);
    expect(alongStrikes(on, slices, -1)).toEqual(condor);
    expect(alongStrikes(on, slices, 1)).toBeNull();
    expect(alongStrikes([leg('call', 101, 1)], slices, 1)).toBeNull();
    // So far in price, and no further than all are listed.
    expect(told(movedBy(condor, slices, 6))).toEqual(told(on));
    expect(told(movedBy(condor, slices, 60))).toEqual(told(on));
    expect(movedBy(condor, slices, 1)).toEqual(condor);
  });
  it('rolls one leg or all to the next expiry, on the nearest strikes, and not where two would be one', () => {
    expect(told(rolled([leg('call', 100, 1), leg('call', 120, -1)], slices, 1))).toEqual([
      '1c100@05-15',
      '-1c120@05-15',
    ]);
    expect(told(rolled(butterfly, slices, 1, 1))).toEqual(['1c90@04-17', '-2c100@05-15', '1c110@04-17']);
    expect(told(rolled([leg('call', 95, 1)], slices, 1))).toEqual(['1c90@05-15']);
    expect(rolled([leg('call', 90, 1), leg('call', 95, -1)], slices, 1)).toBeNull();
    expect(rolled(condor, slices, -1)).toBeNull();
  });
  it('takes what is listed nearest for what is not', () => {
    expect(told(nearestListed([leg('call', 97, 1, '2031-04-20'), leg('put', 95, -1)], slices))).toEqual([
      ...['1c95@04-17', '-1p95@04-17'],
    ]);
    expect(told(nearestListed([leg('call', 97, 1, '2031-06-19')], slices))).toEqual(['1c100@05-15']);
    expect(nearestListed([leg('call', 97, 1)], [])).toBeNull();
  });
  it('halves a leg onto the next strike away from the money, and scales what stays whole', () => {
    expect(told(split([leg('call', 100, 3)], slices, 0))).toEqual(['2c100@04-17', '1c105@04-17']);
    expect(told(split([leg('put', 90, -2)], slices, 0))).toEqual(['-1p90@04-17', '-1p85@04-17']);
    expect(split([leg('put', 90, -1)], slices, 0)).toBeNull();
    expect(split([leg('call', 120, 2)], slices, 0)).toBeNull();
    expect(told(scaled(butterfly, 2, 100))).toEqual(['2c90@04-17', '-4c100@04-17', '2c110@04-17']);
    expect(scaled(butterfly, 0.5, 100)).toBeNull();
    expect(scaled(butterfly, 2, 3)).toBeNull();
  });
});
