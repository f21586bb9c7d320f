/**
 * Chain: the one place where the parts are put together. A snapshot of quotes becomes forwards, fits and
 * measures (`deriveSnapshot`), and prices, Greeks and odds under a vol basis (`valueSlice`).
 * Imports every other folder of the core but structures.
 */
export type { DividendPayment, MarketTerms, SideQuotes, SliceQuotes, Snapshot, WrittenOn } from './snapshot';
export { emptySide, sideOf, writtenOn } from './snapshot';
export { borrowFit, lenderOf, type BorrowedFrom, type Borrowing, type BorrowingFit } from './borrow';
export { expiryTerms } from './american';
export { cashDividends } from './forward';
export { deriveSlice, deriveSnapshot, METHOD_VERSION } from './derive';
export { EXPIRY_ASIDES, refitSlice } from './fit';
export type { PastExpiry, PastSession } from './forwards';
export { quotedStraddle, straddleQuotes } from './straddles';
export { impliedColumns, type SideVols } from './vols';
export type { SnapshotFit, SnapshotMeasures } from './derive';
export type { ExpiryAside, ExpiryFit, ForwardSource, SnapshotContext } from './fit';
export {
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
