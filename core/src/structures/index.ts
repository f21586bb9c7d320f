/**
 * Structures: several contracts as one, what they are worth and cost together, and what they pay when they expire.
 * Imports distributions.
 */
export {
  deviationsAt,
  payoffOf,
  priceSpread,
  profitAt,
  type Payoff,
  type PayoffLeg,
  type PricedLeg,
  type PricedSpread,
} from './spread';
