/**
 * Market: reads what is held, as the core and the interface take it. May import the core and db.
 */
export {
  chainAnswer,
  curvesAnswer,
  historyRows,
  SERIES,
  USUAL_SERIES,
  snapshotAnswer,
  summaryOf,
  surfaceAnswer,
} from './answers';
export { dropScreen, keepScreen, listScreens } from './screens';
export { screen, screenFormula, type ScreenRow } from './screen';
export { adjusted, barsKnownAt, HISTORICAL_VOLS, USUAL_VOL, volByBar, type Bar } from './history';
export {
  findAsof,
  findUnderlying,
  isAnswering,
  listAsofs,
  listBars,
  listAdjustments,
  listCurves,
  listEvents,
  listMeasures,
  listUnderlyings,
  loadValued,
  measuredAt,
  universeAt,
  type StoredSnapshot,
  type UniverseRow,
} from './queries';
export { listBorrowings, setBorrowing, withBorrowed } from './borrowings';
export { holdings, type Holdings } from './holdings';
export type { Underlying } from './terms';
export { fitRow } from './rows';
