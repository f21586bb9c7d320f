/**
 * Structures: legs of one underlying as one; what they are worth and cost together, what they pay when they expire, and how
 * likely that is. Imports chain, contracts, distributions, models, odds and surface.
 */
export {
  missingLeg,
  oddsOfLegs,
  payoffLegs,
  payoffOfLegs,
  placeLeg,
  placeLegs,
  priceLegs,
  priceLegsOnCurve,
  type LegValues,
  type ListedSlice,
  type PlacedLeg,
} from './legs';
export { basisLevel, structureOdds, type StructureOdds } from './odds';
export { payoffOf, profitAt, type Payoff, type PayoffLeg } from './payoff';
export { deviationsAt, priceStructure, type PricedLeg, type PricedStructure } from './price';
