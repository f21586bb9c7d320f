/**
 * Realized: historical volatilities of bars, what they forecast, where a value stands in its own past, and what implied vols
 * were worth against them. Imports distributions.
 */
export { closeVol } from './close';
export { yangZhangVol, type BarColumns } from './yang-zhang';
export {
  adjustedBars,
  averageMove,
  barsNeeded,
  ESTIMATOR_CODES,
  ESTIMATORS,
  historicalVol,
  namedVol,
  sessionMove,
  VOL_WINDOWS,
  type Adjustment,
  type Estimator,
} from './estimators';
export {
  ewmaVol,
  fitGarch,
  fitHar,
  garchVol,
  harVol,
  logReturns,
  sessionVariances,
  type Garch,
  type Har,
} from './forecast';
export { forecastBy, VOL_MODELS, type VolModel } from './forecast-models';
export { CONE_SHARES, coneSlice, overlapFactor, type ConeSlice } from './cone';
export {
  premiumByRegime,
  premiumOf,
  premiumSessions,
  realizedAfter,
  REGIMES,
  regimeOf,
  type PremiumSession,
  type PremiumSummary,
  type Regime,
} from './premium';
export { eventStudies, type EventStudy, type StudyMoment } from './event-study';
export { changesOf, impliedBeta, togetherOf, type Together } from './together';
export { momentsOf, rankOf, zScoreOf, type Rank } from './rank';
export const SESSIONS_PER_YEAR = 252;
