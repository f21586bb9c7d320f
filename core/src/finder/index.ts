/**
 * Finder: every structure of some kinds on an underlying within limits, what is known of each, and their order by weights. Contracts
 * are solved once; structures add them up.
 * Imports chain, contracts, distributions, formula, models, odds, realized, structures and surface.
 */
export { FINDER_KINDS, type FinderKind, type LegLimits, type Range } from './kinds';
export { USUAL_MOST, type FinderAsked, type FinderMarket } from './market';
export { finderMarket, type KnownForFinder } from './known';
export { findCandidates, type Candidates } from './candidates';
export type { SolvedMarket } from './solved';
export { columnOf, kindAt, tableIn, type CandidateTable } from './table';
export { EDGES, MEASURE_KEYS, type EdgeName, type FinderMeasure } from './measures';
export { FINDER_MEASURES } from './measure-words';
export {
  bestOfNone,
  choose,
  histogramOf,
  isContradicted,
  Ranker,
  ranksOf,
  scatterOf,
  sharesOf,
  withinLimit,
  type Chosen,
  type Histogram,
  type MeasureLimit,
  type Pool,
  type Ranking,
  type Scatter,
  type Weight,
} from './rank';
export { foundOf, type Found, type FoundExpiry, type FoundOn } from './found';
export { settledSince, type TradedDay } from './settled';
export { BEST_PER, FoundRanking, type BestPer, type RankAsked, type RankedFound } from './ranking';
export { CANDIDATE_MEASURES, candidateFormula, withinFormula, type CandidateFormula } from './formulas';
export { isOptionLeg, legsOf, profitOf, type CandidateLeg, type FoundLeg, type FoundRow, type RowSketch } from './row';
