/**
 * Tables: what a table shows, as pure functions of what is loaded. The views only draw it.
 */
export {
  CHAIN_COLUMNS,
  CHAIN_SETS,
  chainRows,
  putColumns,
  STRIKE_WIDTH,
  type ChainColumnId,
  type ChainRow,
  type ChainSide,
  type Verdict,
} from './chain';
export { gapOf, nextSorting, sortedUniverse, UNIVERSE_COLUMNS, withPrices, type UniverseColumn } from './universe';
