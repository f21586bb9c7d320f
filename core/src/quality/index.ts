/**
 * Quality: which quotes and forwards cannot be meant, and how good an expiry is.
 * Imports implied and surface.
 */
export type { Aside, Verdict } from './aside';
export {
  brokenForwards,
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
