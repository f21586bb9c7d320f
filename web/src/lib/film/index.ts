/**
 * Film: the curves of an underlying over its past, without their quotes, and what was usual in them. Imports the core, and
 * state for asking the API.
 */
export { usedExpiries, type CurveExpiry, type Frame, type KnownExpiry } from './frame';
export { BAND_DEVIATIONS, BAND_SHARES, type Band } from './past';
export { loadCurves } from './load';
export { listedPairOf, type PairPast, type PairPlace } from './pairs';
export { extentOf, forecastOf, hedgedOf, mapsOf, pairsOf, skewBandOf, termBandOf } from './client';
export { mapPositions, mapReach, mapTimes, type MapExpiry, type MapRequest } from './map';
