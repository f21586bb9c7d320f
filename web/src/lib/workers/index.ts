/**
 * Workers: the typed boundary to the work off the page's thread. Arrays are transferred, not copied.
 */
export { lookAt, lookThrough, prepareSnapshot, refitSnapshot, valueSnapshot } from './client';
export type { QuotesLook } from './chain.worker';
export { contradictionsOf, quotedExpiries, type Contradictions } from './contradictions';
export { snapshotOfAnswer, type FittedSlice, type LoadedSnapshot, type Summary, type ValuedSlice } from './snapshot';
