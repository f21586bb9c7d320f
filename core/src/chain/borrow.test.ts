import { describe, expect, it } from 'vitest';
import { curveVol, naturalCurve, PLAIN_BORROW, type Curve } from '../surface';
import { borrowFit, lenderOf } from './borrow';
import type { Borrowing, ExpiryFit } from './types';

const fit = (expiry: string, years: number, curve: Curve | null, forward = 4000): ExpiryFit =>
  ({ expiry, settlement: 'pm', years, forward, curve, expiryAside: null, rmse: 0.003, atmVol: NaN }) as ExpiryFit;
const curve = (years: number, rho = -0.5) => naturalCurve({ theta: 0.04 * years, rho, phi: 5 }, years, 4000);
const lenders = [fit('2031-04-17', 0.1, curve(0.1)), fit('2031-06-19', 0.3, curve(0.3, -0.7))];
const own = fit('2031-05-15', 0.17, curve(0.17, 0), 401);
const borrowing: Borrowing = { ...PLAIN_BORROW, source: 'MRX40', sourceExpiry: null };

describe('borrowing a curve', () => {
  it('from the nearest in time, or from the expiry that is named', () => {
    expect(lenderOf(lenders, 0.17, borrowing)!.expiry).toBe('2031-04-17');
    expect(lenderOf(lenders, 0.25, borrowing)!.expiry).toBe('2031-06-19');
    expect(lenderOf(lenders, 0.17, { sourceExpiry: '2031-06-19' })!.expiry).toBe('2031-06-19');
    expect(lenderOf(lenders, 0.17, { sourceExpiry: '2031-07-17' })).toBeNull();
  });

  it('not from one without a curve, that is set aside, or that borrows itself', () => {
    const borrowed = borrowFit(own, lenders, borrowing);
    expect(lenderOf([fit('2031-04-17', 0.1, null), borrowed], 0.17, borrowing)).toBeNull();
    expect(lenderOf([{ ...lenders[0]!, expiryAside: 'by-hand' }], 0.17, borrowing)).toBeNull();
  });

  it('takes its measures with it, and keeps how well the own curve met the quotes', () => {
    const borrowed = borrowFit(own, lenders, { ...borrowing, sourceExpiry: '2031-06-19', volShift: 0.01 });
    expect(borrowed.atmVol).toBeCloseTo(0.21, 12);
    expect(borrowed.riskReversal25).toBeLessThan(-0.01);
    expect(borrowed.deviationMove).toBeCloseTo(401 * 0.21 * Math.sqrt(0.17), 6);
    expect(borrowed.rmse).toBe(0.003);
    expect(borrowed.borrowed).toMatchObject({ source: 'MRX40', takenFrom: '2031-06-19', isArbitrageFree: true });
    expect(curveVol(borrowed.curve!, -0.1)).toBeCloseTo(curveVol(lenders[1]!.curve!, -0.1) + 0.01, 12);
  });

  it('moves with its source, and is its own where nobody lends', () => {
    const risen = lenders.map((one) => ({
      ...one,
      curve: naturalCurve({ theta: 0.09 * one.years, rho: 0, phi: 3 }, one.years, 4000),
    }));
    expect(borrowFit(own, risen, borrowing).atmVol).toBeCloseTo(0.3, 12);
    expect(borrowFit(own, [], borrowing)).toBe(own);
    const dead = { ...own, years: 0 };
    expect(borrowFit(dead, lenders, borrowing)).toBe(dead);
  });
});
