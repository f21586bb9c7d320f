import { describe, expect, it } from 'vitest';
import { calendarById, instantOf } from '../time';
import { deriveSnapshot, FIT_NUMBERS, mapFields, MEASURE_NUMBERS, namesOf, orNaN, orNull, type MarketTerms } from '.';
import { emptySide } from './snapshot';

const calendar = calendarById('MRX');
const terms: MarketTerms = {
  kind: 'index',
  exercise: 'european',
  calendar,
  rates: { days: [], rate: [] },
  dividends: [],
};
const missing = (one: object) =>
  Object.keys(one).filter((name) => Number.isNaN((one as Record<string, unknown>)[name]));

describe('numbers that need not exist', () => {
  const strike = Float64Array.of(90, 100);
  const slices = [{ expiry: '2031-05-15', settlement: 'pm' as const, strike, call: emptySide(2), put: emptySide(2) }];
  const asof = instantOf(calendar, '2031-03-13', '15:45');
  const { expiries, measures } = deriveSnapshot({ symbol: 'TEST', asof, price: NaN, slices }, terms);

  it('are all in the tables, where nothing is quoted', () => {
    expect(missing(expiries[0]!).length).toBeGreaterThan(8);
    expect(namesOf(FIT_NUMBERS)).toEqual(expect.arrayContaining(missing(expiries[0]!)));
    expect(missing(measures).length).toBeGreaterThan(8);
    expect(namesOf(MEASURE_NUMBERS)).toEqual(expect.arrayContaining(missing(measures)));
  });

  it('come back from where they are stored as they were', () => {
    const names = namesOf(FIT_NUMBERS);
    const stored = mapFields(expiries[0]!, names, orNull);
    expect(Object.values(stored)).not.toContain(NaN);
    expect(mapFields(stored, names, orNaN)).toEqual(mapFields(expiries[0]!, names, (value) => value));
  });
});
