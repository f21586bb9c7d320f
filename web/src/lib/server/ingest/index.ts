/**
 * Ingest: files into the database. source → format → rows → records or whole snapshots → stored, and derived from.
 * May import the core, db and market.
 */
export {
  createImport,
  failImport,
  importFile,
  runImport,
  settingsOf,
  type ImportRecord,
  type ImportSettings,
} from './import';
export { FILE_KINDS, LAYOUTS, matchHeader, HeaderError, type FileKind, type Matching } from './layouts';
export { inspectFile, type Inspected } from './formats';
export { diskSource, memorySource, storeUpload, uploadSource, type FileSource } from './source';
export { rebuildDerived } from './store';
export { TableError } from './table';
