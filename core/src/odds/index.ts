/**
 * Odds: where the price may end (`law.ts`, by a vol, by a curve, by a sample of the past drawn in `bootstrap.ts`), what lies
 * between levels, expected moves and what became of them (`breaches.ts`), what a contract may be worth on the way
 * (`future.ts`), which strikes meet odds that are asked for (`target.ts`), why two answers differ (`differences.ts`), the hedge
 * of a sold straddle, and what open contracts are worth by settlement (`max-pain.ts`).
 * Imports contracts, distributions, models, surface and time.
 */
export { oddsAbove } from './odds-above';
export {
  countedLaw,
  curveLaw,
  lognormalLaw,
  oddsUnder,
  sampleLaw,
  shareUnder,
  zoneOdds,
  type Law,
  type Zone,
} from './law';
export {
  BLOCK,
  drawPaths,
  DRIFTS,
  FEWEST_STRETCHES,
  makeRandom,
  SAMPLINGS,
  sampleExit,
  sampleTouch,
  USUAL_PATHS,
  walkPaths,
  type Drift,
  type PastBars,
  type Sample,
  type SampleTerms,
  type Sampling,
  type WalkTerms,
} from './bootstrap';
export {
  deviationMove,
  STRADDLE_CHOICES,
  straddleShare,
  straddleUsed,
  type StraddleChoice,
  type StraddleQuote,
  type StraddleTerms,
  type StraddleUsed,
} from './expected-move';
export {
  countInside,
  expiryRecords,
  MOVE_MEASURES,
  expectedSteps,
  STEP_KINDS,
  type ExpiryRecord,
  type InsideCount,
  type KnownMove,
  type MoveMeasure,
  type MoveMoment,
  type ExpectedStep,
  type PriceAt,
  type StepKind,
} from './breaches';
export { futureOdds, moveToKeep, oddsWorth, priceAtValue, type FutureOdds, type FutureTerms } from './future';
export { fastestHedge, straddleHedge, type HedgePoint, type SoldStraddle } from './straddle-hedge';
export { CAUSES, oddsDifferences, type Cause, type Difference, type OddsAssumptions } from './differences';
export {
  annualized,
  creditSpread,
  ODDS_KINDS,
  targetStrike,
  type CreditSpread,
  type OddsKind,
  type TargetSide,
  type TargetStrike,
} from './target';
export { maxPain, type MaxPain, type OpenStrike, type PainPoint } from './max-pain';
