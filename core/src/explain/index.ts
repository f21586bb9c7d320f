/**
 * Explain: what a contract's number is made of. Both sides with all that is read off them, an input from a target, what
 * a move of inputs explains, outputs along inputs, one contract in all models.
 * Imports distributions, models and implied.
 */
export { INPUTS, inputOf, isPricedOn, withInput, type Input } from './inputs';
export { breakEvenOdds, forwardOf, sideReading, type SideReading } from './reading';
export { solveInput, type SolveTarget, type Solved } from './solve';
export { explainMove, type Move, type MoveStep } from './move';
export { sweep, OUTPUTS, type Output, type SweepRequest } from './sweep';
export { comparable, type ComparedModel } from './compare';
