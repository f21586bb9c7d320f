/**
 * Chain: the one place where the parts are put together. A snapshot of quotes becomes forwards, fits and
 * measures (`deriveSnapshot`: forwards, fitting, exclusion, measures), and prices, Greeks and odds under a vol basis (`valueSlice`).
 * Imports every other folder of the core but structures.
 */
export { emptySide, sideOf, writtenOn } from './snapshot';
export { borrowFit, lenderOf, type BorrowingFit } from './borrow';
export { americanAt, expiryTerms } from './american';
export { ADJUSTED_KINDS, cashDividends } from './forward';
export { deriveSlice, deriveSnapshot, METHOD_VERSION } from './derive';
export { refitSlice } from './fitting';
export {
  CURVE_NUMBERS,
  FIT_NUMBERS,
  mapFields,
  MEASURE_NUMBERS,
  namesOf,
  orNaN,
  orNull,
  PAST_NUMBERS,
  pickFields,
  type CurveNumber,
  type MeasureNumber,
} from './fields';
export { quotedStraddle, straddleQuotes } from './straddles';
export { impliedColumns } from './vols';
export { ownPulls, type OwnPull } from './left-out';
export {
  EXPIRY_ASIDES,
  UNDERLYING_KINDS,
  type BorrowedFrom,
  type Borrowing,
  type DividendPayment,
  type ExpiryAside,
  type ExpiryFit,
  type ForwardSource,
  type MarketTerms,
  type PastExpiry,
  type PastSession,
  type SideQuotes,
  type SideVols,
  type SliceQuotes,
  type Snapshot,
  type SnapshotContext,
  type SnapshotFit,
  type SnapshotMeasures,
  type UnderlyingKind,
  type WrittenOn,
} from './types';
export {
  SIDE_VALUES,
  BASES,
  basisLaw,
  midsOf,
  valueContract,
  valueSlice,
  type Basis,
  type BasisChoice,
  type ContractView,
  type ManualVol,
  type SideKnown,
  type SideValues,
} from './value';
