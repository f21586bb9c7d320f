/**
 * Realized: historical volatilities of bars, and where a value stands in its own past.
 * Imports nothing.
 */
export { closeVol } from './close';
export { yangZhangVol, type BarColumns } from './yang-zhang';
export { rankOf, type Rank } from './rank';
export { moveDensity, pastMoves, recentred } from './moves';
export const SESSIONS_PER_YEAR = 252;
