import { forwardVol } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { Frame } from '$lib/film';
import { makeSnapshot } from '$lib/testing/snapshot';
import { sortedRows } from '$lib/tables';
import { MEASURE_ORDERS, measureRows, MEASURES, measuresSentence, measuresTable } from './measures';

const snapshot = makeSnapshot();
const fits = snapshot.slices.map(({ fit }) => fit);
const raised = fits.map((fit) => ({ ...fit, atmVol: fit.atmVol + (fit.expiry === '2031-04-17' ? 0.03 : 0.01) }));

describe('measures by expiry', () => {
  const rows = measureRows(fits, [], null, []);
  it('hold those of each fit, then those of fixed days between the first and the last', () => {
    expect(rows.map(({ name }) => name)).toEqual(['27 Mar', '17 Apr', '19 Jun', '30 days', '60 days', '90 days']);
    fits.forEach((fit, i) => {
      expect(rows[i]!.values).toMatchObject({
        atmVol: fit.atmVol,
        riskReversal10: fit.riskReversal10,
        forward: fit.forward,
      });
      expect(rows[i]!.values.slope).toBeLessThan(0);
    });
    expect(rows[3]!.values.atmVol).toBeCloseTo(snapshot.measures.iv30!, 12);
    expect(rows[3]!.values.riskReversal25).toBeCloseTo(snapshot.measures.riskReversal25!, 12);
    const [near, far] = [fits[0]!, fits[1]!].map(({ years, atmVol }) => ({ years, vol: atmVol }));
    expect(rows[1]!.values.forwardVol).toBeCloseTo(forwardVol(near!, far!), 12);
  });
  it('leave out what is set aside', () => {
    const aside = fits.map((fit, i) => (i === 0 ? { ...fit, expiryAside: 'by-hand' as const } : fit));
    expect(measureRows(aside, [], null, [])[0]!.name).toBe('17 Apr');
    expect(measureRows([], [], null, [])).toEqual([]);
  });
  it('stand beside those of the ghost, where it had the expiry', () => {
    const ghost = { expiries: raised.slice(0, 2), events: [] };
    const beside = measureRows(fits, [], ghost, []);
    expect(beside[1]!.before!.atmVol).toBeCloseTo(fits[1]!.atmVol + 0.03, 12);
    expect(beside[2]!.before).toBeNull();
    expect(measuresSentence(beside, '13 Feb').lead).toBe(
      'Since 13 Feb 17 Apr has moved most, by −3.0 points at the money;',
    );
    expect(measuresSentence(measureRows(fits, [], { expiries: [], events: [] }, []), '13 Feb').lead).toBe(
      'Nothing to compare.',
    );
  });
  it('name the announcement, and the steepest expiry without one', () => {
    expect(measuresSentence(rows, null).lead).toMatch(
      /^Steepest at the money is 27 Mar, −\d\.\d\d points for ten delta/,
    );
    const event = measureRows(raised, [fits[1]!.years - 0.01], null, []);
    expect(event[1]!.values.eventMove).toBeGreaterThan(0.01);
    expect(event[0]!.values.eventMove).toBeNaN();
    expect(measuresSentence(event, null).lead).toMatch(/^Before 17 Apr an announcement is worth ±\d\.\d %,/);
  });
  it('have lines of the same expiry over the sessions', () => {
    const frame = (expiries: typeof fits): Frame => ({
      symbol: 'TEST',
      asof: '',
      instant: 0,
      expiries: expiries.map((fit) => ({ ...fit, lowest: 1, highest: 2 })),
    });
    const [first, second] = measureRows(fits, [], null, [frame(raised), frame(fits.slice(1)), frame(fits)]);
    expect(first!.spark).toEqual([raised[0]!.atmVol, NaN, fits[0]!.atmVol]);
    expect(second!.spark).toEqual([raised[1]!.atmVol, fits[1]!.atmVol, fits[1]!.atmVol]);
  });
  it('are sorted by any of them, and become a file with those of the ghost', () => {
    const falling = sortedRows(rows, MEASURE_ORDERS, [{ id: 'forward', desc: true }]);
    expect(falling.slice(-3).every(({ values }) => Number.isNaN(values.forward))).toBe(true);
    const { columns, rows: cells } = measuresTable(rows, snapshot, 2);
    expect(columns.map(({ name }) => name).slice(7, 11)).toEqual([
      'atm_vol',
      'risk_reversal_25',
      'butterfly_25',
      'risk_reversal_10',
    ]);
    expect(columns).toHaveLength(7 + 2 * MEASURES.length);
    expect(cells[0]!.slice(1, 8)).toEqual([
      'TEST',
      '2031-03-27',
      'pm',
      fits[0]!.days,
      'put-rich',
      null,
      fits[0]!.atmVol,
    ]);
  });
});
