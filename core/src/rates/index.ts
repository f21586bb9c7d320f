/**
 * Rates: the continuously compounded rate and discount at any maturity of a currency's curve.
 * Imports nothing.
 */
export { rateAt, type RateCurve } from './curve';
