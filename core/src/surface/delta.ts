import { INV_SQRT_2PI, normalCdf } from '../distributions';
import { curveAt, curveVariance, curveVol, type Curve } from './curve';
import type { VarianceAt } from './svi';

/** Undiscounted delta of a call on the forward, N(d₁), at log-moneyness k on the curve. */
export function callDelta(curve: Curve, k: number): number {
  const deviation = curveVol(curve, k) * Math.sqrt(curve.years);
  return normalCdf(-k / deviation + 0.5 * deviation);
}

/** Of the width of the bracket, in deviations. */
const TOLERANCE = 1e-13;

/**
 * The log-moneyness at which the forward call delta takes a value. A put of delta −d is where the call
 * has 1 − d. False position with the Illinois rule (M. Dowell and P. Jarratt, "A modified regula falsi method",
 * 1971): the delta falls with the strike on a curve without arbitrage, so the root stays bracketed.
 *
 * @param delta between 0 and 1, both excluded
 */
export function logMoneynessAtDelta(curve: Curve, delta: number): number {
  const deviation = Math.sqrt(curveVariance(curve, 0));
  let lo = -1.5 * deviation;
  let hi = 1.5 * deviation;
  let atLo = callDelta(curve, lo) - delta;
  let atHi = callDelta(curve, hi) - delta;
  for (let i = 0; i < 60 && atLo < 0; i++) atLo = callDelta(curve, (lo *= 1.6)) - delta;
  for (let i = 0; i < 60 && atHi > 0; i++) atHi = callDelta(curve, (hi *= 1.6)) - delta;
  let side = 0;
  for (let i = 0; i < 200 && hi - lo > TOLERANCE * deviation; i++) {
    const next = (lo * atHi - hi * atLo) / (atHi - atLo);
    // Rounding may put it outside where both ends are as good as the root.
    if (!(next > lo && next < hi)) return Math.abs(atLo) < Math.abs(atHi) ? lo : hi;
    const at = callDelta(curve, next) - delta;
    if (at === 0) return next;
    if (at > 0) {
      lo = next;
      atLo = at;
      if (side > 0) atHi *= 0.5;
      side = 1;
    } else {
      hi = next;
      atHi = at;
      if (side < 0) atLo *= 0.5;
      side = -1;
    }
    if (Math.abs(at) < 1e-16) return next;
  }
  return 0.5 * (lo + hi);
}

/** Vols at a delta and the skew measures made of them, decimals. */
export interface DeltaSkew {
  callVol: number;
  putVol: number;
  /** σ(call d) − σ(put d). */
  riskReversal: number;
  /** (σ(call d) + σ(put d))/2 − σ(at the forward). */
  butterfly: number;
}

/** Risk reversal and butterfly of an expiry at a forward delta such as 0.25. */
export function deltaSkew(curve: Curve, delta: number): DeltaSkew {
  const callVol = curveVol(curve, logMoneynessAtDelta(curve, delta));
  const putVol = curveVol(curve, logMoneynessAtDelta(curve, 1 - delta));
  return {
    callVol,
    putVol,
    riskReversal: callVol - putVol,
    butterfly: 0.5 * (callVol + putVol) - curveVol(curve, 0),
  };
}

const AT_FORWARD: VarianceAt = { w: 0, slope: 0, curvature: 0 };
const TEN_DELTA = 0.1;

/**
 * Slope of the skew at the forward: how much the vol changes for ten points of forward call delta towards higher strikes.
 * Negative where puts are dear, as the risk reversal is. At k = 0, with s = √w and s′ = w′/(2s): dσ/dk = s′/√T and
 * dΔ/dk = φ(s/2)·(s′/2 − 1/s).
 *
 * @returns a decimal vol
 */
export function slopePerTenDelta(curve: Curve): number {
  const { w, slope } = curveAt(curve, 0, AT_FORWARD);
  const s = Math.sqrt(w);
  const rise = slope / (2 * s);
  const volByMoneyness = rise / Math.sqrt(curve.years);
  const deltaByMoneyness = INV_SQRT_2PI * Math.exp(-0.125 * w) * (0.5 * rise - 1 / s);
  return (-TEN_DELTA * volByMoneyness) / deltaByMoneyness;
}

export type Lean = 'put-rich' | 'call-rich' | 'even';

/** Which side of a skew is dear, by its risk reversal as a decimal; less than the limit leans to no side. */
export function leanOf(riskReversal: number, limit = 0.005): Lean {
  if (riskReversal < -limit) return 'put-rich';
  return riskReversal > limit ? 'call-rich' : 'even';
}
