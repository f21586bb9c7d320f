import { calendarById, type ExpiryFit } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { makeSnapshot } from '$lib/testing/snapshot';
import { surfaceAnswer } from './answers';
import { adjusted, barsKnownAt, bySession, volByBar } from './history';
import { fitOfRow, fitRow, measureRow, sliceOfRow, sliceRow } from './rows';
import { exclusionsAt, type Underlying } from './terms';

const calendar = calendarById('MRX');
const key = { symbol: 'TEST', asof: new Date('2031-03-13T16:45:00Z') };
const snapshot = makeSnapshot();

describe('rows of the database', () => {
  it('a slice and a fit come back as they were', () => {
    const [slice] = snapshot.slices;
    const { fit, ...quotes } = slice!;
    expect(sliceOfRow(sliceRow(key, quotes))).toEqual(quotes);
    expect(fitOfRow(fitRow(key, fit))).toEqual(fit);
  });
  it('what does not exist is null there, and NaN or nothing here', () => {
    const bare: ExpiryFit = { ...snapshot.slices[0]!.fit, curve: null, atmVol: NaN, rmse: NaN, forward: NaN };
    const row = fitRow(key, bare);
    expect([row.atmVol, row.rmse, row.forward, row.curveKind, row.curve]).toEqual([null, null, null, null, null]);
    expect(fitOfRow(row)).toEqual(bare);
    const measures = { ...snapshot.measures, iv7: NaN, frontExpiry: null } as never;
    expect(measureRow(key, measures)).toMatchObject({ iv7: null, frontExpiry: null, symbol: 'TEST' });
  });
});

describe('what was decided', () => {
  const said = (asof: number, decision: 'use' | 'aside', isLasting: boolean, strike: number | null = 100) => ({
    ...{ asof, decision, isLasting, strike, expiry: '2031-04-17', settlement: 'pm' as const },
    side: strike === null ? null : ('put' as const),
  });
  const of = (all: ReturnType<typeof said>[], asof: number) => exclusionsAt(all, asof).map(({ decision }) => decision);
  it('holds at its moment, and later where it lasts', () => {
    const all = [said(1, 'aside', true), said(2, 'aside', false, 95)];
    expect([0, 1, 2, 3].map((asof) => of(all, asof).length)).toEqual([0, 1, 2, 1]);
  });
  it('of one contract the latest counts; a whole expiry is another matter', () => {
    const all = [said(1, 'aside', true), said(2, 'use', false), said(3, 'use', true), said(3, 'aside', true, null)];
    expect([1, 2, 3, 4].map((asof) => of(all, asof))).toEqual([['aside'], ['use'], ['use', 'aside'], ['use', 'aside']]);
    expect(exclusionsAt(all, 9)[1]).toEqual({
      expiry: '2031-04-17',
      settlement: 'pm',
      strike: null,
      side: null,
      decision: 'aside',
    });
  });
});

describe('bars and moments', () => {
  const bars = ['2031-03-11', '2031-03-12', '2031-03-13'].map((date, i) => ({
    date,
    open: 10,
    high: 12,
    low: 9,
    close: 10 + i,
    volume: null,
  }));
  it('a bar is known once its session is over', () => {
    expect(barsKnownAt(bars, calendar, Date.parse('2031-03-13T16:45:00Z'))).toBe(2);
    expect(barsKnownAt(bars, calendar, Date.parse('2031-03-13T17:00:00Z'))).toBe(3);
    expect(barsKnownAt([], calendar, 0)).toBe(0);
  });
  it('a vol knows nothing of dividends', () => {
    const flat = bars.map((bar, i) => ({ ...bar, open: 10, high: 10, low: 10, close: i < 2 ? 10 : 9 }));
    const held = adjusted(flat, [{ exDate: bars[2]!.date, kind: 'cash', amount: 1 }]);
    expect(held.map(({ close }) => close)).toEqual([9, 9, 9]);
    expect(volByBar(held, 'hv2.close')[2]).toBe(0);
    expect(volByBar(flat, 'hv2.close')[2]).toBeGreaterThan(1);
    expect(() => volByBar(bars, 'hv2.magic')).toThrow('there is no historical vol hv2.magic');
  });
  it('estimators answer by bar', () => {
    // Returns ln 1.1 and ln(12/11): their deviation, n − 1, over two bars.
    const [a, b] = [Math.log(1.1), Math.log(12 / 11)];
    expect(volByBar(bars, 'hv2.close')[2]).toBeCloseTo((Math.abs(a - b) / Math.SQRT2) * Math.sqrt(252), 12);
    expect(volByBar(bars, 'hv2.yz')[2]).toBeGreaterThan(0);
    expect(volByBar(bars, 'hv60.yz')[2]).toBeNaN();
  });
  it('of a session the last moment counts', () => {
    const rows = ['2031-03-12T16:45:00Z', '2031-03-13T15:00:00Z', '2031-03-13T16:45:00Z'].map((text, i) => ({
      asof: new Date(text),
      value: i,
    }));
    expect(bySession(calendar, rows).map((row) => row.value)).toEqual([0, 2]);
  });
});

describe('the surface', () => {
  const underlying = { calendar: 'MRX', kind: 'index', exercise: 'european' } as Underlying;
  const fits = snapshot.slices.map((slice) => slice.fit);
  const stored = (own: ExpiryFit[]) => ({
    snapshot: { symbol: 'TEST', asof: snapshot.instant, price: 100, slices: snapshot.slices },
    fits: own,
    measures: { ...snapshot.measures, symbol: 'TEST', asof: key.asof, method: 1 } as never,
  });
  it('reports a calendar arbitrage and never hides it', () => {
    expect(surfaceAnswer(underlying, stored(fits), []).calendarArbitrage).toEqual([]);
    const inverted = fits.map((fit, i) => (i === 0 ? { ...fit, atmVol: 3 * fit.atmVol } : fit));
    const { calendarArbitrage, term } = surfaceAnswer(underlying, stored(inverted), []);
    expect(calendarArbitrage).toEqual([{ near: '2031-03-27', far: '2031-04-17' }]);
    expect(term[1]!.forwardVol).toBeNaN();
  });
  it('of two series of a day says which, and blames the expiry before both', () => {
    const [first, second] = fits as [ExpiryFit, ExpiryFit];
    const inverted = { ...first, atmVol: 3 * first.atmVol };
    const morning = { ...second, settlement: 'am' as const, years: second.years - 6.5 / (24 * 365) };
    const { calendarArbitrage, term } = surfaceAnswer(underlying, stored([inverted, morning, second]), []);
    expect(term.map(({ settlement }) => settlement)).toEqual(['pm', 'am', 'pm']);
    expect(calendarArbitrage).toEqual([
      { near: '2031-03-27', far: '2031-04-17am' },
      { near: '2031-03-27', far: '2031-04-17' },
    ]);
  });
  it('the points lie on the curve that they were quoted around', () => {
    for (const slice of surfaceAnswer(underlying, stored(fits), []).slices) {
      for (const point of slice.points) {
        expect(point.curveVol).toBeCloseTo(point.midVol, 3);
        expect(point.logMoneyness).toBeCloseTo(Math.log(point.strike / slice.forward), 12);
      }
    }
  });
});
