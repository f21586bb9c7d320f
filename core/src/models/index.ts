/**
 * Models: theoretical prices and Greeks in the units of docs/conventions.md.
 * `european.ts` is the one lognormal kernel (batches and single contracts), `normalized.ts` its price where small,
 * `bachelier.ts` the normal one; `american.ts` prices early exercise from its boundary (`boundary.ts`, on the tables of
 * `collocation.ts`), `binomial.ts` in a tree, `certain.ts` either without vol, `escrow.ts` takes cash dividends out of the
 * spot, `differences.ts` makes Greeks of what a method says of a moved contract, `look-inside.ts` shows
 * boundaries and trees, `touch.ts` says how likely levels are reached on the way. `contract.ts` dispatches by model id and adds the higher Greeks.
 * Imports contracts and distributions.
 */
export {
  CALL,
  PUT,
  DAYS_PER_YEAR,
  EXERCISES,
  MODEL_IDS,
  exerciseOf,
  isOnForward,
  underlyingOf,
  type CashDividend,
  type Contract,
  type Exercise,
  type ModelId,
  type SpotTerms,
} from './model';
export { dividendsOf, escrowOf } from './escrow';
export { makeEuropean, makeFirstOrder, priceEuropean, type EuropeanColumns, type FirstOrderColumns } from './european';
export { contractPrice, priceContract, pricingModel, type ContractValues } from './contract';
export { exitProbability, touchProbability } from './touch';
export {
  americanValues,
  earlyExercise,
  priceAmerican,
  priceAmericanContract,
  sheetTheta,
  type AmericanInput,
  type AmericanSetting,
} from './american';
export { certainPrice } from './certain';
export { americanExpiry, type AmericanExpiry, type ExpiryTerms } from './american-expiry';
export { binomialValues, DEFAULT_STEPS, MOST_STEPS, priceBinomial, type BinomialInput } from './binomial';
export { bachelierUndiscounted } from './bachelier';
export { lognormalUndiscounted, logRatio, outOfTheMoney, SMALL_T, tailDifference } from './normalized';
export { makeCollocation, type CollocationSize } from './collocation';
export { exerciseBoundary, smallTree, type BoundaryPoint, type SmallTree, type TreeNode } from './look-inside';
