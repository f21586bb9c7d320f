/**
 * Export: tables of the database as files of any format, in the layouts that an import takes.
 * May import db, market and ingest.
 */
export { EXPORTS, exportTable, type ExportName, type ExportScope } from './rows';
export { CONTENT_TYPES, EXPORT_FORMATS, ExportError, writeTable, type ExportFormat } from './write';
