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
export {
  evaluateGiven,
  usualDays,
  usualPrices,
  type DatedCurve,
  type Evaluation,
  type GivenLeg,
  type GivenOption,
  type GivenStructure,
  type GivenUnderlying,
  type ProfitPoint,
  type StructureGreeks,
} from './evaluate';
export { earlyAssignments, exercisedEarly, type EarlyAssignment } from './assignment';
export { eventVariances } from './around';
export type { BasisOdds, OddsBasis, PastDot } from './basis-odds';
export {
  curvesByVol,
  curvesOnMarket,
  gridOnMarket,
  reactionsOnMarket,
  type LegReactions,
  type GridCell,
  evaluateOnMarket,
  profileOnMarket,
  STRESS_FACTORS,
  STRESS_MOVES,
  type MarketEvaluation,
  type MarketLegValues,
  type ProfitCurveColumns,
  type Stress,
} from './market';
export { Deliveries, inOwnTerms, inTermsOf, inViewTerms, legInTermsOf, type Delivery } from './delivery';
export { fillContract, movedValues, type Fill, type MarketLeg, type MarketStructure } from './moved';
export {
  FIRST_GREEKS,
  makeColumns,
  MOVED_GREEKS,
  SECOND_GREEKS,
  type Depth,
  type MovedColumns,
  type MovedGreek,
  type MovedValues,
} from './columns';
export { MovedExpiry } from './moved-expiry';
export { pricesAround, thirds, USUAL_DEVIATION } from './usual';
export {
  DYNAMICS,
  LEAST_YEARS,
  unmoved,
  VOL_SCALES,
  type Dynamics,
  type EventVariance,
  type MarketAround,
  type Scenario,
  type VolScale,
} from './scenario';
export { tiedTo, type TiedPackage } from './tied';
export { TRADED_KINDS, tradedStructures, type TradedKind, type TradedLeg, type TradedStructure } from './traded';
export { halfOnTheWay, type OnTheWay } from './on-the-way';
export { outcomeOf, outcomeUnder, type Outcome } from './outcome';
export { profileOf, type Profile, type ProfitCurve, type ProfitReach, type ProfitStretch } from './profile';
export { payoffOf, profitAt, type Payoff, type PayoffLeg } from './payoff';
export { curvatureOf, deviationsAt, priceStructure, skewOf, type PricedLeg, type PricedStructure } from './price';
export {
  alongStrikes,
  gathered,
  middleOf,
  movedBy,
  nearestListed,
  rolled,
  scaled,
  split,
  withStrike,
} from './building';
export {
  PLACINGS,
  placeOnShelf,
  SHELF,
  sketchOf,
  USUAL_PLACINGS,
  type Placing,
  type PlacingKind,
  type ShelfName,
  type ShelfPlaced,
} from './shelf';
