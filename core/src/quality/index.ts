/**
 * Quality: which quotes and forwards cannot be meant, and how good an expiry is.
 * Imports implied and surface.
 */
export { brokenForwards, findAside, type Aside, type JudgedForward, type JudgedSide, type Verdict } from './aside';
export {
  QUALITY_WEIGHTS,
  qualityParts,
  qualityScore,
  underlyingParts,
  type QualityInput,
  type QualityParts,
} from './score';
