/** Hedge: what to trade so that an exposure is nothing. */
export { suggestHedges, type ListedAt } from './suggest';
export { neutralizeWhole, type WholeHedge } from './whole';
export {
  eachGreek,
  eachOf,
  HEDGE_GREEKS,
  MOST_WAYS,
  neutralize,
  UNDERLYING_ID,
  waysToChoose,
  type Hedge,
  type HedgeGreek,
  type HedgeGreeks,
  type HedgeInstrument,
  type HedgeQuantity,
  type HedgeRefused,
  type HedgeRequest,
  type HedgeStep,
} from './neutralize';
export {
  hedgedHistory,
  HEDGED_PARTS,
  type HedgeBy,
  type HedgedHistory,
  type HedgedParts,
  type HedgedPast,
  type HedgedStep,
  type HedgeRule,
  type HedgeWhen,
} from './history';
export type { PastContract } from './contract-then';
