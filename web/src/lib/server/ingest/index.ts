/**
 * Ingest: files into the database. source → format → rows → records or whole snapshots → stored, and derived from.
 * May import the core, db and market.
 */
export {
  createImport,
  deriveImport,
  failImport,
  importFile,
  runImport,
  settingsOf,
  type ImportRecord,
  type ImportSettings,
} from './import';
export { readAs } from './conventions';
export { guarded, unguarded } from './guard';
export { KIND_PROPERTY } from './formats/ics';
export {
  FILE_KINDS,
  LAYOUTS,
  matchHeader,
  missingColumns,
  HeaderError,
  type FileKind,
  type Matching,
} from '../../layouts';
export { checkMatching, inspectFile, rememberMatching, type Inspected } from './formats';
export { diskSource, memorySource, partsOf, storeUpload, uploadSource, type FileSource } from './source';
export { ofOlderMethod, rebuildDerived, SessionsBefore, type DerivedSnapshot } from './derive';
export { finishSnapshot, type FinishedSnapshot } from './chain';
export { isImportRunning, lockFeed, lockSymbol } from './locks';
export { numbered, RECORD_KINDS, writeRecords, type WriteCounts } from './records';
export { storeSnapshots } from './store';
export { setExclusion, type ExclusionKey } from './exclusion';
export { deriveUndone, FEED, undoImport, UndoError } from './undo';
export { TableError } from './table';
