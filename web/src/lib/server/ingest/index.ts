/**
 * Ingest: files into the database. cells → rows → records or whole snapshots → stored, and derived from.
 * May import the core, db and market.
 */
export { closeInterruptedImports, importFile, type ImportOptions, type ImportRecord } from './import';
export { FILE_KINDS, LAYOUTS, matchHeader, HeaderError, type FileKind } from './layouts';
export { rebuildDerived } from './store';
