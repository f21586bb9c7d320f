/** A vol at a time to expiry. */
export interface TermPoint {
  readonly years: number;
  readonly vol: number;
}

/**
 * Constant-maturity vol: linear in total variance σ²T in time between the two expiries around the
 * maturity, flat in vol outside them.
 *
 * @param points ascending in years, vols finite
 * @param years the maturity
 * @returns NaN without points
 */
export function constantMaturityVol(points: readonly TermPoint[], years: number): number {
  if (points.length === 0) return NaN;
  if (years <= points[0]!.years) return points[0]!.vol;
  for (let i = 1; i < points.length; i++) {
    const far = points[i]!;
    if (years > far.years) continue;
    const near = points[i - 1]!;
    const nearVariance = near.vol * near.vol * near.years;
    const farVariance = far.vol * far.vol * far.years;
    const share = (years - near.years) / (far.years - near.years);
    return Math.sqrt((nearVariance + share * (farVariance - nearVariance)) / years);
  }
  return points[points.length - 1]!.vol;
}

/**
 * By how much the constant-maturity vol moves with the vol of each expiry: the derivatives of {@link constantMaturityVol}.
 *
 * @param points ascending in years
 */
export function maturityShares(points: readonly { years: number; atmVol: number }[], years: number): number[] {
  const last = points.length - 1;
  const after = points.findIndex((point) => point.years >= years);
  if (after <= 0) return points.map((_, i) => Number(i === (after === 0 ? 0 : last)));
  const [near, far] = [points[after - 1]!, points[after]!];
  const share = (years - near.years) / (far.years - near.years);
  const ends = [near, far].map(({ years: life, atmVol }) => ({ years: life, vol: atmVol }));
  const vol = constantMaturityVol(ends, years);
  const of = (point: typeof near, part: number) => (part * point.atmVol * point.years) / (vol * years);
  return points.map((_, i) => (i === after - 1 ? of(near, 1 - share) : i === after ? of(far, share) : 0));
}

/**
 * Forward vol between two expiries, √((σ₂²T₂ − σ₁²T₁)/(T₂ − T₁)).
 *
 * @returns NaN when the forward variance is negative: a calendar arbitrage
 * @example forwardVol({ years: 0.25, vol: 0.2 }, { years: 0.5, vol: 0.22 }) // 0.2383
 */
export function forwardVol(near: TermPoint, far: TermPoint): number {
  const variance = far.vol * far.vol * far.years - near.vol * near.vol * near.years;
  return Math.sqrt(variance / (far.years - near.years));
}

export type TermState = 'contango' | 'backwardation' | 'flat';

/** State of a term slope given as a decimal vol; the limit is half a vol point unless set otherwise. */
export function termState(slope: number, limit = 0.005): TermState {
  if (slope > limit) return 'contango';
  return slope < -limit ? 'backwardation' : 'flat';
}
