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
 * Forward vol between two expiries, √((σ₂²T₂ − σ₁²T₁)/(T₂ − T₁)).
 *
 * @returns NaN when the forward variance is negative: a calendar arbitrage
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
