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
export { diskSource, memorySource, storeUpload, uploadSource, type FileSource } from './source';
export { ofOlderMethod, rebuildDerived } from './derive';
export { setVerdict, type VerdictKey } from './verdict';
export { deriveUndone, undoImport, UndoError } from './undo';
export { TableError } from './table';
