import { normalCdf } from '../distributions';
import { curveVol, type Curve } from './curve';

/** Undiscounted delta of a call on the forward, N(d₁), at log-moneyness k on the curve. */
export function callDelta(curve: Curve, k: number): number {
  const deviation = curveVol(curve, k) * Math.sqrt(curve.years);
  return normalCdf(-k / deviation + 0.5 * deviation);
}

/**
 * The log-moneyness at which the forward call delta takes a value. A put of delta −d is where the call
 * has 1 − d. Bisection: the delta falls with the strike on a curve without arbitrage.
 *
 * @param delta between 0 and 1, both excluded
 */
export function logMoneynessAtDelta(curve: Curve, delta: number): number {
  const deviation = Math.sqrt(curve.theta);
  let lo = -1.5 * deviation;
  let hi = 1.5 * deviation;
  for (let i = 0; i < 60 && callDelta(curve, lo) < delta; i++) lo *= 1.6;
  for (let i = 0; i < 60 && callDelta(curve, hi) > delta; i++) hi *= 1.6;
  for (let i = 0; i < 100 && hi - lo > 1e-13 * deviation; i++) {
    const middle = 0.5 * (lo + hi);
    if (callDelta(curve, middle) > delta) lo = middle;
    else hi = middle;
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
