/**
 * Surface: the curve of an expiry, its fit, and what is read from one or several curves.
 * `fit.ts` chooses between raw SVI (`svi.ts`, least squares in `svi-fit.ts`, under constraints in `constrained.ts`), its
 * three-parameter form (`natural.ts`) and a mixture of lognormals (`mixture.ts`); `curve.ts` is what all of them answer.
 * Imports contracts, distributions, models and implied.
 */
export { levelledOff, BORROW_MAPS, PLAIN_BORROW, type BorrowMap, type BorrowTerms } from './borrowed';
export {
  borrowedCurve,
  CURVE_KINDS,
  curveAt,
  curveDensityFactor,
  curveSlope,
  curveVariance,
  curveVol,
  flatCurve,
  isArbitrageFree,
  lowestGap,
  naturalCurve,
  type Curve,
  type CurveKind,
} from './curve';
export { FEWEST_NATURAL, fitCurve, fitCurveTo, judged, type CurveFit } from './fit';
export { fitPoints, type CurvePoints, type FitPoints } from './points';
export type { VarianceAt } from './svi';
export { isCrossed, withoutCalendarArbitrage, type FittedCurve, type ShapedCurve } from './calendar';
export { CURVE_SHAPES, shapedLike, type CurveShape } from './shape';
export { curveUncertainty, pointMisses, type CurveUncertainty, type PointMiss } from './uncertainty';
export {
  callDelta,
  deltaSkew,
  leanOf,
  logMoneynessAtDelta,
  slopePerTenDelta,
  type DeltaSkew,
  type Lean,
} from './delta';
export { listedPair, PAIR_UNITS, pairOn, pairStrikes, type EquidistantPair, type PairUnit } from './pair';
export {
  maturityMeasures,
  termMeasures,
  timedMeasures,
  type CurveMeasures,
  type MeasuredExpiry,
  type TermMeasures,
  type TimedMeasures,
} from './measures';
export { quantileRows, reaches, standardizedVols } from './past';
export { constantMaturityVol, forwardVol, maturityShares, termState, type TermPoint, type TermState } from './term';
export { fitRawSvi, SVI_FIT, SVI_FIT_LENGTH, type VariancePoints } from './svi-fit';
export {
  eventMove,
  expiriesApart,
  expiryBefore,
  shareOf,
  stretchesOf,
  type Stretch,
  type VariancePoint,
} from './event-clock';
export { logCumulative, logDensity, surfaceAt, surfaceOf, surfaceVol, type Surface } from './surface';
export {
  GRID_AXES,
  GRID_QUANTITIES,
  surfaceGrid,
  termsAt,
  type GridAxis,
  type GridQuantity,
  type GridRequest,
  type GridTerms,
} from './grid';
export {
  publishedIndex,
  publishedStrip,
  STRIP_MARKS,
  stripVariance,
  varianceIndex,
  type PublishedQuotes,
  type PublishedStrip,
  type PublishedTerm,
  type Strip,
  type StripQuotes,
  type StripSide,
  type TimedStrip,
} from './variance-index';
export { fitGiven, surfacePoint, type CalendarFault, type GivenFit, type GivenSlice, type GivenSurface } from './given';
export { ARBITRAGE_KINDS, findArbitrage, type Arbitrage, type QuotedExpiry, type QuotedSide } from './arbitrage';
