/**
 * Data: what is loaded of an underlying, what is in focus of it, and the typed boundary to the work off the page's thread, where
 * arrays are transferred and not copied. Imports the core, the API, and the types of the address.
 */
export {
  compareBases,
  drawSample,
  evaluateStructure,
  followContract,
  hedgeStraddle,
  lookAt,
  lookThrough,
  prepareSnapshot,
  refitSnapshot,
  valueSnapshot,
} from './client';
export { choiceOf, type PastTerms, type PricingTerms } from './pricing';
export type { CloseAhead, ComparedSide, ContractFuture, FutureRequest, StraddleHedge } from './odds';
export type { QuotesLook } from './chain.worker';
export { contradictionsOf, quotedExpiries, type Contradictions } from './contradictions';
export { snapshotOfAnswer, type FittedSlice, type LoadedSnapshot, type Summary, type ValuedSlice } from './snapshot';
export type { StructureAnswer, StructureRequest, ToldEvaluation } from './structure';
