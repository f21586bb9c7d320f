/**
 * Market: reads what is held, as the core and the interface take it. May import the core and db.
 */
export { curvesAnswer, historyRows, SERIES, USUAL_SERIES, snapshotAnswer, summaryOf } from './answers';
export { dropScreen, keepScreen, listScreens } from './screens';
export { prepareUniverse, screen, screenFormula, type ScreenOrder, type ScreenRow } from './screen';
export { BAR_MINUTES, listIntradayBars } from './intraday';
export { contractPast, type NamedContract } from './contract-past';
export { listExpectedMoves, listOpenContracts } from './moves';
export { latestPrint, listTape } from './tape';
export { StructuresHub } from './structures-hub';
export { changeStructure, dropStructure, keepStructures, listStructures, restoreStructure } from './structures';
export { peersOf } from './peers';
export { conesAt, skewsAt } from './wall';
export { heldColumns, type HeldColumns } from './held';
export { universeAt, type UniverseRow } from './universe';
export { adjusted, barsKnownAt, bySession, HISTORICAL_VOLS, USUAL_VOL, volByBar, type Bar } from './history';
export {
  findAsof,
  findUnderlying,
  heldExpiry,
  isAnswering,
  listAsofs,
  listBars,
  listAdjustments,
  listCurves,
  listEvents,
  listMeasures,
  listUnderlyings,
  loadLatest,
  loadValued,
  type StoredSnapshot,
} from './queries';
export { listBorrowings, setBorrowing, withBorrowed } from './borrowings';
export { valued } from './valued';
export { prepareChains } from './warm';
export { HoldingsCounts, type Holdings } from './holdings';
export type { Underlying } from './terms';
export { fitRow, fittedSlices } from './rows';
