import { slopePerTenDelta } from './delta';
import type { Curve } from './curve';
import { eventMove, expiriesApart, expiryBefore, stretchesOf } from './event-clock';
import { constantMaturityVol, forwardVol } from './term';

/** What is measured of an expiry's curve. Vols are decimals; NaN where there are none. */
export interface CurveMeasures {
  readonly atmVol: number;
  readonly riskReversal25: number;
  readonly butterfly25: number;
  readonly riskReversal10: number;
  readonly butterfly10: number;
}

/** An expiry whose term structure is measured, ascending in years. */
export interface MeasuredExpiry extends CurveMeasures {
  readonly years: number;
  readonly curve: Curve;
}

/** The same measures, with the slope at the forward, at one time. */
export interface TimedMeasures extends CurveMeasures {
  readonly years: number;
  /** Vol for ten points of delta up in strike. */
  readonly slope: number;
}

/** What an expiry says beside its neighbours. */
export interface TermMeasures {
  /** Vol from the expiry before to this one, from now to the first; NaN where its variance is negative. */
  readonly forwardVol: number;
  /** Vol of the stretch before it without what events carry. */
  readonly ambientVol: number;
  /** One deviation of each event of that stretch, as a share of the price; NaN without any. */
  readonly eventMove: number;
}

/** The measures of an expiry with its slope. */
export function timedMeasures(expiry: MeasuredExpiry): TimedMeasures {
  const { years, atmVol, riskReversal25, butterfly25, riskReversal10, butterfly10, curve } = expiry;
  return { years, atmVol, riskReversal25, butterfly25, riskReversal10, butterfly10, slope: slopePerTenDelta(curve) };
}

/**
 * Measures at a constant maturity: the vols of puts and calls at each delta and at the forward are interpolated, linear in
 * total variance, and the risk reversals and butterflies are made of these; the slope is linear in time. Flat outside the
 * expiries.
 *
 * @param expiries ascending in years
 */
export function maturityMeasures(expiries: readonly MeasuredExpiry[], years: number): TimedMeasures {
  // An expiry that has no such vol is passed over.
  const at = (vol: (one: MeasuredExpiry) => number) =>
    constantMaturityVol(
      expiries.map((one) => ({ years: one.years, vol: vol(one) })).filter((point) => Number.isFinite(point.vol)),
      years,
    );
  const atmVol = at((one) => one.atmVol);
  const wings = (reversal: 'riskReversal25' | 'riskReversal10', butterfly: 'butterfly25' | 'butterfly10') => {
    const call = at((one) => one.atmVol + one[butterfly] + 0.5 * one[reversal]);
    const put = at((one) => one.atmVol + one[butterfly] - 0.5 * one[reversal]);
    return { reversal: call - put, butterfly: 0.5 * (call + put) - atmVol };
  };
  const [near, far] = [wings('riskReversal25', 'butterfly25'), wings('riskReversal10', 'butterfly10')];
  return {
    years,
    atmVol,
    riskReversal25: near.reversal,
    butterfly25: near.butterfly,
    riskReversal10: far.reversal,
    butterfly10: far.butterfly,
    slope: slopeAt(expiries, years),
  };
}

function slopeAt(expiries: readonly MeasuredExpiry[], years: number): number {
  const after = expiries.findIndex((one) => one.years >= years);
  const far = expiries[after < 0 ? expiries.length - 1 : after];
  if (!far) return NaN;
  const near = after > 0 ? expiries[after - 1]! : far;
  if (near === far) return slopePerTenDelta(far.curve);
  const share = (years - near.years) / (far.years - near.years);
  const from = slopePerTenDelta(near.curve);
  return from + share * (slopePerTenDelta(far.curve) - from);
}

const pointOf = ({ years, atmVol }: Pick<MeasuredExpiry, 'years' | 'atmVol'>) => ({
  years,
  variance: atmVol * atmVol * years,
});

/**
 * Forward vols, ambient vols and event moves along the expiries.
 *
 * @param expiries ascending in years
 * @param events announcements, in years from now
 */
export function termMeasures(
  expiries: readonly Pick<MeasuredExpiry, 'years' | 'atmVol'>[],
  events: readonly number[],
): TermMeasures[] {
  const apart = expiriesApart(expiries);
  const stretches = stretchesOf(apart.map(pointOf), events);
  const stretchTo = (expiry: (typeof expiries)[number]) => {
    const own = apart.indexOf(expiry);
    if (own >= 0) return stretches[own]!;
    // One that comes within half a day of another stands in its place.
    const at = apart.findLastIndex(({ years }) => years <= expiry.years);
    return stretchesOf(apart.with(at, expiry).map(pointOf), events)[at]!;
  };
  return expiries.map((expiry, i) => {
    const { years, atmVol } = expiry;
    const near = expiries[expiryBefore(expiries, i)];
    const stretch = stretchTo(expiry);
    const far = { years, vol: atmVol };
    return {
      forwardVol: near ? forwardVol({ years: near.years, vol: near.atmVol }, far) : atmVol,
      ambientVol: Math.sqrt(stretch.ambient),
      eventMove: stretch.events.length > 0 ? eventMove(stretch) : NaN,
    };
  });
}
