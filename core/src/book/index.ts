/**
 * Book: what was traded as lots and money, what is held as values and Greeks in money, what scenarios would bring, and what brought a
 * change. Money of fills is exact (decimals), what markets say is double precision. Imports chain, contracts, implied, models, time,
 * structures and surface.
 */
export {
  cashOf,
  contractKey,
  positionAt,
  type ClosedBy,
  type Closing,
  type BookFill,
  type Flow,
  type LedgerFacts,
  type LedgerLeg,
  type Lot,
  type PositionState,
  type TermsChange,
} from './ledger';
export { interestOn, type Paid, type RateFrom } from './interest';
export { MarketAt, WORTH_BY, type HeldMarket, type Mark, type MarkGreeks, type WorthBy } from './market';
export {
  LIMITED,
  limitUses,
  RISK_LEVELS,
  RISK_SUMS,
  riskOf,
  riskTree,
  type HeldLeg,
  type Limit,
  type Limited,
  type LimitUse,
  type Numeraire,
  type RiskLevel,
  type RiskNode,
  type RiskSums,
} from './risk';
export {
  GRID_SCALES,
  scenarioGrid,
  volPerMove,
  worstOf,
  type Cells,
  type GridAxes,
  type GridLeg,
  type GridOf,
  type GridScale,
  type WorstCell,
} from './grid';
export {
  EXPLAINED_PARTS,
  explainContract,
  type Ended,
  type Explained,
  type ExplainedMethod,
  type ExplainedPart,
} from './explained';
export {
  addParts,
  legWorth,
  livedThrough,
  noParts,
  PROFIT_PARTS,
  sumParts,
  type LivedBy,
  type LivedMoment,
  type LivedParts,
  type LivedStretch,
  type ProfitPart,
  type ProfitParts,
} from './lived';
export { evensNow } from './evens';
