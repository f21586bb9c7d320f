/**
 * Implied: volatilities from prices, the forward from put–call parity, and the reasons why a quote has
 * no volatility.
 * Imports distributions and models.
 */
export { impliedDeviation, impliedVols } from './lognormal';
export { impliedVol, type ImpliedVolRequest } from './contract';
export { impliedAmericanVols, type SidePrices } from './expiry';
export { impliedNormalVol } from './normal';
export {
  combineForwards,
  heardStrikes,
  missScale,
  NEAREST_STRIKES,
  parityForward,
  parityStrikes,
  type CombinedForward,
  type ForwardEstimate,
  type ParityForward,
  type ParityQuotes,
  type ParityStrike,
} from './forward';
export {
  REASONS,
  quoteReason,
  reasonName,
  type ImpliedVolResult,
  type Reason,
  type ReasonCode,
  WIDE_SPREAD,
} from './reasons';
