/**
 * Export: tables of the database as files of any format, in the layouts that an import takes; any other table too.
 * May import db, market and ingest.
 */
export { countRows, EXPORTS, exportTable, type ExportName, type ExportScope, type ExportTable } from './rows';
export { sentTable } from './sent';
export { CONTENT_TYPES, EXPORT_FORMATS, ExportError, writeTable, type ExportFormat } from './write';
