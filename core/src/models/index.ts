/**
 * Models: theoretical prices and Greeks in the units of docs/conventions.md.
 * `european.ts` is the one lognormal kernel (batches and single contracts), `bachelier.ts` the normal
 * one, `contract.ts` dispatches by model id and adds the higher Greeks. `american.ts` prices early exercise from its
 * boundary (`boundary.ts`, on the tables of `collocation.ts`), `binomial.ts` in a tree, with cash dividends.
 * Imports distributions only.
 */
export { CALL, PUT, DAYS_PER_YEAR, MODEL_IDS, type ModelId, type Side } from './model';
export { priceEuropean, type EuropeanColumns, type FirstOrderColumns, makeFirstOrder } from './european';
export { priceContract, touchProbability, type Contract, type ContractValues } from './contract';
export { americanValues, earlyExercise, priceAmerican, type AmericanInput, type AmericanSetting } from './american';
export {
  binomialValues,
  DEFAULT_STEPS,
  MOST_STEPS,
  priceBinomial,
  type BinomialInput,
  type CashDividend,
} from './binomial';
export { bachelierUndiscounted } from './bachelier';
