/**
 * Workers: the typed boundary to the work off the page's thread. Arrays are transferred, not copied.
 */
export { prepareSnapshot, refitSnapshot, valueSnapshot } from './client';
export { snapshotOfAnswer, type FittedSlice, type LoadedSnapshot, type Summary, type ValuedSlice } from './snapshot';
