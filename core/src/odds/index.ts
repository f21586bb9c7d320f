/**
 * Odds: the probabilities that a vol and its slope imply, and expected moves.
 * Imports distributions.
 */
export { oddsAbove } from './odds-above';
export { deviationMove, straddleMove, type StraddleQuote } from './expected-move';
