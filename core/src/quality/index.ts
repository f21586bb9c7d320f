/**
 * Quality: which quotes and forwards cannot be meant, and how good an expiry is.
 * Imports contracts, implied and surface.
 */
export type { Aside, Exclusion } from './aside';
export {
  DOUBTED_MEASURES,
  doubtfulMeasures,
  type Doubtful,
  type DoubtedMeasure,
  type SessionMeasures,
} from './doubtful';
export {
  brokenForwards,
  isStrange,
  commonYield,
  knownYields,
  offTerm,
  type JudgedForward,
  type JudgedTerm,
  type KnownYield,
} from './forwards';
export {
  QUALITY_WEIGHTS,
  qualityParts,
  qualityScore,
  underlyingParts,
  type QualityInput,
  type QualityParts,
} from './score';
