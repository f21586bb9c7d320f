import { expiryAt, expiryName, parseExpiryName } from '../contracts';
import { deviationMove } from '../odds';
import { borrowedCurve, curveVol, deltaSkew, isArbitrageFree } from '../surface';
import type { CurveNumber } from './fields';
import type { Borrowing, ExpiryFit } from './types';

const NOWHERE = { expiry: '', settlement: null };

/** The expiry that lends: the one that is named, else the nearest in time; null where there is none with a curve of its own. */
export function lenderOf<T extends Pick<ExpiryFit, 'curve' | 'years' | 'expiry' | 'settlement' | 'expiryAside'>>(
  fits: readonly T[],
  years: number,
  { sourceExpiry }: Pick<Borrowing, 'sourceExpiry'>,
): T | null {
  const able = fits.filter(
    ({ curve, years: held, expiryAside }) => curve && curve.kind !== 'borrowed' && held > 0 && expiryAside === null,
  );
  if (sourceExpiry !== null) return able[expiryAt(able, parseExpiryName(sourceExpiry) ?? NOWHERE)] ?? null;
  let nearest = able[0] ?? null;
  for (const fit of able) if (Math.abs(fit.years - years) < Math.abs(nearest!.years - years)) nearest = fit;
  return nearest;
}

/** What of a fit depends on its curve, and what a curve is borrowed for. */
export type BorrowingFit = Pick<
  ExpiryFit,
  'expiry' | 'years' | 'forward' | 'curve' | CurveNumber | 'expiryAside' | 'borrowed'
>;

/**
 * A fit whose curve is borrowed, with the measures that depend on the curve; its errors stay those of its own curve. It is
 * not changed where nobody lends, or where it has no forward or no time left.
 *
 * @param lenders fits of the source at the same moment
 */
export function borrowFit<T extends BorrowingFit>(
  fit: T,
  lenders: readonly Pick<ExpiryFit, 'curve' | 'years' | 'expiry' | 'settlement' | 'expiryAside'>[],
  borrowing: Borrowing,
): T {
  const lender = lenderOf(lenders, fit.years, borrowing);
  if (!lender?.curve || !(fit.forward > 0) || !(fit.years > 0)) return fit;
  const curve = borrowedCurve(lender.curve, fit, borrowing);
  const [near, far] = [deltaSkew(curve, 0.25), deltaSkew(curve, 0.1)];
  const atmVol = curveVol(curve, 0);
  return {
    ...fit,
    curve,
    atmVol,
    riskReversal25: near.riskReversal,
    butterfly25: near.butterfly,
    riskReversal10: far.riskReversal,
    butterfly10: far.butterfly,
    deviationMove: deviationMove(fit.forward, atmVol, fit.years),
    borrowed: { ...borrowing, takenFrom: expiryName(lender), isArbitrageFree: isArbitrageFree(curve) },
  };
}
