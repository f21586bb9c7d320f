/**
 * Quality: which quotes and forwards cannot be meant, and how good an expiry is.
 * Imports implied and surface.
 */
export { findAside, type Aside, type JudgedSide, type Verdict } from './aside';
export { brokenForwards, commonYield, knownYields, type JudgedForward, type KnownYield } from './forwards';
export {
  QUALITY_WEIGHTS,
  qualityParts,
  qualityScore,
  underlyingParts,
  type QualityInput,
  type QualityParts,
} from './score';
