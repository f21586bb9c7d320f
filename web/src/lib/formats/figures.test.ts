import { describe, expect, it } from 'vitest';
import {
  count,
  plusMinus,
  days,
  decimalsOf,
  doubt,
  fixed,
  gammaDecimals,
  percent,
  percentChange,
  signed,
  strike,
  vol,
  volDoubt,
  volChange,
} from './figures';
import { longDay, longMoment, momentDay, shortDay } from './dates';

describe('figures', () => {
  it('have a true minus, thin thousands, and no negative zero', () => {
    expect(fixed(-4208.154, 2)).toBe('−4\u2009208.15');
    expect(fixed(1234567, 0)).toBe('1\u2009234\u2009567');
    expect(fixed(-0.001, 2)).toBe('0.00');
    expect(count(999)).toBe('999');
  });
  it('say nothing where there is nothing', () => {
    expect([fixed(NaN, 1), fixed(null, 1), vol(undefined), percent(Infinity), days(NaN), strike(null)]).toEqual(
      Array(6).fill('–'),
    );
  });
  it('carry signs where they are asked for', () => {
    expect([signed(1.25, 1), signed(-1.26, 1), signed(0.01, 1), volChange(-0.079)]).toEqual([
      '+1.3',
      '−1.3',
      '0.0',
      '−7.9',
    ]);
    expect(percentChange(-0.0062)).toBe('−0.62 %');
    expect([plusMinus(4.3, 2), plusMinus(NaN, 2)]).toEqual(['±4.30', '–']);
  });
  it('turn vols into points and shares into per cent', () => {
    expect([vol(0.2264), vol(1.184), percent(0.2414), percent(0.05, 0)]).toEqual(['22.6', '118.4', '24.1 %', '5 %']);
  });
  it('take their decimals from the tick, the strike and the price', () => {
    expect([0.05, 0.01, 0.5, 5, 0.125, null].map(decimalsOf)).toEqual([2, 2, 1, 0, 3, 2]);
    expect([3950, 112.5, 0.25].map(strike)).toEqual(['3\u2009950', '112.5', '0.25']);
    expect([4208, 112, 8].map(gammaDecimals)).toEqual([5, 4, 4]);
    expect([days(35.01), days(0.0104), days(2.96)]).toEqual(['35', '0.0', '3.0']);
  });
});

describe('dates', () => {
  it('are written in the zone of the exchange', () => {
    const instant = Date.UTC(2031, 2, 13, 16, 45);
    expect(longMoment(instant, 'Etc/GMT+1')).toBe('Thu 13 Mar 2031 15:45');
    expect(momentDay(Date.UTC(2031, 2, 14, 0, 30), 'Etc/GMT+1')).toBe('13 Mar');
    expect(longDay('2030-09-04')).toBe('4 Sep 2030');
    expect([shortDay('2031-04-17'), shortDay('2031-12-18', '2031'), shortDay('2030-12-18', '2031')]).toEqual([
      '17 Apr',
      '18 Dec',
      '18 Dec 30',
    ]);
  });
});

describe('how well a number is known', () => {
  it('is said where it exceeds half of the last digit', () => {
    expect(volDoubt(0.014)).toBe('±1.4');
    expect(volDoubt(0.0006)).toBe('±0.1');
    expect(volDoubt(0.0004)).toBe('');
    expect(doubt(0.03, 1)).toBe('');
    expect(doubt(0.03, 2)).toBe('±0.03');
    for (const nothing of [null, undefined, NaN, Infinity]) expect(volDoubt(nothing)).toBe('');
  });
});
