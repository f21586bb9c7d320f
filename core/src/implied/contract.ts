import { isOnForward, pricingModel, underlyingOf, escrowOf, type Contract } from '../models';
import { impliedEarlyVol } from './early';
import { impliedDeviation } from './lognormal';
import { impliedNormalVol } from './normal';
import type { ImpliedVolResult } from './reasons';

export type ImpliedVolRequest = Omit<Contract, 'vol'> & { price: number };

const one = {
  forward: new Float64Array(1),
  strike: new Float64Array(1),
  price: new Float64Array(1),
  sign: new Float64Array(1),
  out: new Float64Array(1),
};

/**
 * Implied volatility of one discounted price under a model, or the reason why there is none.
 *
 * @throws RangeError when the price input that the model needs (`spot` or `forward`) is missing
 */
export function impliedVol(request: ImpliedVolRequest): ImpliedVolResult {
  if (!(request.years > 0)) return { reason: 'expired' };
  const pricing = pricingModel(request);
  if (pricing !== 'american' && pricing !== 'binomial') return impliedEuropeanVol(request);
  const european = impliedEuropeanVol({ ...request, model: 'black-scholes-merton' });
  return impliedEarlyVol(request, 'vol' in european ? european.vol : NaN);
}

function impliedEuropeanVol(request: ImpliedVolRequest): ImpliedVolResult {
  const { model, strike, years, rate, price } = request;
  const underlying = underlyingOf(request);
  const forward = isOnForward(model)
    ? underlying
    : (underlying - escrowOf(request)(0)) * Math.exp((rate - (request.yield ?? 0)) * years);
  const undiscounted = price * Math.exp(rate * years);
  const sign = request.side === 'call' ? 1 : -1;
  const gain = sign * (forward - strike);
  if (!(undiscounted > Math.max(gain, 0))) return { reason: 'below-intrinsic' };
  if (model === 'bachelier') {
    const vol = impliedNormalVol(undiscounted, gain, years);
    return Number.isFinite(vol) ? { vol } : { reason: 'above-maximum' };
  }
  if (!(undiscounted < (sign > 0 ? forward : strike))) return { reason: 'above-maximum' };
  one.forward[0] = forward;
  one.strike[0] = strike;
  one.price[0] = undiscounted;
  one.sign[0] = sign;
  impliedDeviation(one.forward, one.strike, one.price, one.sign, one.out, 1);
  const vol = one.out[0]! / Math.sqrt(years);
  // Between its bounds a price fails only when rounding has merged it with one of them.
  return Number.isFinite(vol) ? { vol } : { reason: gain > 0 ? 'below-intrinsic' : 'above-maximum' };
}
